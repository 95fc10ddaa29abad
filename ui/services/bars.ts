import { decodeBars } from '@/core/formats/barsBinary'
import { type BarSet, type BarTable, makeTable, openTable, sharedMemory } from '@/core/market/barTable'
import { isIntraday } from '@/core/market/timeframe'
import { type Broker, BrokerProblem } from '@/client'
import { chunkAt, forgetFrame, keepChunk } from '@/store/barStore'
import { type BarChunk } from '@/store/db'
import { sayFailure } from '@/workers/say'
import { barLimit, type Frame, frameName, timeframeOf } from '../market/frames'
import { barsIn, bringChunk, type Chunk, CHUNK, inChunks, only, openedChunk } from './barChunks'
import { quoted, quotedIn, withLast, writeLast } from './growingBars'
import { forgetUpdate, tellUpdate, useUpdates } from './updates'

/** What is to be brought up to date; `version` names the moment, and the same one is not asked for twice. */
export interface UpdateAsk {
  frame: Frame
  symbols: readonly string[]
  version: string
  signal?: AbortSignal
  /** Symbol of the index of each security's venue: what tells at once whether the market has anything new. */
  indexOf?: (symbol: string) => string | undefined
}

const STOPPED = 'stopped; what has come is kept, and the next update goes on from there'

/** Told beside a result whose bars could not be brought up to date. */
const NOT_THERE = 'The market does not answer, so these are the bars that are kept here'

/** Bars of a frame in memory that workers share, in as many tables as they came in. */
export interface FrameBars {
  tables: readonly BarTable[]
  /** When bars that still grow were taken; empty where there are none. */
  asOf: string
}

/** A chunk on its way, and what lay in the browser before. */
interface Come {
  old: BarChunk | undefined
  chunk?: Chunk
  gone?: unknown
}

/** A frame as it stands: its bars, of which moment, and what is in its tables. */
interface Standing {
  bars: FrameBars
  version: string
  set: BarSet
}

/** The sessions of the venues, which bars of a day and longer change with; empty for shorter ones. */
const sessionsOf = ({ frame, version }: UpdateAsk): string =>
  isIntraday(timeframeOf(frame.every)) ? '' : version.split(' ').slice(0, 2).join(' ')

const isUnreached = (error: unknown): boolean =>
  error instanceof BrokerProblem && error.kind === 'unreachable'

/**
 * The market's bars in this page, frame by frame, brought up to date when asked, from what is kept in the
 * browser and from the market. Growing bars are written in place while nobody reads: who scans them holds them, so
 * that none ever sees a column half of which is new.
 */
export class MarketBars {
  private readonly standing = new Map<string, Standing>()
  private readonly running = new Map<string, Promise<FrameBars>>()
  private readonly readers = new Map<FrameBars, number>()
  private idle: (() => void)[] = []

  constructor(private readonly broker: Broker) {}

  /**
   * Brings a frame up to date and gives its bars. What has come stays if it is broken off, and the next update goes
   * on from there. Frames with the growing bar stand on the frame without it. `part` is given each table as it comes.
   */
  upToDate(ask: UpdateAsk, part?: (table: BarTable) => void): Promise<FrameBars> {
    const { frame, version } = ask
    const name = frameName(frame)
    const now = this.standing.get(name)
    if (now?.version === version) return Promise.resolve(now.bars)
    const under = this.running.get(name)
    if (under) return under
    const job = this.bring(ask, part)
      .catch((error: Error) => {
        const stopped = ask.signal?.aborted === true
        tellUpdate(name, {
          state: stopped ? 'stopped' : 'failed',
          problem: stopped ? STOPPED : sayFailure(error),
        })
        throw error
      })
      .finally(() => this.running.delete(name))
    this.running.set(name, job)
    return job
  }

  /** Holds bars as they are, until what is done with them is done: they are not written to meanwhile. */
  async holding<T>(all: readonly FrameBars[], work: () => Promise<T>): Promise<T> {
    for (const bars of all) this.readers.set(bars, (this.readers.get(bars) ?? 0) + 1)
    try {
      return await work()
    } finally {
      for (const bars of all) {
        const left = this.readers.get(bars)! - 1
        if (left > 0) this.readers.set(bars, left)
        else this.readers.delete(bars)
      }
      const waiting = this.idle
      this.idle = []
      for (const go of waiting) go()
    }
  }

  /** Takes a frame out of the browser; it comes anew when it is next asked for. */
  async forget(name: string): Promise<void> {
    this.standing.delete(name)
    await forgetFrame(name)
    forgetUpdate(name)
  }

  private bring(ask: UpdateAsk, part?: (table: BarTable) => void): Promise<FrameBars> {
    const { frame } = ask
    if (quotedIn(frame).length > 0) return this.withQuotes(ask)
    if (frame.soFar) return this.withGrowing(ask)
    return frame.to ? this.past(ask, part) : this.complete(ask, part)
  }

  private put(name: string, tables: readonly BarTable[], version: string, asOf = ''): FrameBars {
    const bars = { tables, asOf }
    this.standing.set(name, { bars, version, set: setIn(bars) })
    return bars
  }

  private async complete(ask: UpdateAsk, part?: (table: BarTable) => void): Promise<FrameBars> {
    const { frame, symbols, version, signal } = ask
    const name = frameName(frame)
    tellUpdate(name, { state: 'under way', done: 0, of: symbols.length, fetched: 0, problem: undefined })
    const tables: BarTable[] = []
    let fetched = 0
    let problem: string | undefined
    let unreached: unknown
    const parts = inChunks(symbols)
    const stored = parts.slice(0, 2).map((_, k) => chunkAt(`${name} #${k}`).catch(() => undefined))
    let asked: ReturnType<MarketBars['lastEnds']> | undefined
    const lastEnd = () => (asked ??= this.lastEnds(ask))
    // Of what was kept at another moment the market is asked at once whether there is more.
    const sessions = sessionsOf(ask)
    if (sessions === '' || (await stored[0])?.sessions !== sessions) lastEnd().catch(() => undefined)
    const come = parts.map(() => undefined as Promise<Come> | undefined)
    const begin = (k: number) => {
      if (k < parts.length)
        come[k] ??= this.chunk(ask, `${name} #${k}`, stored[k], parts[k], unreached, lastEnd)
    }
    for (const k of parts.keys()) {
      if (signal?.aborted) throw new Error(STOPPED)
      // The next one is on its way while this one is worked on.
      begin(k)
      begin(k + 1)
      const { chunk, old, gone } = await come[k]!
      unreached ??= gone
      const set = chunk?.set ?? this.keptOf(old, parts[k])
      if (set) {
        const table = tableOf(set, frame.every)
        tables.push(table)
        part?.(table)
      }
      if (!chunk) continue
      fetched += chunk.fetched
      if (chunk.changed)
        await keepChunk(chunk.changed).catch(() => {
          problem = 'The browser has no room to keep the bars; they are held until this page is closed.'
        })
      tellUpdate(name, { done: Math.min(symbols.length, (k + 1) * CHUNK), fetched, problem })
    }
    if (unreached && tables.length === 0)
      throw new Error(
        `The market does not answer, and no bars of ${frame.every} are kept here yet. Scan again when it is there.`,
      )
    // Bars that were not brought up to date are asked for again the next time.
    const bars = this.put(name, tables, unreached ? '' : version)
    tellUpdate(name, unreached ? { state: 'failed', problem: NOT_THERE } : { state: 'done', at: Date.now() })
    return bars
  }

  /** One chunk: what is kept of it, and how it is now; `gone` where the market does not answer. */
  private async chunk(
    ask: UpdateAsk,
    id: string,
    read: Promise<BarChunk | undefined> | undefined,
    names: string[],
    unreached: unknown,
    lastEnd: () => ReturnType<MarketBars['lastEnds']>,
  ): Promise<Come> {
    const old = await (read ?? chunkAt(id).catch(() => undefined))
    const { frame, symbols, version, signal } = ask
    const sessions = sessionsOf(ask)
    const same = sessions !== '' && old?.sessions === sessions && old.symbols.join() === names.join()
    const whole = same && openedChunk(old)
    if (whole) return { old, chunk: { set: whole, fetched: 0 } }
    if (unreached) return { old }
    try {
      const lastEndOf = await lastEnd()
      const now = { day: version.split(' ')[0], sessions, lastEnd: lastEndOf ?? (() => Infinity) }
      return {
        old,
        chunk: await bringChunk(this.broker, frame, id, names, symbols.length, old, signal, now),
      }
    } catch (error) {
      if (!isUnreached(error)) throw error
      return { old, gone: error }
    }
  }

  /** End of the last complete bar of each security, as the market says of the index of its venue: one small question. */
  private async lastEnds({ frame, symbols, indexOf, signal }: UpdateAsk) {
    if (!indexOf) return undefined
    const indices = [...new Set(symbols.flatMap((symbol) => indexOf(symbol) || []))]
    if (indices.length === 0) return undefined
    const set = openTable(
      decodeBars(await this.broker.bars(frame.every, { symbols: indices, limit: 1, signal })),
    )
    const ends = new Map(set.symbols.map((symbol, i) => [symbol, set.bars[i].end.at(-1) ?? Infinity]))
    return (symbol: string): number => ends.get(indexOf(symbol) ?? '') ?? Infinity
  }

  private keptOf(old: BarChunk | undefined, names: readonly string[]): BarSet | undefined {
    const set = openedChunk(old)
    return set && only(set, names)
  }

  /** The bars up to a past date: held while the page lives, not kept, since they are asked for rarely. */
  private async past(ask: UpdateAsk, part?: (table: BarTable) => void): Promise<FrameBars> {
    const { frame, symbols, version, signal } = ask
    const name = frameName(frame)
    tellUpdate(name, { state: 'under way', done: 0, of: symbols.length, fetched: 0, problem: undefined })
    const tables: BarTable[] = []
    let [done, fetched] = [0, 0]
    const limit = barLimit(timeframeOf(frame.every), symbols.length)
    for (const names of inChunks(symbols)) {
      if (signal?.aborted) throw new Error(STOPPED)
      const { extras, to } = frame
      const set = openTable(
        decodeBars(await this.broker.bars(frame.every, { symbols: names, limit, to, extras, signal })),
      )
      const table = tableOf(set, frame.every)
      tables.push(table)
      part?.(table)
      tellUpdate(name, { done: (done += set.symbols.length), fetched: (fetched += barsIn(set)) })
    }
    for (const other of this.standing.keys()) if (/\| to \S+$/.test(other)) this.standing.delete(other)
    const bars = this.put(name, tables, version)
    tellUpdate(name, { state: 'done', at: Date.now() })
    return bars
  }

  /** The frame with the bar that still grows: the complete bars are not fetched again for it. */
  private async withGrowing(ask: UpdateAsk): Promise<FrameBars> {
    const { frame, symbols, version, signal } = ask
    const name = frameName(frame)
    const finished = { ...frame, soFar: false }
    const base = await this.upToDate({ ...ask, frame: finished, version: version.split(' ~')[0] })
    const told = useUpdates.getState().updates[frameName(finished)]
    const options = { soFar: true, limit: 2, extras: frame.extras, signal }
    const buffer =
      told?.problem === NOT_THERE
        ? undefined
        : await this.broker
            .bars(frame.every, {
              ...options,
              symbols: symbols.length > CHUNK ? undefined : (symbols as string[]),
            })
            .catch((error: unknown) => {
              if (!isUnreached(error)) throw error
            })
    if (!buffer) {
      tellUpdate(name, { state: 'failed', problem: NOT_THERE })
      return base
    }
    tellUpdate(name, { state: 'done', problem: undefined })
    const latest = decodeBars(buffer)
    const growing = openTable(latest)
    const before = this.standing.get(name)
    const complete = setIn(base)
    if (before && before.set.symbols.length === complete.symbols.length) {
      await this.unread(before.bars)
      if (writeLast(before.set, growing)) {
        before.bars.asOf = latest.asOf
        this.standing.set(name, { ...before, version })
        return before.bars
      }
    }
    return this.put(name, [tableOf(withLast(complete, growing), frame.every)], version, latest.asOf)
  }

  /** When nobody reads them. */
  private async unread(bars: FrameBars): Promise<void> {
    while (this.readers.has(bars)) await new Promise<void>((go) => this.idle.push(go))
  }

  /** The frame with the quotes of now on its last bars. */
  private async withQuotes(ask: UpdateAsk): Promise<FrameBars> {
    const { frame, symbols, version } = ask
    const names = quotedIn(frame)
    const plain = { ...frame, extras: frame.extras.filter((name) => !names.includes(name as never)) }
    const base = setIn(await this.upToDate({ ...ask, frame: plain }))
    const quotes = await this.broker.quotes(symbols.length > CHUNK ? undefined : symbols)
    const bars = this.put(frameName(frame), [tableOf(quoted(base, names, quotes), frame.every)], version)
    tellUpdate(frameName(frame), { state: 'done', problem: undefined })
    return bars
  }
}

const tableOf = (set: BarSet, every: string): BarTable =>
  makeTable(set, { every: timeframeOf(every), asOf: '' }, sharedMemory)

/** Everything in the tables of a frame, as one set that points into them. */
export function setIn({ tables }: FrameBars): BarSet {
  const sets = tables.map(openTable)
  return { symbols: sets.flatMap((set) => set.symbols), bars: sets.flatMap((set) => set.bars) }
}
