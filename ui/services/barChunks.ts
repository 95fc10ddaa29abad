import { decodeBars, encodeBars } from '@/core/formats/barsBinary'
import { appendBars, type BarSet, openTable } from '@/core/market/barTable'
import { type Bars, sliceBars } from '@/core/market/bars'
import { type Broker } from '@/client'
import { type BarChunk } from '@/store/db'
import { barLimit, type Frame, frameName, timeframeOf } from '../market/frames'

/** Market version in a kept day, "2026-03-16#2": bars of another version are fetched again. */
const marketOf = (day = ''): string => day.split('#')[1] ?? ''

/** Securities that are fetched and kept together. */
export const CHUNK = 100

/** Lists of at most a chunk's length. */
export const inChunks = (symbols: readonly string[]): string[][] =>
  Array.from({ length: Math.ceil(symbols.length / CHUNK) }, (_, k) =>
    symbols.slice(k * CHUNK, (k + 1) * CHUNK),
  )

/** One chunk as it is now: what was kept, and what came since. `changed` is to be kept in its place. */
export interface Chunk {
  set: BarSet
  /** Bars that came anew. */
  fetched: number
  changed?: BarChunk
}

/**
 * Brings one chunk up to date: what is kept, and what came since the last bar of the security that is furthest
 * behind. All of it comes anew where the market says otherwise of a bar that is known, as after a split.
 */
export async function bringChunk(
  broker: Broker,
  frame: Frame,
  id: string,
  symbols: string[],
  listed: number,
  stored: BarChunk | undefined,
  signal?: AbortSignal,
  /** Date and version of the market, sessions of its venues, and the end of its last bar of a security, if known. */
  now: { day: string; sessions: string; lastEnd(symbol: string): number } = {
    ...{ day: '', sessions: '', lastEnd: () => Infinity },
  },
): Promise<Chunk> {
  const limit = barLimit(timeframeOf(frame.every), listed)
  const ask = async (from?: string): Promise<BarSet> =>
    openTable(
      decodeBars(await broker.bars(frame.every, { symbols, limit, from, extras: frame.extras, signal })),
    )
  const { day, sessions } = now
  const same =
    stored &&
    stored.symbols.join() === symbols.join() &&
    (day === '' || marketOf(stored.day) === marketOf(day))
  const old = same ? openedChunk(stored) : undefined
  const first = Math.min(...(old?.bars ?? []).map((bars) => bars.time[bars.time.length - 1] ?? -Infinity))
  let set: BarSet
  let fetched: number
  // Asked on the same day already: nothing can have come but further bars.
  const today = stored?.day === day && day !== ''
  const nothingNew = (set: BarSet): Chunk =>
    stored && day !== '' && (stored.day !== day || (stored.sessions ?? '') !== sessions)
      ? { set, fetched: 0, changed: { ...stored, day, sessions } }
      : { set, fetched: 0 }
  if (old && today && stored.ends.every((end, i) => end >= now.lastEnd(symbols[i]))) return nothingNew(old)
  if (old && Number.isFinite(first)) {
    // From the last bar that is there, so that a split since then shows as a difference.
    const more = await ask(new Date(first).toISOString())
    if (more.bars.every((bars, i) => agrees(old.bars[i], bars))) {
      const bars = more.bars.map((bars, i) => appendBars(old.bars[i], bars))
      fetched = bars.reduce((sum, one, i) => sum + one.time.length - old.bars[i].time.length, 0)
      if (fetched === 0) return nothingNew(old)
      set = { symbols, bars: shareCalendars(bars.map((one) => lastBars(one, limit))) }
    } else {
      set = await ask()
      fetched = barsIn(set)
    }
  } else {
    set = await ask()
    fetched = barsIn(set)
  }
  const encoded = encodeBars(set, '')
  const changed = {
    id,
    frame: frameName(frame),
    symbols,
    ends: set.bars.map((bars) => bars.end[bars.end.length - 1] ?? NaN),
    buffer: encoded.buffer as ArrayBuffer,
    keptAt: Date.now(),
    day,
    sessions,
  }
  return { set, fetched, changed }
}

/** Those of the securities that are asked for: the listing may have changed since the others were kept. */
export function only({ symbols, bars }: BarSet, wanted: readonly string[]): BarSet {
  const rows = [...symbols.keys()].filter((i) => wanted.includes(symbols[i]))
  return { symbols: rows.map((i) => symbols[i]), bars: rows.map((i) => bars[i]) }
}

/** The bars of a chunk; undefined where there is none, or where what lies there is damaged: it comes anew. */
export function openedChunk(chunk: BarChunk | undefined): BarSet | undefined {
  try {
    return chunk && openTable(decodeBars(chunk.buffer))
  } catch {
    return undefined
  }
}

export const barsIn = (set: BarSet): number => set.bars.reduce((sum, bars) => sum + bars.time.length, 0)

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
export function shareCalendars(all: Bars[]): Bars[] {
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
