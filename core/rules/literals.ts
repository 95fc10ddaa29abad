import { dayNumber } from '../market/figures'
import { roughMinutes, type Timeframe, timeframeText } from '../market/timeframe'
import { type Issue } from './issues'
import { nearest } from './near'
import { type Node, type Span } from './tree'
import { type FunctionWord } from './words/types'

/** What may be named in quotes, where that is known: securities, and drawings of the security in view. */
export interface Names {
  symbols?: ReadonlySet<string>
  drawn?: readonly string[]
  /** ISO 4217 currency of a security; undefined where it is not known. */
  currencyOf?(symbol: string): string | undefined
}

export const placeOf = (node: Node): Span => node.at ?? { from: 0, to: 0 }

/** What is wrong with an argument in quotes: a security, or a drawing; undefined where it is fine. */
export function wrongText(
  arg: Node,
  what: 'symbol' | 'drawn',
  { name, usage }: FunctionWord,
  { symbols, drawn }: Names,
): Issue | undefined {
  const at = placeOf(arg)
  if (arg.kind !== 'text') return { code: 'wants_text', name, usage, what, at }
  const { value } = arg
  if (what === 'drawn')
    return drawn && !drawn.includes(value)
      ? { code: 'unknown_drawing', drawing: value, names: [...drawn], at }
      : undefined
  if (!symbols || value === 'index' || symbols.has(value.toUpperCase())) return undefined
  const small = Array.from(symbols, (symbol) => symbol.toLowerCase())
  const near = nearest(value, small).map((symbol) => symbol.toUpperCase())
  return { code: 'unknown_symbol', symbol: value, near, at }
}

/** What is wrong with a date in quotes; undefined where it is one. */
export const wrongDate = (arg: Extract<Node, { kind: 'text' }>): Issue | undefined =>
  /^\d{4}-\d{2}-\d{2}$/.test(arg.value) && !Number.isNaN(dayNumber(arg.value))
    ? undefined
    : { code: 'bad_date', text: arg.value, at: placeOf(arg) }

/** What is wrong with a length of time on bars of `every`; undefined where it is fine. */
export function wrongDuration(
  arg: Node,
  wanted: 'duration' | 'bars' | 'timeframe',
  { name, usage }: FunctionWord,
  every: Timeframe,
): Issue | undefined {
  const at = placeOf(arg)
  if (arg.kind !== 'duration' || (wanted === 'bars' && arg.unit !== 'bar'))
    return { code: 'wants_duration', name, usage, barsOnly: wanted === 'bars', at }
  if (arg.unit === 'bar') return wanted === 'timeframe' ? { code: 'wants_timeframe', usage, at } : undefined
  const asked: Timeframe = { count: wanted === 'timeframe' ? arg.count : 1, unit: arg.unit }
  if (roughMinutes(asked) >= roughMinutes(every)) return undefined
  return { code: 'finer_than_bars', asked: timeframeText(asked), bars: timeframeText(every), at }
}
