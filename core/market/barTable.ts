import { type Bars, columnNames, emptyBars, EXTRAS, type ExtraName, SERIES, sliceBars } from './bars'
import { parseTimeframe, type Timeframe, timeframeText } from './timeframe'

/**
 * Bars of many securities in one buffer of 64-bit numbers, which threads can share: first the calendars (time and
 * end of each), then for each security its columns. Plain data, so that it can be posted to a worker; `openTable`
 * gives the columns as views into the buffer, without copying.
 */
export interface BarTable {
  every: string
  /** Moment up to which the bars are complete, as the sender says it; '' where it said nothing. */
  asOf: string
  extras: ExtraName[]
  calendars: { zone: string; rows: number }[]
  symbols: string[]
  /** Index of each security's calendar. */
  calendarOf: number[]
  buffer: ArrayBufferLike
}

/** Bars by security, in the order of the symbols. */
export interface BarSet {
  symbols: string[]
  bars: Bars[]
}

/** Makes the memory of a table, of so many bytes; a SharedArrayBuffer where threads are to share it. */
export type Allocate = (bytes: number) => ArrayBufferLike

export const ownMemory: Allocate = (bytes) => new ArrayBuffer(bytes)

/** Memory that workers share where the page may have it, else of one's own. */
export const sharedMemory: Allocate = (bytes) =>
  typeof SharedArrayBuffer === 'undefined' || globalThis.crossOriginIsolated === false
    ? new ArrayBuffer(bytes)
    : new SharedArrayBuffer(bytes)

/** Numbers that a table of this shape holds. */
export function sizeOf(table: Pick<BarTable, 'calendars' | 'calendarOf' | 'extras'>): number {
  const columns = SERIES.length + table.extras.length
  return (
    table.calendars.reduce((sum, c) => sum + 2 * c.rows, 0) +
    table.calendarOf.reduce((sum, c) => sum + columns * table.calendars[c].rows, 0)
  )
}

/** The bars of a table. Throws RangeError for a timeframe that is none. */
export function openTable(table: BarTable): BarSet {
  const every = parseTimeframe(table.every)
  if (!every) throw new RangeError(`The bars name an unknown timeframe, "${table.every}"`)
  const all = new Float64Array(table.buffer)
  let at = 0
  const column = (rows: number) => all.subarray(at, (at += rows))
  const calendars = table.calendars.map(({ zone, rows }) => ({
    zone,
    rows,
    time: column(rows),
    end: column(rows),
  }))
  const bars = table.calendarOf.map((which): Bars => {
    const { zone, rows, time, end } = calendars[which]
    const open = column(rows)
    const [high, low, close, volume] = [column(rows), column(rows), column(rows), column(rows)]
    const made: Bars = { every, zone, time, end, open, high, low, close, volume }
    for (const name of table.extras) made[name] = column(rows)
    return made
  })
  return { symbols: table.symbols, bars }
}

/** Puts bars of one timeframe into a table. Calendars that are alike are held once. */
export function makeTable(
  set: BarSet,
  about: { every?: Timeframe; asOf: string },
  allocate: Allocate,
): BarTable {
  const { calendars, calendarOf } = calendarsOf(set.bars)
  const every = about.every ?? set.bars[0]?.every ?? { count: 1, unit: 'day' }
  const extras = EXTRAS.filter((name) => set.bars.some((bars) => bars[name]))
  const shape = {
    every: timeframeText(every),
    asOf: about.asOf,
    extras,
    calendars: calendars.map(({ zone, time }) => ({ zone, rows: time.length })),
    symbols: set.symbols,
    calendarOf,
  }
  const table: BarTable = { ...shape, buffer: allocate(8 * sizeOf(shape)) }
  const all = new Float64Array(table.buffer)
  let at = 0
  const put = (column: Float64Array | undefined, rows: number) => {
    if (column) all.set(column, at)
    else all.fill(NaN, at, at + rows)
    at += rows
  }
  for (const { time, end } of calendars) {
    put(time, time.length)
    put(end, end.length)
  }
  for (const bars of set.bars) for (const name of [...SERIES, ...extras]) put(bars[name], bars.time.length)
  return table
}

/** The different calendars of bars, each once, and which of them each has. */
export function calendarsOf(bars: readonly Bars[]): { calendars: Bars[]; calendarOf: number[] } {
  const calendars: Bars[] = []
  const byColumn = new Map<Float64Array, number>()
  const calendarOf = bars.map((one) => {
    let which = byColumn.get(one.time)
    if (which !== undefined) return which
    which = calendars.findIndex((c) => c.zone === one.zone && same(c.time, one.time) && same(c.end, one.end))
    if (which < 0) which = calendars.push(one) - 1
    byColumn.set(one.time, which)
    return which
  })
  return { calendars, calendarOf }
}

function same(a: Float64Array, b: Float64Array): boolean {
  // Most that differ do so in length or at an end.
  if (a.length !== b.length || a[0] !== b[0] || a[a.length - 1] !== b[b.length - 1])
    return a.length + b.length === 0
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}

/** One after the other: bars that begin after the last of `old` are added to it; a bar still growing is replaced. */
export function appendBars(old: Bars, more: Bars): Bars {
  let n = old.time.length
  if (n > 0 && old.end[n - 1] === Infinity) n--
  const last = n > 0 ? old.time[n - 1] : -Infinity
  let from = 0
  while (from < more.time.length && more.time[from] <= last) from++
  if (from === more.time.length) return n === old.time.length ? old : sliceBars(old, 0, n)
  const out = emptyBars(n + more.time.length - from, old.every, old.zone)
  for (const name of columnNames(more)) {
    const column = (out[name] ??= new Float64Array(out.time.length).fill(NaN))
    column.set((old[name] ?? new Float64Array(old.time.length).fill(NaN)).subarray(0, n))
    column.set(more[name]!.subarray(from), n)
  }
  return out
}
