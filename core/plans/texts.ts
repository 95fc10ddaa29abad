import { type Adjustment } from '../market/adjust'
import { COUNTED, type ExtraName } from '../market/bars'
import { parseTimeframe, type Timeframe } from '../market/timeframe'
import { type Checked, checkMeasure, checkRule, type Node, readsOf, sayIssue, unitOf } from '../rules'
import { type Side } from './document'
import { type NetPrice, type PlanPrice } from './entry'
import { measuresOfLevels, measuresOfMoves, type Then } from './exits'

/** A piece of rule text in a side of a plan, followed bar by bar. */
export interface PlanText {
  clause: 'If' | 'Provided' | 'Do' | 'Then'
  text: string
  /** A rule, a price or a distance in the price's unit, or a plain number. */
  is: 'rule' | 'price' | 'number'
}

/** All rule text of a side that is asked of the bars of If; the condition is the first. */
export function textsOf(side: Side): PlanText[] {
  const { score, do: deed, then } = side
  const measures = (clause: PlanText['clause'], texts: readonly (string | undefined)[]) =>
    texts.flatMap((text): PlanText[] => (text === undefined ? [] : [{ clause, text, is: 'price' }]))
  return [
    { clause: 'If', text: side.if.rule, is: 'rule' },
    ...(score?.lines ?? []).flatMap(({ from }): PlanText[] =>
      typeof from === 'object' ? [{ clause: 'Provided', text: from.rule, is: 'rule' }] : [],
    ),
    ...('tell' in deed ? [] : measures('Do', [measureOfPrice(deed.price), sizeDistance(deed)])),
    ...('open' in deed && deed.mate ? [{ clause: 'Do', text: deed.mate.ratio, is: 'number' } as const] : []),
    ...measures('Then', measuresOfLevels(then)),
    ...(then.on ? [] : watchedTexts(then)),
  ]
}

/** Rule text that is asked while something is held. */
function watchedTexts(then: Then): PlanText[] {
  const levels = measuresOfMoves(then).map((text): PlanText => ({ clause: 'Then', text, is: 'price' }))
  return then.leaveIf ? [{ clause: 'Then', text: then.leaveIf, is: 'rule' }, ...levels] : levels
}

/** Rule text of a side that is asked of the same bars. */
export interface Reading {
  every: Timeframe
  texts: PlanText[]
}

/** All rule text of a side by the bars that it is asked of: those of If, and those that Then names, where it does. */
export function readingsOf(side: Side): Reading[] {
  const { then } = side
  const own = { every: everyOf(side), texts: textsOf(side) }
  const watched = then.on ? watchedTexts(then) : []
  return watched.length === 0
    ? [own]
    : [own, { every: parseTimeframe(then.on!.every ?? side.if.every)!, texts: watched }]
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
  const reads = readingsOf(side).map((one) => readsOf(treesIn(one).trees, one.every))
  return COUNTED.filter((name) => reads.some(({ columns }) => columns.has(name)))
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

/** The trees of the rule text that a side asks of the bars of If; see treesIn. */
export const treesOf = (side: Side): { trees: Node[]; place: Map<string, number> } =>
  treesIn({ every: everyOf(side), texts: textsOf(side) })

/** The trees of rule text, each text once, and where each lies. Throws RangeError for one that does not check. */
export function treesIn({ every, texts }: Reading): { trees: Node[]; place: Map<string, number> } {
  const place = new Map<string, number>()
  const trees: Node[] = []
  for (const one of texts) {
    if (place.has(one.text)) continue
    const { tree, issues } = checkText(one, every)
    if (issues.length > 0 || !tree) throw new RangeError(sayIssue(issues[0]))
    place.set(one.text, trees.push(tree) - 1)
  }
  return { trees, place }
}
