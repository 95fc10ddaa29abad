import { create } from 'zustand'
import { decodeBars, encodeBars } from '@/core/formats/barsBinary'
import {
  appendBars,
  type BarSet,
  type BarTable,
  makeTable,
  openTable,
  sharedMemory,
} from '@/core/market/barTable'
import { type Bars, columnNames, QUOTED, sliceBars } from '@/core/market/bars'
import { chunksOf, forgetFrame, keepChunk } from '@/store/barStore'
import { type BarChunk } from '@/store/db'
import { type Broker } from '../link/broker'
import { BrokerProblem } from '../link/problem'
import { barLimit, type Frame, frameName, timeframeOf } from './frames'

/** Securities that are fetched and kept together. */
const CHUNK = 250

/** How an update of one frame goes, or how the last one ended. */
export interface Update {
  state: 'under way' | 'done' | 'stopped' | 'failed'
  done: number
  of: number
  /** Bars that came anew. */
  fetched: number
  problem?: string
  /** Wall clock of its end. */
  at?: number
}

export const useUpdates = create<{ updates: Record<string, Update> }>(() => ({ updates: {} }))

const tell = (name: string, change: Partial<Update>): void =>
  useUpdates.setState(({ updates }) => {
    const before = updates[name] ?? { state: 'under way', done: 0, of: 0, fetched: 0 }
    return { updates: { ...updates, [name]: { ...before, ...change } } }
  })

/** What is to be brought up to date; `version` names the moment, and the same one is not asked for twice. */
export interface UpdateAsk {
  broker: Broker
  frame: Frame
  symbols: readonly string[]
  version: string
  signal?: AbortSignal
}

const STOPPED = 'stopped; what has come is kept, and the next update goes on from there'

/** Told beside a result whose bars could not be brought up to date. */
const NOT_THERE = 'The market does not answer, so these are the bars that are kept here'

interface Held {
  table: BarTable
  version: string
  set: BarSet
}

const held = new Map<string, Held>()
const running = new Map<string, Promise<BarTable>>()

/**
 * Brings a frame up to date and gives its table: what is kept in the browser, with only the bars that are missing
 * fetched. What has come stays if it is broken off, and the next update goes on from there. Frames with the growing
 * bar stand on the frame without it.
 */
export function upToDate(ask: UpdateAsk): Promise<BarTable> {
  const { frame, version } = ask
  const name = frameName(frame)
  const now = held.get(name)
  if (now?.version === version) return Promise.resolve(now.table)
  const under = running.get(name)
  if (under) return under
  const bring = quotedIn(frame).length > 0 ? withQuotes : frame.soFar ? withGrowing : frame.to ? past : update
  const job = bring(ask)
    .catch((error: Error) => {
      const stopped = ask.signal?.aborted === true
      tell(name, { state: stopped ? 'stopped' : 'failed', problem: stopped ? STOPPED : error.message })
      throw error
    })
    .finally(() => running.delete(name))
  running.set(name, job)
  return job
}

async function update(ask: UpdateAsk): Promise<BarTable> {
  const { broker, frame, symbols, version, signal } = ask
  const name = frameName(frame)
  const parts: string[][] = []
  for (let i = 0; i < symbols.length; i += CHUNK) parts.push(symbols.slice(i, i + CHUNK) as string[])
  tell(name, { state: 'under way', done: 0, of: symbols.length, fetched: 0, problem: undefined })
  const kept = new Map((await chunksOf(name).catch(() => [])).map((chunk) => [chunk.id, chunk]))
  const sets: BarSet[] = []
  let fetched = 0
  let problem: string | undefined
  let unreached: Error | undefined
  for (const [k, part] of parts.entries()) {
    if (signal?.aborted) throw new Error(STOPPED)
    const id = `${name} #${k}`
    const old = kept.get(id)
    const chunk = unreached
      ? undefined
      : await bringChunk(broker, frame, id, part, symbols.length, old, signal).catch((error: Error) => {
          if (!(error instanceof BrokerProblem) || error.kind !== 'unreachable') throw error
          unreached = error
        })
    if (!chunk) {
      const set = openedChunk(old)
      if (set) sets.push(only(set, part))
      continue
    }
    sets.push(chunk.set)
    fetched += chunk.fetched
    if (chunk.changed)
      await keepChunk(chunk.changed).catch(() => {
        problem = 'The browser has no room to keep the bars; they are held until this page is closed.'
      })
    tell(name, { done: Math.min(symbols.length, (k + 1) * CHUNK), fetched, problem })
  }
  if (unreached && sets.length === 0)
    throw new Error(
      `The market does not answer, and no bars of ${frame.every} are kept here yet. Scan again when it is there.`,
    )
  const all: BarSet = { symbols: sets.flatMap((set) => set.symbols), bars: sets.flatMap((set) => set.bars) }
  const table = makeTable(all, { every: timeframeOf(frame.every), asOf: '' }, sharedMemory)
  // Bars that were not brought up to date are asked for again the next time.
  held.set(name, { table, version: unreached ? '' : version, set: openTable(table) })
  tell(name, unreached ? { state: 'failed', problem: NOT_THERE } : { state: 'done', at: Date.now() })
  return table
}

/** The bars up to a past date: held while the page lives, not kept, since they are asked for rarely. */
async function past({ broker, frame, symbols, version, signal }: UpdateAsk): Promise<BarTable> {
  const name = frameName(frame)
  tell(name, { state: 'under way', done: 0, of: symbols.length, fetched: 0, problem: undefined })
  const all: BarSet = { symbols: [], bars: [] }
  const limit = barLimit(timeframeOf(frame.every), symbols.length)
  for (let i = 0; i < symbols.length; i += CHUNK) {
    if (signal?.aborted) throw new Error(STOPPED)
    const part = symbols.slice(i, i + CHUNK) as string[]
    const { extras, to } = frame
    const set = openTable(
      decodeBars(await broker.bars(frame.every, { symbols: part, limit, to, extras, signal })),
    )
    all.symbols.push(...set.symbols)
    all.bars.push(...set.bars)
    tell(name, { done: all.symbols.length, fetched: count(all) })
  }
  for (const other of held.keys()) if (/\| to \S+$/.test(other)) held.delete(other)
  const table = makeTable(all, { every: timeframeOf(frame.every), asOf: '' }, sharedMemory)
  held.set(name, { table, version, set: openTable(table) })
  tell(name, { state: 'done', at: Date.now() })
  return table
}

/** One chunk: what is kept, and what came since the last bar of the security that is furthest behind. */
async function bringChunk(
  broker: Broker,
  frame: Frame,
  id: string,
  symbols: string[],
  listed: number,
  kept: BarChunk | undefined,
  signal?: AbortSignal,
): Promise<{ set: BarSet; fetched: number; changed?: BarChunk }> {
  const every = timeframeOf(frame.every)
  const limit = barLimit(every, listed)
  const ask = async (from?: string): Promise<BarSet> =>
    openTable(
      decodeBars(await broker.bars(frame.every, { symbols, limit, from, extras: frame.extras, signal })),
    )
  const same = kept && kept.symbols.join() === symbols.join()
  const old = same ? openedChunk(kept) : undefined
  const first = Math.min(...(old?.bars ?? []).map((bars) => bars.time[bars.time.length - 1] ?? -Infinity))
  let set: BarSet
  let fetched: number
  if (old && Number.isFinite(first)) {
    // From the last bar that is there, so that a split since then shows as a difference.
    const more = await ask(new Date(first).toISOString())
    if (more.bars.every((bars, i) => agrees(old.bars[i], bars))) {
      const bars = more.bars.map((bars, i) => appendBars(old.bars[i], bars))
      fetched = bars.reduce((sum, one, i) => sum + one.time.length - old.bars[i].time.length, 0)
      if (fetched === 0) return { set: old, fetched }
      set = { symbols, bars: shareCalendars(bars.map((one) => lastBars(one, limit))) }
    } else {
      set = await ask()
      fetched = count(set)
    }
  } else {
    set = await ask()
    fetched = count(set)
  }
  const encoded = encodeBars(set, '')
  const ends = set.bars.map((bars) => bars.end[bars.end.length - 1] ?? NaN)
  const changed = {
    id,
    frame: frameName(frame),
    symbols,
    ends,
    buffer: encoded.buffer as ArrayBuffer,
    keptAt: Date.now(),
  }
  return { set, fetched, changed }
}

/** Those of the securities that are asked for: the listing may have changed since the others were kept. */
function only({ symbols, bars }: BarSet, wanted: readonly string[]): BarSet {
  const rows = [...symbols.keys()].filter((i) => wanted.includes(symbols[i]))
  return { symbols: rows.map((i) => symbols[i]), bars: rows.map((i) => bars[i]) }
}

/** The bars of a chunk; undefined where there is none, or where what lies there is damaged: it comes anew. */
function openedChunk(chunk: BarChunk | undefined): BarSet | undefined {
  try {
    return chunk && openTable(decodeBars(chunk.buffer))
  } catch {
    return undefined
  }
}

const count = (set: BarSet): number => set.bars.reduce((sum, bars) => sum + bars.time.length, 0)

/** Whether bars that came anew say the same of the moments that are known already. */
function agrees(old: Bars, more: Bars): boolean {
  const last = old.time.length - 1
  for (let i = 0; i < more.time.length; i++)
    if (more.time[i] === old.time[last]) return Math.abs(more.close[i] - old.close[last]) < 1e-9
  return more.time.length === 0 || more.time[0] > (old.time[last] ?? -Infinity)
}

const lastBars = (bars: Bars, limit: number): Bars =>
  bars.time.length <= limit ? bars : sliceBars(bars, bars.time.length - limit, bars.time.length)

/** Bars whose times are alike point to one column of times, so that the calendar is worked out once for all. */
function shareCalendars(all: Bars[]): Bars[] {
  const seen: Bars[] = []
  return all.map((bars) => {
    const like = seen.find(
      (s) =>
        s.time.length === bars.time.length &&
        s.time[0] === bars.time[0] &&
        s.time.every((t, i) => t === bars.time[i] && s.end[i] === bars.end[i]),
    )
    if (!like) seen.push(bars)
    return like ? { ...bars, time: like.time, end: like.end } : bars
  })
}

/** The frame with the bar that still grows: the finished bars are not fetched again for it. */
async function withGrowing(ask: UpdateAsk): Promise<BarTable> {
  const { broker, frame, symbols, version, signal } = ask
  const name = frameName(frame)
  const finished = { ...frame, soFar: false }
  const base = await upToDate({ ...ask, frame: finished, version: version.split(' ~')[0] })
  const told = useUpdates.getState().updates[frameName(finished)]
  const buffer =
    told?.problem === NOT_THERE
      ? undefined
      : await broker
          .bars(frame.every, {
            symbols: symbols.length > CHUNK ? undefined : (symbols as string[]),
            soFar: true,
            limit: 2,
            extras: frame.extras,
            signal,
          })
          .catch((error: Error) => {
            if (!(error instanceof BrokerProblem) || error.kind !== 'unreachable') throw error
          })
  if (!buffer) {
    tell(name, { state: 'failed', problem: NOT_THERE })
    return base
  }
  tell(name, { state: 'done', problem: undefined })
  const latest = decodeBars(buffer)
  const growing = openTable(latest)
  const row = new Map(growing.symbols.map((symbol, i) => [symbol, i]))
  const before = held.get(name)
  if (before && before.table.symbols.length === base.symbols.length && writeLast(before.set, growing, row)) {
    before.table.asOf = latest.asOf
    held.set(name, { ...before, version })
    return before.table
  }
  const old = openTable(base)
  const bars = old.bars.map((one, i) => {
    const at = row.get(old.symbols[i])
    return at === undefined ? one : appendBars(one, growing.bars[at])
  })
  const table = makeTable(
    { symbols: old.symbols, bars: shareCalendars(bars) },
    { every: timeframeOf(frame.every), asOf: latest.asOf },
    sharedMemory,
  )
  held.set(name, { table, version, set: openTable(table) })
  return table
}

const quotedIn = (frame: Frame): (typeof QUOTED)[number][] =>
  QUOTED.filter((name) => frame.extras.includes(name))

/** The frame with the quotes of now on its last bars. */
async function withQuotes(ask: UpdateAsk): Promise<BarTable> {
  const { broker, frame, symbols, version } = ask
  const quoted = quotedIn(frame)
  const plain = { ...frame, extras: frame.extras.filter((name) => !quoted.includes(name as never)) }
  const base = openTable(await upToDate({ ...ask, frame: plain }))
  const quotes = new Map(
    (await broker.quotes(symbols.length > CHUNK ? undefined : symbols)).map((q) => [q.symbol, q]),
  )
  const bars = base.bars.map((one, i): Bars => {
    const out = { ...one }
    for (const name of quoted) {
      const column = (out[name] = new Float64Array(one.time.length).fill(NaN))
      if (column.length > 0) column[column.length - 1] = quotes.get(base.symbols[i])?.[name] ?? NaN
    }
    return out
  })
  const table = makeTable(
    { symbols: base.symbols, bars },
    { every: timeframeOf(frame.every), asOf: '' },
    sharedMemory,
  )
  const name = frameName(frame)
  held.set(name, { table, version, set: openTable(table) })
  tell(name, { state: 'done', problem: undefined })
  return table
}

/**
 * Writes the growing bars in place, in memory that the workers see too; false where a bar has ended since, so that
 * there is no room.
 */
function writeLast(set: BarSet, growing: BarSet, row: ReadonlyMap<string, number>): boolean {
  if (!(set.bars[0]?.time.buffer instanceof SharedArrayBuffer)) return false
  const pairs = set.symbols.map((symbol, i) => [set.bars[i], growing.bars[row.get(symbol) ?? -1]] as const)
  const fits = pairs.every(
    ([bars, more]) =>
      !more || more.time.length === 0 || bars.time[bars.time.length - 1] === more.time[more.time.length - 1],
  )
  if (!fits) return false
  for (const [bars, more] of pairs) {
    if (!more || more.time.length === 0) continue
    for (const name of columnNames(more)) {
      const column = bars[name]
      if (column) column[column.length - 1] = more[name]![more[name]!.length - 1]
    }
  }
  return true
}

/** Takes a frame out of the browser; it comes anew when it is next asked for. */
export async function forget(name: string): Promise<void> {
  held.delete(name)
  await forgetFrame(name)
  useUpdates.setState(({ updates }) => {
    const { [name]: _, ...rest } = updates
    return { updates: rest }
  })
}
