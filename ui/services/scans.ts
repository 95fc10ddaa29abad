import { isIntraday } from '@/core/market/timeframe'
import { type Node, type Part, readsOf, type Reads } from '@/core/rules'
import { addBreadth, type Breadth, type BreadthCounts, finishBreadth } from '@/core/scan/breadth'
import { addHits, type HitCounts } from '@/core/scan/history'
import { type Pair } from '@/core/scan/pairs'
import { addPart, emptyPart, finishScan, holeyIn, type ScanPart, type ScanResult } from '@/core/scan/scan'
import { type Job, type JobPart, type On } from '@/workers/scan.protocol'
import { type JobOptions, type ScanPool } from '@/workers/scanPool'
import { type AboutSecurities } from './about'
import { type MarketBars, setIn } from './bars'
import { type Market, type Source } from './market'
import { everyOf, NOTHING_READ, type Rows, rowsOf, WorkerBars } from './workerBars'

/** Which rule, with which measures beside it, among whom; everyone in the data where left out. */
export interface ScanAsk {
  rule: Node
  measures: readonly Node[]
  among?: readonly string[]
}

type Progress = (done: number, of: number) => void

/** Scans of the market and of own data: brings the bars, gives them to the workers, and adds up what they find. */
export class Scans {
  private readonly workerBars: WorkerBars

  constructor(
    bars: MarketBars,
    private readonly pool: ScanPool,
    private readonly about: AboutSecurities,
  ) {
    this.workerBars = new WorkerBars(bars, pool)
  }

  /**
   * Runs a scan; `absent` are those asked for that the data does not hold. `found` is told of what there is so far as
   * it comes, with how many are done; rows come while bars still do, where the rule asks for nothing else.
   */
  async run(
    market: Market,
    source: Source,
    ask: ScanAsk,
    found: (soFar: () => ScanResult, done: number, of: number) => void,
    signal?: AbortSignal,
  ): Promise<ScanResult & { absent: string[] }> {
    const reads = readsOf([ask.rule, ...ask.measures], everyOf(source))
    // What rules ask besides bars is brought while those are.
    const told = this.tellAbout(market, reads, source)
    told.catch(() => undefined)
    let all: ScanPart | undefined
    const take = (part: ScanPart) => (all = addPart(all, part))
    const of = ask.among?.length ?? market.securities.length
    const soFar = (): ScanResult => {
      const { rows, ...rest } = finishScan(all ?? emptyPart([]))
      return { ...rest, rows: [...rows] }
    }
    const tell = (done: number) => found(soFar, done, of)
    const looked = new Set<number>()
    const job = (on: On): Job & { ask: 'scan' } => ({
      ...{ ask: 'scan', ...on, rule: ask.rule, measures: ask.measures, by: source.asOf },
    })
    const early = async (here: Rows, from: number, to: number): Promise<void> => {
      const rows = rowsOf(here, ask.among).filter((row) => row >= from && row < to)
      for (const row of rows) looked.add(row)
      await told
      await this.pool.run(job(here.on), take, { rows, signal })
      tell(looked.size)
    }
    const asTheyCome = readsNothingElse(reads, source) ? early : undefined
    let holey: string[] | undefined
    let rowOf: ReadonlyMap<string, number> = new Map()
    await this.workerBars.with(market, source, reads, signal, asTheyCome, async (here, bars) => {
      rowOf = here.rowOf
      await told
      const rows = rowsOf(here, ask.among).filter((row) => !looked.has(row))
      await this.pool.run(job(here.on), take, {
        rows,
        signal,
        progress: (done) => tell(looked.size + done),
      })
      // Of rows that were looked at while others came, the fullest calendar was not known.
      if (bars && looked.size > 0 && source.asOf === undefined)
        holey = holeyIn(setIn(bars), rowsOf(here, ask.among))
    })
    const absent = ask.among?.filter((symbol) => !rowOf.has(symbol)) ?? []
    const result = finishScan(all ?? emptyPart([]))
    if (holey) result.holey = holey
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
    await this.tellAbout(market, reads, source)
    return this.workerBars.with(market, source, reads, undefined, undefined, ({ on }) =>
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
      ({ on }) => ({ ask: 'breadth', ...on, by: source.asOf }),
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
    await this.tellAbout(market, reads, source)
    let all: HitCounts | undefined
    await this.job(
      market,
      source,
      reads,
      among,
      ({ on }) => ({ ask: 'hits', ...on, rule, ahead, by: source.asOf }),
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
      (here) => ({
        ask: 'pairs',
        ...here.on,
        length,
        least,
        among: rowsOf(here, among),
        by: source.asOf,
      }),
      (part) => out.push(...part),
      { progress, signal },
    )
    return out
  }

  end(): void {
    this.pool.end()
  }

  private job<J extends Job>(
    market: Market,
    source: Source,
    reads: Reads,
    among: readonly string[] | undefined,
    make: (rows: Rows) => J,
    part: (found: JobPart<J>) => void,
    options: JobOptions = {},
  ): Promise<void> {
    return this.workerBars.with(market, source, reads, options.signal, undefined, (here) =>
      this.pool.run(make(here), part, { ...options, rows: rowsOf(here, among) }),
    )
  }

  private async tellAbout(market: Market, reads: Reads, { version }: Source): Promise<void> {
    const about = await this.about.forRules(market, reads, version.slice(0, 10))
    if (!about) return
    await this.pool.tell(about).catch((error: unknown) => {
      this.about.forget()
      throw error
    })
  }
}

/** Whether a rule can be asked of some securities before the bars of all, and of other lengths, are there. */
function readsNothingElse({ symbols, coarser, finer }: Reads, source: Source): boolean {
  const daysBesideMinutes = isIntraday(everyOf(source)) && coarser.some((every) => !isIntraday(every))
  return symbols.length === 0 && finer.length === 0 && !daysBesideMinutes
}
