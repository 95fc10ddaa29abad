import { type Broker } from '@/client'
import { holdingsOf } from '@/core/book/holdings'
import { type Listed } from '@/core/engine/listed'
import { decodeBars } from '@/core/formats/barsBinary'
import { type Bars, completedBy, COUNTED, type ExtraName, QUOTED } from '@/core/market/bars'
import { type BarSet, openTable } from '@/core/market/barTable'
import { type QuotedName, withQuote } from '@/core/market/quotedBars'
import { isIntraday, parseTimeframe } from '@/core/market/timeframe'
import { type ExecutionReport } from '@/core/orders/model'
import { unreadableText } from '@/core/plans/carriedBars'
import { type Plan } from '@/core/plans/document'
import { type Found, findNow, type FoundNow, treesOfFound } from '@/core/plans/found'
import { readsOf, type Reads } from '@/core/rules'
import { endOfDate } from '@/core/market/moments'
import { broughtSource, askedOfBroker } from '@/core/engine/brought'
import { barSource, type BarSource, type Besides } from '@/core/rules/exec/columns'
import { barsNeeded } from '@/core/rules/needs'

/** Bars that a search looks back on at least, and at most. */
const BARS = 400
const MOST_BARS = 2000

/** What rule text of a search may ask of besides the broker's bars. */
export interface SearchAbout {
  listed: Readonly<Record<string, Listed>>
  reports: readonly ExecutionReport[]
  /** What the plan carries. */
  plan: Pick<Plan, 'drawings' | 'figures' | 'bars'>
}

/** Runs a search over what the broker has now: all that its rule text reads is brought first, so that it finds what the scan finds. */
export async function searchNow(broker: Broker, found: Found, about: SearchAbout): Promise<FoundNow> {
  const { listed } = about
  const places = placesOf(found, listed)
  if (places.length === 0) return { symbols: [], left: [], unknown: 0, looked: 0 }
  const every = parseTimeframe(found.every)!
  const trees = treesOfFound(found)
  const reads = readsOf(trees, every)
  const limit = Math.min(MOST_BARS, Math.max(BARS, ...trees.map((tree) => 2 * barsNeeded(tree))))
  const asked = askedOfBroker(about.plan, reads.symbols)
  const missing = asked.find((name) => name !== 'index' && !listed[name])
  if (missing !== undefined) throw new Error(unreadableText(missing))
  const besides = asked.flatMap((name) =>
    name === 'index' ? places.map((symbol) => listed[symbol].index ?? '') : [name],
  )
  const named = [...new Set([...places, ...besides])].filter((symbol) => listed[symbol])
  // Everything is asked for by leaving the names out: so many of them are no address.
  const symbols = found.in === 'All' ? undefined : named
  const bring = async (frame: string, soFar: boolean, extras: readonly ExtraName[] = []): Promise<BarSet> => {
    const terms = { limit, soFar, prices: 'over-splits' as const, extras, to: found.asOf }
    return openTable(decodeBars(await broker.bars(frame, symbols ? { ...terms, symbols } : terms)))
  }
  const reading = <Name extends ExtraName>(names: readonly Name[]) =>
    names.filter((name) => reads.columns.has(name))
  const [bars, ...others] = await Promise.all([
    bring(found.every, found.soFar, reading(COUNTED)),
    ...(needsDays(reads, found) ? [bring('1 day', false)] : []),
  ])
  // Quotes are of now: of a past day they are not known.
  const set = found.asOf ? bars : await withQuotes(broker, bars, reading(QUOTED), symbols)
  const options = {
    rows: rowsOf(set, places),
    ...(await sourcesOf(broker, set, others, reads, found, about)),
  }
  return findNow(found, set, options)
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
const needsDays = ({ coarser }: Reads, { every }: Found): boolean =>
  isIntraday(parseTimeframe(every)!) && coarser.some((one) => !isIntraday(one))

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
  { every, asOf }: Found,
  { listed, reports: traded, plan }: SearchAbout,
) {
  const frame = parseTimeframe(every)!
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

/** Where a search looks, by symbol: an index and what cannot be ordered is no candidate. */
export function placesOf(
  { in: where }: Pick<Found, 'in'>,
  listed: Readonly<Record<string, Listed>>,
): string[] {
  if (where !== 'All' && 'list' in where)
    return where.list.filter((symbol) => listed[symbol]?.security.orderable)
  return Object.values(listed)
    .filter(({ security }) => security.orderable && !security.option)
    .filter(({ security }) => where === 'All' || security.indices.includes(where.index))
    .map(({ security }) => security.symbol)
}
