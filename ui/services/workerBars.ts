import { type BarTable, makeTable, sharedMemory } from '@/core/market/barTable'
import { isIntraday, type Timeframe, timeframeText } from '@/core/market/timeframe'
import { readsOf, type Reads } from '@/core/rules'
import { ownBars } from '@/store/own'
import { type On } from '@/workers/scan.protocol'
import { ABORTED, type ScanPool } from '@/workers/scanPool'
import { extrasOf, type Frame, frameName, needsOwnBars, splitFrame, timeframeOf } from '../market/frames'
import { type FrameBars, type MarketBars } from './bars'
import { type Market, type Source } from './market'
import { type WorkerSet, WorkerSets } from './workerSets'

type MarketSource = Extract<Source, { is: 'market' }>

/** What a job runs on, and the row of each security in it. */
export interface Rows {
  on: On
  rowOf: ReadonlyMap<string, number>
}

/** Told of rows of a set as they come: from which one up to, not with, which. */
type Part = (set: WorkerSet, from: number, to: number) => void

/** Rows of the securities that are looked at; those that the data does not hold are passed over. */
export const rowsOf = ({ rowOf }: Rows, among: readonly string[] | undefined): number[] =>
  among ? among.flatMap((symbol) => rowOf.get(symbol) ?? []) : [...rowOf.values()]

/** For how long tables are collected before workers are given them, in real milliseconds; the first is not kept back. */
const TOGETHER = 200

/** What no rule reads besides its bars. */
export const NOTHING_READ: Reads = readsOf([], { count: 1, unit: 'day' })

/** Sees to it that the workers hold the bars that jobs run on. */
export class WorkerBars {
  private readonly sets: WorkerSets

  constructor(
    private readonly bars: MarketBars,
    pool: ScanPool,
  ) {
    this.sets = new WorkerSets(pool)
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
    early: ((rows: Rows, from: number, to: number) => Promise<void>) | undefined,
    work: (rows: Rows, bars: FrameBars | undefined) => Promise<T>,
  ): Promise<T> {
    const used: WorkerSet[] = []
    try {
      if (source.is === 'own') {
        used.push(await this.own(source))
        return await work({ on: { data: used[0].data }, rowOf: used[0].rowOf }, undefined)
      }
      let ahead: Promise<void> = Promise.resolve()
      const part: Part = ({ data, rowOf }, from, to) => {
        if (!early) return
        ahead = ahead.then(() => early({ on: { data }, rowOf }, from, to))
        // Told below; one who gave up before does not hear of it.
        ahead.catch(() => undefined)
      }
      used.push(await this.give(market, source, frameOf(source, reads, market), signal, part))
      await ahead
      for (const [of, frame] of others(market, source, reads))
        used.push(await this.give(market, of, frame, signal))
      const [{ data, rowOf, bars }, ...further] = used
      const takenAt = Date.parse(bars!.asOf) || undefined
      const on = { data, others: further.map((set) => set.data), takenAt }
      const held = used.map((set) => set.bars!)
      return await this.bars.holding(held, () => work({ on, rowOf }, bars))
    } finally {
      for (const set of used) this.sets.leave(set)
    }
  }

  private give(
    market: Market,
    source: MarketSource,
    frame: Frame,
    signal?: AbortSignal,
    part?: Part,
  ): Promise<WorkerSet> {
    return this.sets.inTurn(frameName(frame), () =>
      this.bring(market, source.version, frame, signal, part ?? (() => undefined)),
    )
  }

  private async bring(
    market: Market,
    version: string,
    frame: Frame,
    signal: AbortSignal | undefined,
    part: Part,
  ): Promise<WorkerSet> {
    const { sets } = this
    const name = frameName(frame)
    const symbols = market.securities.map((security) => security.symbol)
    const venueOf = new Map(market.securities.map(({ symbol, venue }) => [symbol, venue]))
    const indexOf = (symbol: string) => market.indices[venueOf.get(symbol) ?? '']
    // Tables are handed on as they come, several at once where they come quickly; those that are on their way for
    // somebody else, once all are there.
    const coming = sets.fresh(name)
    let come = 0
    let handedOn = 0
    let waiting: BarTable[] = []
    let taken: Promise<void> = Promise.resolve()
    const handOn = () => {
      const from = coming.rowOf.size
      const given = sets.take(coming, waiting)
      const to = coming.rowOf.size
      ;[waiting, handedOn] = [[], Date.now()]
      taken = taken.then(() => given).then(() => part(coming, from, to))
      taken.catch(() => undefined)
    }
    const onTable = (table: BarTable) => {
      if (coming.replaced) return
      come++
      waiting.push(table)
      if (Date.now() - handedOn >= TOGETHER) handOn()
    }
    try {
      // Bars that are on their way come for all who ask, so one who gives up leaves them to come.
      const bars = await orGiveUp(this.bars.upToDate({ frame, symbols, version, indexOf }, onTable), signal)
      if (waiting.length > 0) handOn()
      await taken
      if (come === bars.tables.length) return sets.stand(name, coming, bars, version)
      sets.drop(coming)
      const standing = sets.at(name)
      if (standing?.bars === bars) return sets.use(Object.assign(standing, { version }))
      const whole = sets.fresh(name)
      await sets.take(whole, bars.tables)
      return sets.stand(name, whole, bars, version)
    } catch (error) {
      sets.drop(coming)
      throw error
    }
  }

  private own({ dataId, version }: Extract<Source, { is: 'own' }>): Promise<WorkerSet> {
    const { sets } = this
    const name = `own ${dataId}`
    return sets.inTurn(name, async () => {
      const standing = sets.at(name)
      if (standing?.version === version) return sets.use(standing)
      const set = sets.fresh(name)
      await sets.take(set, [makeTable(await ownBars(dataId), { asOf: '' }, sharedMemory)])
      return sets.stand(name, set, undefined, version)
    })
  }
}

/** Bars of further timeframes: days beside minutes, and finer ones where a rule asks for them. */
function others(market: Market, source: MarketSource, reads: Reads): [MarketSource, Frame][] {
  const wanted = new Map<string, boolean>()
  if (isIntraday(everyOf(source)) && reads.coarser.some((every) => !isIntraday(every)))
    wanted.set('1 day', false)
  for (const every of reads.finer) wanted.set(timeframeText(every), source.frame.endsWith(' so far'))
  return Array.from(wanted, ([every, soFar]) => {
    const version = soFar ? source.version : source.version.split(' ').slice(0, 2).join(' ')
    const of = { ...source, frame: `${every}${soFar ? ' so far' : ''}`, version }
    return [of, frameOf(of, NOTHING_READ, market)]
  })
}

/** The timeframe that rules are read on; the finest for own data, whose length is not told here. */
export const everyOf = (source: Source): Timeframe =>
  source.is === 'own' ? { count: 1, unit: 'min' } : timeframeOf(splitFrame(source.frame).every)

function frameOf(source: MarketSource, reads: Reads, market: Market): Frame {
  const frame: Frame = { ...splitFrame(source.frame), extras: extrasOf(reads) }
  const past = source.asOf !== undefined && needsOwnBars(timeframeOf(frame.every), market.securities.length)
  return past ? { ...frame, to: source.asOf, soFar: false } : frame
}

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
