import { parseTimeframe } from '../market/timeframe'
import { checkRule, mapTree, type Node, parse, print, spanless } from '../rules'
import { otherLevel, otherSide } from '../rules/otherSide'
import { type Plan, type Side } from './document'
import { type Open, type PlanPrice } from './entry'
import { type LeaveAt, type PlanExits, type PlanLevel, type Then } from './exits'
import { type Input } from './input'
import { withValues } from './inputs'

const OTHER_VIEW = { Up: 'Down', Down: 'Up', Neither: 'Neither' } as const
const OTHER_QUOTE = { bid: 'ask', ask: 'bid', mid: 'mid', last: 'last' } as const

type Inputs = readonly Pick<Input, 'name' | 'value'>[]

/**
 * A plan with its second side made from the first: condition, prices, levels and what leaves turned over, opening the other way.
 * What has no direction stays as it is, and so do gates. Undefined where the condition cannot be read, or nothing of it has
 * another side.
 */
export function withOtherSide(plan: Plan): Plan | undefined {
  const { inputs = [] } = plan
  const [first] = plan.sides
  if (!('open' in first.do)) return undefined
  const { tree, issues } = checkRule(withValues(first.if.rule, inputs).text, parseTimeframe(first.if.every)!)
  if (!tree || issues.length > 0 || otherSide(tree).changed.length === 0) return undefined
  const second: Side = {
    ...first,
    if: { ...first.if, rule: turnedRule(first.if.rule, inputs) },
    do: turnedOpen(first.do, inputs),
    then: turnedThen(first.then, inputs),
  }
  if (first.view) second.view = OTHER_VIEW[first.view]
  if (first.score) {
    const lines = first.score.lines.map((line) =>
      typeof line.from === 'object' ? { ...line, from: { rule: turnedRule(line.from.rule, inputs) } } : line,
    )
    second.score = { ...first.score, lines }
  }
  return { ...plan, sides: [first, second] }
}

/** Rule text turned over; names of inputs stay where their value does. Text that cannot be read stays as it is. */
function turned(text: string, inputs: Inputs, turn: (tree: Node) => Node): string {
  const { tree } = parse(text)
  if (!tree) return text
  const values = new Map(inputs.map(({ name, value }) => [name, parse(value).tree]))
  const withLiterals = mapTree(spanless(tree), (node) => {
    const literal = node.kind === 'name' ? values.get(node.name) : undefined
    return literal && node.kind === 'name' ? named(spanless(literal), node.name) : node
  })
  return print(
    mapTree(turn(withLiterals), (node) =>
      'named' in node ? { kind: 'name', name: node.named as string } : node,
    ),
  )
}

/** A value that remembers under which name it stands; where it is mirrored it has another value, and none. */
const named = (literal: Node, name: string): Node => Object.assign({ ...literal }, { named: name })

const turnedRule = (text: string, inputs: Inputs): string =>
  turned(text, inputs, (tree) => otherSide(tree).tree)
const turnedPrice = (text: string, inputs: Inputs): string => turned(text, inputs, otherLevel)

const less = (x: number): number => (x === 0 ? 0 : -x)

function turnedOpen(deed: Open, inputs: Inputs): Open {
  return {
    ...deed,
    open: deed.open === 'Long' ? 'Short' : 'Long',
    price: turnedPriceOf(deed.price, inputs),
  }
}

function turnedPriceOf(price: PlanPrice, inputs: Inputs): PlanPrice {
  if (price === 'market') return price
  if ('at' in price) {
    const percent = price.percent === undefined ? {} : { percent: less(price.percent) }
    return { ...price, at: OTHER_QUOTE[price.at], ticks: less(price.ticks), ...percent }
  }
  const moved = { ticks: less(price.ticks), percent: less(price.percent) }
  return 'limit' in price
    ? { limit: turnedPrice(price.limit, inputs), ...moved }
    : { stop: turnedPrice(price.stop, inputs), ...moved }
}

function turnedThen(then: Then, inputs: Inputs): Then {
  const { exits, leaveIf, moves, leave } = then
  return {
    ...then,
    ...(exits ? { exits: turnedExits(exits, inputs) } : {}),
    ...(leaveIf ? { leaveIf: turnedRule(leaveIf, inputs) } : {}),
    ...(moves
      ? {
          moves: moves.map((move) =>
            move.to === 'Fill' ? move : { ...move, to: { level: turnedPrice(move.to.level, inputs) } },
          ),
        }
      : {}),
    ...(leave ? { leave: turnedLeave(leave) } : {}),
  }
}

const turnedLeave = (leave: LeaveAt): LeaveAt => ({
  ...leave,
  at: OTHER_QUOTE[leave.at],
  ticks: less(leave.ticks),
})

function turnedExits(exits: PlanExits, inputs: Inputs): PlanExits {
  const level = (one: PlanLevel): PlanLevel =>
    'level' in one ? { ...one, level: turnedPrice(one.level, inputs) } : one
  const levels = <Of extends { stop?: PlanLevel; target?: PlanLevel }>(of: Of): Of => ({
    ...of,
    ...(of.stop ? { stop: level(of.stop) } : {}),
    ...(of.target ? { target: level(of.target) } : {}),
  })
  const whole = levels(exits)
  return exits.parts ? { ...whole, parts: exits.parts.map(levels) } : whole
}
