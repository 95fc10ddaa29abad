import { type Broker } from '@/client'
import { holdingsOf } from '@/core/book/holdings'
import { type Listed } from '@/core/engine/listed'
import { decodeBars } from '@/core/formats/barsBinary'
import { type Bars, completedBy, COUNTED, type ExtraName, QUOTED } from '@/core/market/bars'
import { type BarSet, openTable } from '@/core/market/barTable'
import { type QuotedName, withQuote } from '@/core/market/quotedBars'
import { isIntraday, type Timeframe, timeframeText } from '@/core/market/timeframe'
import { type ExecutionReport } from '@/core/orders/model'
import { unreadableText } from '@/core/plans/carriedBars'
import { type Plan } from '@/core/plans/document'
import { type Node, readsOf, type Reads } from '@/core/rules'
import { endOfDate } from '@/core/market/moments'
import { broughtSource, askedOfBroker } from '@/core/engine/brought'
import { barSource, type BarSource, type Besides } from '@/core/rules/exec/columns'
import { barsNeeded } from '@/core/rules/needs'
import { Unavailable } from './unavailable'

/** Bars that rule text is asked over at least, and at most where it does not ask for more by itself. */
const BARS = 400
const MOST_BARS = 2000

/** Bars that one answer of the broker may hold. */
const ONE_ANSWER = 1_000_000

/** What rule text may ask of besides the broker's bars. */
export interface SearchAbout {
  listed: Readonly<Record<string, Listed>>
  reports: readonly ExecutionReport[]
  /** What the plan carries. */
  plan: Pick<Plan, 'drawings' | 'figures' | 'bars'>
}

/** Which bars are wanted for which rule text. */
export interface Wanted {
  /** Securities that are looked at. */
  places: readonly string[]
  /** Whether those are all that are listed, or nearly: they are asked for without their names. */
  all: boolean
  every: Timeframe
  /** The bar that grows counts as well. */
  soFar: boolean
  /** Last date; now where left out. */
  asOf?: string
  /** Bars of each, where the text needs no more. */
  limit?: number
  trees: readonly Node[]
}

/** Bars of securities, which of them are looked at, and what else rule text may ask of each. */
export interface Gathered {
  set: BarSet
  rows: number[]
  others(symbol: string): Bars[]
  besides(symbol: string): Besides
}

/**
 * Brings from the broker all that rule text reads: bars, longer bars, quotes, figures of companies, what is held, and the securities
 * that it asks beside. Throws Unavailable for one that the broker does not list.
 */
export async function gatherBars(broker: Broker, wanted: Wanted, about: SearchAbout): Promise<Gathered> {
  const { listed } = about
  const { places, trees, every, soFar, asOf } = wanted
  const reads = readsOf(trees, every)
  const needed = Math.max(...trees.map((tree) => 2 * barsNeeded(tree)))
  const limit = Math.max(wanted.limit ?? 0, Math.min(MOST_BARS, Math.max(BARS, needed)))
  const asked = askedOfBroker(about.plan, reads.symbols)
  const missing = asked.find((name) => name !== 'index' && !listed[name])
  if (missing !== undefined) throw new Unavailable(unreadableText(missing))
  const besides = asked.flatMap((name) =>
    name === 'index' ? places.map((symbol) => listed[symbol].index ?? '') : [name],
  )
  const named = [...new Set([...places, ...besides])].filter((symbol) => listed[symbol])
  const bring = (frame: string, growing: boolean, extras: readonly ExtraName[] = []): Promise<BarSet> => {
    const terms = { limit, soFar: growing, prices: 'over-splits' as const, extras, to: asOf }
    // Everything is asked for by leaving the names out, where it fits: so many of them are no address.
    const whole = wanted.all && Object.keys(listed).length * limit <= ONE_ANSWER
    return barsOf(broker, frame, whole ? undefined : named, terms)
  }
  const reading = <Name extends ExtraName>(names: readonly Name[]) =>
    names.filter((name) => reads.columns.has(name))
  const [bars, ...others] = await Promise.all([
    bring(timeframeText(every), soFar, reading(COUNTED)),
    ...(needsDays(reads, every) ? [bring('1 day', false)] : []),
  ])
  // Quotes are of now: of a past day they are not known.
  const set = asOf ? bars : await withQuotes(broker, bars, reading(QUOTED), wanted.all ? undefined : named)
  return { set, rows: rowsOf(set, places), ...(await sourcesOf(broker, set, others, reads, wanted, about)) }
}

/** Names that one address holds. */
const NAMES = 200

/** Bars of securities in one set, asked for in as many answers as they take; of all that are listed where none is named. */
export async function barsOf(
  broker: Broker,
  every: string,
  symbols: readonly string[] | undefined,
  terms: Parameters<Broker['bars']>[1] & { limit: number },
): Promise<BarSet> {
  if (!symbols) return openTable(decodeBars(await broker.bars(every, terms)))
  const out: BarSet = { symbols: [], bars: [] }
  const atOnce = Math.max(1, Math.min(NAMES, Math.floor(ONE_ANSWER / terms.limit)))
  for (let i = 0; i < symbols.length; i += atOnce) {
    const some = { ...terms, symbols: symbols.slice(i, i + atOnce) }
    const one = openTable(decodeBars(await broker.bars(every, some)))
    out.symbols.push(...one.symbols)
    out.bars.push(...one.bars)
  }
  return out
}

/** Bars with the quotes of now, where rule text reads those. */
async function withQuotes(
  broker: Broker,
  { symbols, bars }: BarSet,
  names: readonly QuotedName[],
  asked: string[] | undefined,
): Promise<BarSet> {
  if (names.length === 0) return { symbols, bars }
  const quotes = new Map((await broker.quotes(asked)).map((one) => [one.symbol, one]))
  return { symbols, bars: bars.map((one, i) => withQuote(one, quotes.get(symbols[i]), names)) }
}

/** Days beside minutes, where rule text asks for days or longer bars: minutes do not reach back so far. */
const needsDays = ({ coarser }: Reads, every: Timeframe): boolean =>
  isIntraday(every) && coarser.some((one) => !isIntraday(one))

function rowsOf({ symbols }: BarSet, places: readonly string[]): number[] {
  const wanted = new Set(places)
  return symbols.flatMap((symbol, row) => (wanted.has(symbol) ? [row] : []))
}

/** What is known of each security besides its bars, and of those beside it. */
async function sourcesOf(
  broker: Broker,
  set: BarSet,
  others: readonly BarSet[],
  { sources }: Reads,
  { every: frame, asOf }: Wanted,
  { listed, reports: traded, plan }: SearchAbout,
) {
  const reports = sources.has('figures') ? await broker.reports() : {}
  const holdings = sources.has('position') ? holdingsOf(traded) : undefined
  const further = others.map((one) => new Map(one.symbols.map((symbol, row) => [symbol, one.bars[row]])))
  const othersOf = (symbol: string): Bars[] => further.flatMap((bars) => bars.get(symbol) ?? [])
  const known = (symbol: string): Besides => ({
    reports: plan.figures?.[symbol] ?? reports[symbol],
    drawings: plan.drawings?.[symbol],
    holdings: holdings && (holdings[symbol] ?? []),
    currency: listed[symbol]?.security.currency,
    increments: listed[symbol]?.security.increments,
  })
  const rowOf = new Map(set.symbols.map((symbol, row) => [symbol, row]))
  const made = new Map<string, BarSource | undefined>()
  const sourceOf = (symbol: string): BarSource | undefined => {
    if (!made.has(symbol)) {
      const row = rowOf.get(symbol)
      made.set(
        symbol,
        row === undefined ? undefined : barSource(set.bars[row], othersOf(symbol), known(symbol)),
      )
    }
    return made.get(symbol)
  }
  return {
    others: othersOf,
    besides: (symbol: string): Besides => ({
      ...known(symbol),
      beside: (name) =>
        broughtSource(plan, name, frame, untilDate(asOf)) ??
        sourceOf(name === 'index' ? (listed[symbol]?.index ?? '') : name),
    }),
  }
}

/** Bars of one's own up to the end of a date, which is one of their zone; all of them where none is said. */
const untilDate =
  (date: string | undefined) =>
  (bars: Bars): Bars =>
    date === undefined ? bars : completedBy(bars, endOfDate(date, bars.zone))
