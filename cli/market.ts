import { type Broker } from '@/client'
import { writeCsv } from '../core/formats/csv'
import { type Bars } from '../core/market/bars'
import { type BarSet } from '../core/market/barTable'
import { stampOf, stamper } from '../core/market/moments'
import { type Adjustment } from '../core/market/adjust'
import { type Timeframe } from '../core/market/timeframe'
import { knownAccount, listedNow } from '../runner/connect'
import { placesOf } from '../runner/search'
import { barsOf, gatherBars } from '../runner/searchBars'
import { type Besides, type Node, readsOf } from '../core/rules'
import { amongOf } from './among'
import { EXIT, Failure } from './fail'
import { timeframe } from './timeframe'
import { connected, type TradingOptions } from './trading'

/** How bars of the broker's market are asked for, where no file is named. */
export interface MarketOptions extends TradingOptions {
  every?: string
  among?: string
  /** Bars of each security that are looked at, the last ones. */
  last?: number
  /** The bar that grows counts as well. */
  soFar?: boolean
  /** Date at whose end it stands. */
  asOf?: string
}

/** Securities of one timeframe, with a way from each to the others. */
export interface Group {
  every: Timeframe
  set: BarSet
  /** Rows of the set that are to be looked at; the others are there to be compared with. */
  rows: number[]
  /** Bars of further timeframes. */
  others?(symbol: string): readonly Bars[]
  besides(symbol: string): Besides
  /** A bar's date as people write it: the file's own text where the bars are as in the file. */
  dateOf(symbol: string, row: number): string
}

/** Bars of each where nothing else is said. */
const LAST = 2000
const DAILY = '1 day'

/** Fetches bars of the broker's market, of some securities or of all, with what a rule reads besides. Throws Failure. */
export async function marketGroup(
  options: MarketOptions,
  treesOf: (every: Timeframe) => Node[],
): Promise<Group> {
  const every = timeframe(options.every ?? DAILY)
  const trees = treesOf(every)
  const broker = await connected(options)
  const listed = await listedNow(broker)
  const { among, soFar = false, asOf, last = LAST } = options
  const named = among === undefined ? undefined : amongOf(among, new Set(Object.keys(listed)))
  const places = named ? [...named] : placesOf({ in: 'All' }, listed)
  if (places.length === 0) throw new Failure(`The broker has no bars of ${among ?? 'anything'}.`)
  const reports = readsOf(trees, every).sources.has('position')
    ? (await knownAccount(broker, [])).reports
    : []
  const wanted = { places, all: named === undefined, every, soFar, asOf, limit: last, trees }
  const { set, rows, others, besides } = await gatherBars(broker, wanted, { listed, reports, plan: {} })
  const rowOf = new Map(set.symbols.map((symbol, row) => [symbol, row]))
  return {
    ...{ every, set, rows, others, besides },
    dateOf(symbol, row) {
      const bars = set.bars[rowOf.get(symbol)!]
      return stampOf(every, bars.zone, bars.time[row])
    },
  }
}

export interface BarsOptions extends MarketOptions {
  from?: string
  to?: string
  prices?: Adjustment
}

/** Bars of each where no span is named, and the most that the broker gives of one at a time. */
const PRESET = 500
const MOST_AT_ONCE = 50_000
/** Securities that are written at once. */
const AT_ONCE = 20

/** Bars of the broker's market as CSV, a row a bar, which every command here reads. Prints as they come. Throws Failure. */
export async function bars(options: BarsOptions, print: (text: string) => void): Promise<string> {
  const { every = DAILY, among, from, to, last, prices = 'over-splits', soFar = false } = options
  if (from !== undefined && to !== undefined && from > to)
    throw new Failure(`--from ${from} is later than --to ${to}.`, EXIT.usage)
  timeframe(every)
  const broker = await connected(options)
  const listed = await listedNow(broker)
  const symbols =
    among === undefined ? placesOf({ in: 'All' }, listed) : [...amongOf(among, new Set(Object.keys(listed)))]
  const limit = last ?? (from === undefined ? PRESET : undefined)
  print(`symbol,date,open,high,low,close,volume\n`)
  for (let i = 0; i < symbols.length; i += AT_ONCE) {
    const span = { from, to, prices, soFar, limit }
    for (const [symbol, pages] of await spanOf(broker, every, symbols.slice(i, i + AT_ONCE), span))
      for (const page of pages) print(rowsOf(symbol, page))
  }
  return ''
}

type Span = Pick<BarsOptions, 'from' | 'to' | 'prices' | 'soFar'> & { limit?: number }

/** Bars of some securities over a span, oldest page first: one answer of the broker may not hold them all. */
async function spanOf(
  broker: Broker,
  every: string,
  symbols: readonly string[],
  { limit = Infinity, ...span }: Span,
): Promise<[symbol: string, pages: Bars[]][]> {
  const most = Math.min(limit, MOST_AT_ONCE)
  const set = await barsOf(broker, every, symbols, { ...span, limit: most })
  const out: [string, Bars[]][] = []
  for (const [at, symbol] of set.symbols.entries()) {
    const pages = [set.bars[at]]
    let left = limit - pages[0].time.length
    while (pages[0].time.length === MOST_AT_ONCE && left > 0) {
      const { zone, time } = pages[0]
      const before = { ...span, to: stampOf(pages[0].every, zone, time[0]), soFar: false }
      const {
        bars: [page],
      } = await barsOf(broker, every, [symbol], { ...before, limit: Math.min(left, MOST_AT_ONCE) })
      if (!page || page.time.length === 0) break
      left -= page.time.length
      pages.unshift(page)
    }
    out.push([symbol, pages])
  }
  return out
}

function rowsOf(symbol: string, { every, zone, time, ...of }: Bars): string {
  const stamp = stamper(every, zone)
  const rows = Array.from(time, (start, i) => [
    ...[symbol, stamp(start), of.open[i], of.high[i], of.low[i], of.close[i], of.volume[i]],
  ])
  return writeCsv([], rows, '\n')
}
