import { parseTimeframe } from '../market/timeframe'
import { checkRule, print } from '../rules'
import { otherSide } from '../rules/otherSide'
import { type Plan } from './document'

const OTHER_VIEW = { Up: 'Down', Down: 'Up', Neither: 'Neither' } as const

/**
 * A plan with its second side made from the first: the condition turned over, opening the other way. What has no direction
 * stays as it is. Undefined where the condition cannot be read, or nothing of it has another side.
 */
export function withOtherSide(plan: Plan): Plan | undefined {
  const [first] = plan.sides
  if (!('open' in first.do)) return undefined
  const { tree, issues } = checkRule(first.if.rule, parseTimeframe(first.if.every)!)
  if (!tree || issues.length > 0) return undefined
  const turned = otherSide(tree)
  if (turned.changed.length === 0) return undefined
  const open = first.do.open === 'Long' ? 'Short' : 'Long'
  const second = {
    ...first,
    if: { ...first.if, rule: print(turned.tree) },
    do: { ...first.do, open },
    ...(first.view ? { view: OTHER_VIEW[first.view] } : {}),
  } as const
  return { ...plan, sides: [first, second] }
}
