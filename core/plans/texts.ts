import { type Adjustment } from '../market/adjust'
import { COUNTED, type ExtraName } from '../market/bars'
import { parseTimeframe, type Timeframe } from '../market/timeframe'
import { type Checked, checkMeasure, checkRule, type Node, readsOf, sayIssue, unitOf } from '../rules'
import { type Side } from './document'
import { type NetPrice, type PlanPrice } from './entry'
import { measuresOfLevels } from './exits'

/** A piece of rule text in a side of a plan, followed bar by bar. */
export interface PlanText {
  clause: 'If' | 'Provided' | 'Do' | 'Then'
  text: string
  /** A rule, a price or a distance in the price's unit, or a plain number. */
  is: 'rule' | 'price' | 'number'
}

/** All rule text of a side that is asked of bars; the condition is the first. */
export function textsOf({ if: { rule }, score, do: deed, then }: Side): PlanText[] {
  const measures = (clause: PlanText['clause'], texts: readonly (string | undefined)[]) =>
    texts.flatMap((text): PlanText[] => (text === undefined ? [] : [{ clause, text, is: 'price' }]))
  return [
    { clause: 'If', text: rule, is: 'rule' },
    ...(score?.lines ?? []).flatMap(({ from }): PlanText[] =>
      typeof from === 'object' ? [{ clause: 'Provided', text: from.rule, is: 'rule' }] : [],
    ),
    ...measures('Do', [measureOfPrice(deed.price), sizeDistance(deed)]),
    ...('open' in deed && deed.mate ? [{ clause: 'Do', text: deed.mate.ratio, is: 'number' } as const] : []),
    ...measures('Then', measuresOfLevels(then)),
    ...(then.leaveIf ? [{ clause: 'Then', text: then.leaveIf, is: 'rule' } as const] : []),
  ]
}

/** The measure that a price is told by; undefined where the market tells it. */
export const measureOfPrice = (price: PlanPrice | NetPrice): string | undefined =>
  price === 'market' || 'at' in price || 'net' in price
    ? undefined
    : 'limit' in price
      ? price.limit
      : price.stop

const sizeDistance = (deed: Side['do']): string | undefined =>
  !('open' in deed) || !('risk' in deed.size) ? undefined : deed.size.over

const PRICES = {
  AsTraded: 'as-traded',
  OverSplits: 'over-splits',
  OverSplitsAndDividends: 'over-splits-and-dividends',
} as const satisfies Record<string, Adjustment>

/** How the bars of a side are made comparable over splits and dividends. */
export const pricesOf = ({ if: { prices = 'OverSplits' } }: Pick<Side, 'if'>): Adjustment => PRICES[prices]

/** Counts of trades that the rule text of a side reads, which bars have besides. */
export function countsOf(side: Side): ExtraName[] {
  const { columns } = readsOf(treesOf(side).trees, everyOf(side))
  return COUNTED.filter((name) => columns.has(name))
}

/** The bars that a side is asked on. */
export const everyOf = ({ if: { every } }: Pick<Side, 'if'>): Timeframe => parseTimeframe(every)!

export function checkText({ text, is }: Pick<PlanText, 'text' | 'is'>, every: Timeframe): Checked {
  return is === 'rule' ? checkRule(text, every) : checkMeasure(text, every)
}

/** What is wrong with a piece of rule text, in words; undefined where it can be followed. */
export function wrongText(one: PlanText, every: Timeframe): string | undefined {
  const { tree, issues } = checkText(one, every)
  if (issues.length > 0 || !tree) return sayIssue(issues[0])
  if (one.is === 'rule') return undefined
  const unit = unitOf(tree, every)
  return unit === one.is ? undefined : `“${one.text}” is a ${unit}, and a ${one.is} is wanted here`
}

/** The trees of all rule text of a side, each text once, and where each lies. Throws RangeError for one that does not check. */
export function treesOf(side: Side): { trees: Node[]; place: Map<string, number> } {
  const place = new Map<string, number>()
  const trees: Node[] = []
  for (const one of textsOf(side)) {
    if (place.has(one.text)) continue
    const { tree, issues } = checkText(one, everyOf(side))
    if (issues.length > 0 || !tree) throw new RangeError(sayIssue(issues[0]))
    place.set(one.text, trees.push(tree) - 1)
  }
  return { trees, place }
}
