import { COUNTED, type ExtraName, EXTRAS, QUOTED } from '@/core/market/bars'
import { isIntraday, parseTimeframe, type Timeframe } from '@/core/market/timeframe'
import { type Node, parse, readsOf, type Reads } from '@/core/rules'

/** Bars of the market that are kept together: a timeframe, whether the growing bar is among them, and more columns. */
export interface Frame {
  every: string
  soFar: boolean
  extras: ExtraName[]
  /** Last date, each security in its own zone; up to now where left out. */
  to?: string
}

/** "1 day so far" in its two parts. */
export function splitFrame(text: string): { every: string; soFar: boolean } {
  return { every: text.replace(/ so far$/, ''), soFar: text.endsWith(' so far') }
}

/** Name under which a frame is kept. */
export const frameName = ({ every, soFar, extras, to }: Frame): string =>
  [every, soFar ? 'so far' : '', extras.join('+'), to ? `to ${to}` : ''].filter(Boolean).join(' | ')

/** Rules and measures as trees; those that cannot be read are left out. */
export const treesOf = (texts: readonly string[]): Node[] => texts.flatMap((text) => parse(text).tree ?? [])

/** The columns besides the usual that rules and measures look at. */
export const extrasOf = ({ columns }: Pick<Reads, 'columns'>): ExtraName[] =>
  EXTRAS.filter((name) => columns.has(name))

/** The same of texts, on the finest bars there are, so that no timeframe in them is too fine. */
export const extrasIn = (texts: readonly string[]): ExtraName[] =>
  extrasOf(readsOf(treesOf(texts), { count: 1, unit: 'min' }))

/** Those of them that bars have for the past too; quotes there are of now only. */
export const countedIn = (texts: readonly string[]): ExtraName[] =>
  extrasIn(texts).filter((name) => (COUNTED as readonly string[]).includes(name))

/** What is to be said where the past of a rule is asked for that looks at quotes; empty where it does not. */
export function noPast(rule: string): string {
  const quoted = extrasIn([rule]).filter((name) => (QUOTED as readonly string[]).includes(name))
  return quoted.length === 0
    ? ''
    : `The rule looks at ${quoted.join(' and ')}: quotes of the past are not kept, so when it was true before cannot be said.`
}

/** How many bars of a timeframe a scan holds: all days there are, some weeks of minutes. */
export function barLimit(every: Timeframe, securities: number): number {
  if (!isIntraday(every)) return securities > 1_000 ? 504 : 2_000
  const minutes = every.count * (every.unit === 'hour' ? 60 : 1)
  return Math.max(60, Math.min(securities > 1_000 ? 130 : 520, Math.round((390 * 20) / minutes)))
}

/**
 * Whether a scan as of a past date needs bars of its own: those that are kept are the last ones, so that minutes of a
 * day some weeks ago, or days of years ago in a large market, are not among them.
 */
export const needsOwnBars = (every: Timeframe, securities: number): boolean =>
  isIntraday(every) || securities > 1_000

export const timeframeOf = (every: string): Timeframe => parseTimeframe(every) ?? { count: 1, unit: 'day' }
