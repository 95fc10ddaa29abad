import { type BarTable, makeTable, sharedMemory } from '@/core/market/barTable'
import { isIntraday, type Timeframe, timeframeText } from '@/core/market/timeframe'
import { type Node, type Part, readsOf, type Reads } from '@/core/rules'
import { addBreadth, type Breadth, type BreadthCounts, finishBreadth } from '@/core/scan/breadth'
import { addHits, type HitCounts } from '@/core/scan/history'
import { type Pair } from '@/core/scan/pairs'
import { addPart, emptyPart, finishScan, type ScanPart, type ScanResult } from '@/core/scan/scan'
import { ownBars } from '@/store/own'
import { type Job, type JobPart, type On } from '@/workers/scan.protocol'
import { ABORTED, type JobOptions, type ScanPool } from '@/workers/scanPool'
import { extrasOf, type Frame, frameName, needsOwnBars, splitFrame, timeframeOf } from '../market/frames'
import { type AboutSecurities } from './about'
import { type FrameBars, type MarketBars } from './bars'
import { type Market, type Source } from './market'

/** Which rule, with which measures beside it, among whom; everyone in the data where left out. */
export interface ScanAsk {
  rule: Node
  measures: readonly Node[]
  among?: readonly string[]
}

type Progress = (done: number, of: number) => void

/** Bars that the workers hold under a name, and the row of each symbol. */
interface Given {
  bars: FrameBars | undefined
  version: string
  rowOf: Map<string, number>
}

const NOTHING_READ: Reads = readsOf([], { count: 1, unit: 'day' })

/** Scans of the market and of own data: brings the bars, gives them to the workers, and adds up what they find. */
export class Scans {
  private readonly given = new Map<string, Given>()
  /** Changes of what the workers hold go one after the other. */
  private last: Promise<unknown> = Promise.resolve()

  constructor(
    private readonly bars: MarketBars,
    private readonly pool: ScanPool,
    private readonly about: AboutSecurities,
  ) {}

  /**
   * Runs a scan; `absent` are those asked for that the data does not hold. `found` is told of what there is so far as
   * it comes, with how many are done; rows come while bars still do, where the rule asks for nothing else.
   */
  async run(
    market: Market,
    source: Source,
    ask: ScanAsk,
    found: (soFar: ScanResult, done: number, of: number) => void,
    signal?: AbortSignal,
  ): Promise<ScanResult & { absent: string[] }> {
    const reads = readsOf([ask.rule, ...ask.measures], everyOf(source))
    await this.tell(market, reads, source)
    let all: ScanPart | undefined
    const take = (part: ScanPart) => (all = addPart(all, part))
    const of = ask.among?.length ?? market.securities.length
    const looked = new Set<number>()
    const job = (on: On): Job & { ask: 'scan' } => ({
      ...{ ask: 'scan', ...on, rule: ask.rule, measures: ask.measures, by: source.asOf },
    })
    const early = async (on: On, from: number): Promise<void> => {
      const rows = this.rowsOf(on, ask.among).filter((row) => row >= from)
      for (const row of rows) looked.add(row)
      await this.pool.run(job(on), take, { rows, signal })
      if (all) found(finishScan(all), looked.size, of)
    }
    const alone = reads.symbols.length === 0 && reads.coarser.every((every) => !isIntraday(every))
    await this.with(market, source, reads, signal, alone ? early : undefined, async (on) => {
      const rows = this.rowsOf(on, ask.among).filter((row) => !looked.has(row))
      await this.pool.run(job(on), take, {
        rows,
        signal,
        progress: (done) => all && found(finishScan(all), looked.size + done, of),
      })
    })
    const { rowOf } = this.given.get(nameOf(source, reads, market))!
    const absent = ask.among?.filter((symbol) => !rowOf.has(symbol)) ?? []
    const result = finishScan(all ?? emptyPart([]))
    // Workers answer in no order: rows stand as the universe names them.
    const place = new Map((ask.among ?? [...rowOf.keys()]).map((symbol, i) => [symbol, i]))
    result.rows.sort((a, b) => place.get(a.symbol)! - place.get(b.symbol)!)
    return { ...result, absent }
  }

  async explain(
    market: Market,
    source: Source,
    ask: { rule: Node; symbol: string },
  ): Promise<Part | undefined> {
    const reads = readsOf([ask.rule], everyOf(source))
    await this.tell(market, reads, source)
    return this.with(market, source, reads, undefined, undefined, (on) =>
      this.pool.explain({ ...on, ...ask, by: source.asOf }),
    )
  }

  /** How everything that is listed, or all of a set of own data, moved together. */
  async breadth(market: Market, source: Source, among?: readonly string[]): Promise<Breadth> {
    let all: BreadthCounts | undefined
    await this.job(
      market,
      source,
      NOTHING_READ,
      among,
      (on) => ({ ask: 'breadth', ...on, by: source.asOf }),
      (part) => (all = addBreadth(all, part)),
    )
    return finishBreadth(all ?? { rows: new Map() })
  }

  /** Every time that a rule came true among securities, and what followed over so many bars. */
  async history(
    market: Market,
    source: Source,
    { rule, ahead, among }: { rule: Node; ahead: readonly number[]; among?: readonly string[] },
    progress: Progress,
    signal?: AbortSignal,
  ): Promise<HitCounts | undefined> {
    const reads = readsOf([rule], everyOf(source))
    await this.tell(market, reads, source)
    let all: HitCounts | undefined
    await this.job(
      market,
      source,
      reads,
      among,
      (on) => ({ ask: 'hits', ...on, rule, ahead, by: source.asOf }),
      (part) => (all = addHits(all, part)),
      { progress, signal },
    )
    return all
  }

  /** Pairs of a universe that move together at least so closely. */
  async pairs(
    market: Market,
    source: Source,
    { among, length, least }: { among: readonly string[]; length: number; least: number },
    progress: Progress,
    signal?: AbortSignal,
  ): Promise<Pair[]> {
    const out: Pair[] = []
    await this.job(
      market,
      source,
      NOTHING_READ,
      among,
      (on) => ({ ask: 'pairs', ...on, length, least, among: this.rowsOf(on, among), by: source.asOf }),
      (part) => out.push(...part),
      { progress, signal },
    )
    return out
  }

  /** Has the workers loaded before there is work for them. */
  warm(): void {
    this.pool.warm()
  }

  end(): void {
    this.pool.end()
  }

  private job<J extends Job>(
    market: Market,
    source: Source,
    reads: Reads,
    among: readonly string[] | undefined,
    make: (on: On) => J,
    part: (found: JobPart<J>) => void,
    options: JobOptions = {},
  ): Promise<void> {
    return this.with(market, source, reads, options.signal, undefined, (on) =>
      this.pool.run(make(on), part, { ...options, rows: this.rowsOf(on, among) }),
    )
  }

  /** Rows of the securities that are looked at; those that the data does not hold are passed over. */
  private rowsOf({ data }: On, among: readonly string[] | undefined): number[] {
    const { rowOf } = this.given.get(data)!
    return among ? among.flatMap((symbol) => rowOf.get(symbol) ?? []) : [...rowOf.values()]
  }

  private async tell(market: Market, reads: Reads, { version }: Source): Promise<void> {
    const about = await this.about.forRules(market, reads, version.slice(0, 10))
    if (!about) return
    await this.pool.tell(about).catch((error: unknown) => {
      this.about.forget()
      throw error
    })
  }

  /**
   * Sees to it that the workers hold what a job runs on, and does it; the bars are not written to meanwhile. `early`
   * is told of rows that are there already while others come: from which row on.
   */
  private async with<T>(
    market: Market,
    source: Source,
    reads: Reads,
    signal: AbortSignal | undefined,
    early: ((on: On, from: number) => Promise<void>) | undefined,
    work: (on: On) => Promise<T>,
  ): Promise<T> {
    const data = nameOf(source, reads, market)
    if (source.is === 'own') {
      await this.giveOwn(data, source)
      return work({ data })
    }
    let ahead: Promise<void> = Promise.resolve()
    const bars = await this.give(market, source, frameOf(source, reads, market), signal, (at, from) => {
      if (!early) return
      ahead = ahead.then(() => early({ data: at }, from))
      // Told below; one who gave up before does not hear of it.
      ahead.catch(() => undefined)
    })
    await ahead
    const others = await this.others(market, source, reads, signal)
    const takenAt = Date.parse(bars.asOf) || undefined
    const on = { data, others: others.map(([name]) => name), takenAt }
    return this.bars.holding([bars, ...others.map(([, of]) => of)], () => work(on))
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
    part?: (data: string, from: number) => void,
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
      taken = this.take(data, [table], more, undefined, '').then(({ from }) => part?.(data, from))
      taken.catch(() => undefined)
    }
    // Bars that are on their way come for all who ask, so one who gives up leaves them to come.
    const bars = await orGiveUp(this.bars.upToDate({ frame, symbols, version, indexOf }, coming), signal)
    await taken
    const given = this.given.get(data)
    const whole = come.length > 0 && come.length === bars.tables.length
    if (whole && given) Object.assign(given, { bars, version })
    else if (given?.bars !== bars) await this.take(data, bars.tables, false, bars, version)
    else given.version = version
    return bars
  }

  /** Gives the workers tables under a name; `from` is the first of their rows. */
  private take(
    data: string,
    tables: readonly BarTable[],
    more: boolean,
    bars: FrameBars | undefined,
    version: string,
  ): Promise<{ from: number }> {
    const job = this.last.then(async () => {
      const old = more ? this.given.get(data) : undefined
      const rowOf = old?.rowOf ?? new Map<string, number>()
      const from = rowOf.size
      for (const [k, table] of tables.entries()) {
        await this.pool.take(data, table, more || k > 0)
        for (const symbol of table.symbols) rowOf.set(symbol, rowOf.size)
      }
      this.given.set(data, { bars, version, rowOf })
      return { from }
    })
    this.last = job.catch(() => undefined)
    return job
  }

  private async giveOwn(data: string, { dataId, version }: Extract<Source, { is: 'own' }>): Promise<void> {
    if (this.given.get(data)?.version === version) return
    const table = makeTable(await ownBars(dataId), { asOf: '' }, sharedMemory)
    await this.take(data, [table], false, undefined, version)
  }
}

/** The timeframe that rules are read on; the finest for own data, whose length is not told here. */
const everyOf = (source: Source): Timeframe =>
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
