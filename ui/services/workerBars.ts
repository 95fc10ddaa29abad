import { type BarTable, makeTable, sharedMemory } from '@/core/market/barTable'
import { isIntraday, type Timeframe, timeframeText } from '@/core/market/timeframe'
import { readsOf, type Reads } from '@/core/rules'
import { ownBars } from '@/store/own'
import { type On } from '@/workers/scan.protocol'
import { ABORTED, type ScanPool } from '@/workers/scanPool'
import { extrasOf, type Frame, frameName, needsOwnBars, splitFrame, timeframeOf } from '../market/frames'
import { type FrameBars, type MarketBars } from './bars'
import { type Market, type Source } from './market'

/** Bars that the workers hold under a name, and the row of each symbol. */
interface Loaded {
  bars: FrameBars | undefined
  version: string
  rowOf: Map<string, number>
}

/** What no rule reads besides its bars. */
export const NOTHING_READ: Reads = readsOf([], { count: 1, unit: 'day' })

/** Sees to it that the workers hold the bars that jobs run on, and knows the row of each security there. */
export class WorkerBars {
  private readonly loaded = new Map<string, Loaded>()
  /** Changes of what the workers hold go one after the other. */
  private last: Promise<unknown> = Promise.resolve()

  constructor(
    private readonly bars: MarketBars,
    private readonly pool: ScanPool,
  ) {}

  /** The row of each security in what a source gives, once it was given. */
  rowsIn(source: Source, reads: Reads, market: Market): ReadonlyMap<string, number> {
    return this.loaded.get(nameOf(source, reads, market))!.rowOf
  }

  /** Rows of the securities that are looked at; those that the data does not hold are passed over. */
  rowsOf({ data }: On, among: readonly string[] | undefined): number[] {
    const { rowOf } = this.loaded.get(data)!
    return among ? among.flatMap((symbol) => rowOf.get(symbol) ?? []) : [...rowOf.values()]
  }

  /**
   * Sees to it that the workers hold what a job runs on, and does it; the bars are not written to meanwhile. `early`
   * is told of rows that are there already while others come: from which one up to, not with, which.
   */
  async with<T>(
    market: Market,
    source: Source,
    reads: Reads,
    signal: AbortSignal | undefined,
    early: ((on: On, from: number, to: number) => Promise<void>) | undefined,
    work: (on: On, bars: FrameBars | undefined) => Promise<T>,
  ): Promise<T> {
    const data = nameOf(source, reads, market)
    if (source.is === 'own') {
      await this.giveOwn(data, source)
      return work({ data }, undefined)
    }
    let ahead: Promise<void> = Promise.resolve()
    const bars = await this.give(market, source, frameOf(source, reads, market), signal, (at, from, to) => {
      if (!early) return
      ahead = ahead.then(() => early({ data: at }, from, to))
      // Told below; one who gave up before does not hear of it.
      ahead.catch(() => undefined)
    })
    await ahead
    const others = await this.others(market, source, reads, signal)
    const takenAt = Date.parse(bars.asOf) || undefined
    const on = { data, others: others.map(([name]) => name), takenAt }
    return this.bars.holding([bars, ...others.map(([, of]) => of)], () => work(on, bars))
  }

  /** Bars of further timeframes: days beside minutes, and finer ones where a rule asks for them. */
  private async others(
    market: Market,
    source: Extract<Source, { is: 'market' }>,
    reads: Reads,
    signal?: AbortSignal,
  ): Promise<[string, FrameBars][]> {
    const wanted = new Map<string, boolean>()
    if (isIntraday(everyOf(source)) && reads.coarser.some((every) => !isIntraday(every)))
      wanted.set('1 day', false)
    for (const every of reads.finer) wanted.set(timeframeText(every), source.frame.endsWith(' so far'))
    const out: [string, FrameBars][] = []
    for (const [every, soFar] of wanted) {
      const version = soFar ? source.version : source.version.split(' ').slice(0, 2).join(' ')
      const of = { ...source, frame: `${every}${soFar ? ' so far' : ''}`, version }
      const frame = frameOf(of, NOTHING_READ, market)
      out.push([frameName(frame), await this.give(market, of, frame, signal)])
    }
    return out
  }

  private async give(
    market: Market,
    source: Extract<Source, { is: 'market' }>,
    frame: Frame,
    signal?: AbortSignal,
    part?: (data: string, from: number, to: number) => void,
  ): Promise<FrameBars> {
    const data = frameName(frame)
    const symbols = market.securities.map((security) => security.symbol)
    const venueOf = new Map(market.securities.map(({ symbol, venue }) => [symbol, venue]))
    const indexOf = (symbol: string) => market.indices[venueOf.get(symbol) ?? '']
    const { version } = source
    // The first to ask hands the tables on as they come; those who ask meanwhile wait with it.
    const come: BarTable[] = []
    let taken: Promise<void> = Promise.resolve()
    const coming = (table: BarTable) => {
      come.push(table)
      const more = come.length > 1
      taken = this.take(data, [table], more, undefined, '').then(({ from, to }) => part?.(data, from, to))
      taken.catch(() => undefined)
    }
    // Bars that are on their way come for all who ask, so one who gives up leaves them to come.
    const bars = await orGiveUp(this.bars.upToDate({ frame, symbols, version, indexOf }, coming), signal)
    await taken
    const loaded = this.loaded.get(data)
    const whole = come.length > 0 && come.length === bars.tables.length
    if (whole && loaded) Object.assign(loaded, { bars, version })
    else if (loaded?.bars !== bars) await this.take(data, bars.tables, false, bars, version)
    else loaded.version = version
    return bars
  }

  /** Gives the workers tables under a name; `from` is the first of their rows, `to` the one after the last. */
  private take(
    data: string,
    tables: readonly BarTable[],
    more: boolean,
    bars: FrameBars | undefined,
    version: string,
  ): Promise<{ from: number; to: number }> {
    const job = this.last.then(async () => {
      const old = more ? this.loaded.get(data) : undefined
      const rowOf = old?.rowOf ?? new Map<string, number>()
      const from = rowOf.size
      for (const [k, table] of tables.entries()) {
        await this.pool.take(data, table, more || k > 0)
        for (const symbol of table.symbols) rowOf.set(symbol, rowOf.size)
      }
      this.loaded.set(data, { bars, version, rowOf })
      return { from, to: rowOf.size }
    })
    this.last = job.catch(() => undefined)
    return job
  }

  private async giveOwn(data: string, { dataId, version }: Extract<Source, { is: 'own' }>): Promise<void> {
    if (this.loaded.get(data)?.version === version) return
    const table = makeTable(await ownBars(dataId), { asOf: '' }, sharedMemory)
    await this.take(data, [table], false, undefined, version)
  }
}

/** The timeframe that rules are read on; the finest for own data, whose length is not told here. */
export const everyOf = (source: Source): Timeframe =>
  source.is === 'own' ? { count: 1, unit: 'min' } : timeframeOf(splitFrame(source.frame).every)

function frameOf(source: Extract<Source, { is: 'market' }>, reads: Reads, market: Market): Frame {
  const frame: Frame = { ...splitFrame(source.frame), extras: extrasOf(reads) }
  const past = source.asOf !== undefined && needsOwnBars(timeframeOf(frame.every), market.securities.length)
  return past ? { ...frame, to: source.asOf, soFar: false } : frame
}

/** Name under which the workers hold what a source gives. */
const nameOf = (source: Source, reads: Reads, market: Market): string =>
  source.is === 'own' ? `own ${source.dataId}` : frameName(frameOf(source, reads, market))

/** The same promise, but rejected at once when the signal is aborted. */
function orGiveUp<T>(promise: Promise<T>, signal: AbortSignal | undefined): Promise<T> {
  if (!signal) return promise
  return new Promise((resolve, reject) => {
    const giveUp = () => reject(new DOMException('The scan was called off', ABORTED))
    if (signal.aborted) giveUp()
    signal.addEventListener('abort', giveUp, { once: true })
    promise.then(resolve, reject)
  })
}
