import { DateTime } from 'luxon'
import { type Bars, COUNTED, EXTRAS, type ExtraName, SERIES, type SeriesName } from '../../market/bars'
import { type Drawing } from '../../market/drawings'
import { type Report } from '../../market/figures'
import { calendarKey } from '../../market/resample'
import { isIntraday, type Timeframe } from '../../market/timeframe'

/** One bar as it is fed: Infinity is the end of one that still grows. */
export type LiveBar = { time: number; end: number } & Record<SeriesName, number> &
  Partial<Record<ExtraName, number>>

/** A bar as bars of one row, for what is computed of columns. */
export function asBars(bar: LiveBar, every: Timeframe, zone: string): Bars {
  const of = (x: number | undefined) => Float64Array.of(x ?? NaN)
  const out = { every, zone, time: of(bar.time), end: of(bar.end) } as Bars
  for (const name of SERIES) out[name] = of(bar[name])
  for (const name of EXTRAS) if (bar[name] !== undefined) out[name] = of(bar[name])
  return out
}

/** The same with other values of the same bar: what the calendar says of it need not be asked again. */
export function sameBar(bars: Bars, bar: LiveBar): boolean {
  if (bars.time[0] !== bar.time || bars.end[0] !== bar.end) return false
  for (const name of SERIES) bars[name][0] = bar[name]
  for (const name of EXTRAS) {
    if ((bar[name] === undefined) !== (bars[name] === undefined)) return false
    if (bars[name]) bars[name][0] = bar[name]!
  }
  return true
}

/** Row `i` of bars as one bar. */
export function barAt(bars: Bars, i: number): LiveBar {
  const bar = { time: bars.time[i], end: bars.end[i] } as LiveBar
  for (const name of SERIES) bar[name] = bars[name][i]
  for (const name of EXTRAS) if (bars[name]) bar[name] = bars[name][i]
  return bar
}

/** One value of a track, computed anew with each bar; those that it needs stand before it. */
export type Cell = (bar: Bars, keep: boolean, about: LiveAbout) => number

/** What is known of the security besides its bars. */
export interface LiveAbout {
  zone: string
  reports?: readonly Report[]
  /** Levels and zones; a line hangs on how many bars there are and is not followed. */
  drawings?: readonly Drawing[]
  /** Zones of securities that stand beside it; that of the security itself where left out. */
  zoneOf?(symbol: string): string
}

/** Bars of one timeframe of one security, and the values of everything that is computed on them. */
export interface Track {
  every: Timeframe
  beside?: string
  cells: Cell[]
  /** Values with the last bar that was fed, and with the last that is complete. */
  now: number[]
  done: number[]
  /** Values of the last complete bars of cells that are looked back at from finer bars; newest last. */
  past: Map<number, { depth: number; values: number[] }>
  /** The last bar that was fed, as columns of one row; a tick of the same bar is written into it. */
  view?: Bars
  /** End of the last bar that was fed. */
  end: number
  coarser?: Coarser
}

export const newTrack = (every: Timeframe, beside: string | undefined): Track => ({
  ...{ every, beside, cells: [], now: [], done: [], past: new Map(), end: NaN },
})

/** Puts the values of a complete bar behind those before it, as many as are looked back at. */
export function remember(track: Track): void {
  for (const [cell, past] of track.past) {
    past.values.push(track.now[cell])
    if (past.values.length > 2 * past.depth) past.values.splice(0, past.values.length - past.depth)
  }
}

/** What a day's bars tell of the day: shared by all that is made of them. */
export interface Day {
  /** Start of the next local day. */
  to: number
  local: DateTime
  /** Start of its first bar, and the minute of the day at which the last bar of the day before ended. */
  first: number
  endBefore: number
}

const minuteOf = (moment: number, zone: string): number => {
  const local = DateTime.fromMillis(moment, { zone })
  return local.hour * 60 + local.minute
}

/** Follows the local days of bars that come one after the other. */
export class Days {
  private day: Day | undefined
  private lastEnd = NaN

  constructor(readonly zone: string) {}

  /** The day of a bar; the first bar of a new day ends the one before. */
  of(bar: LiveBar): Day {
    if (!this.day || !(bar.time < this.day.to)) {
      const local = DateTime.fromMillis(bar.time, { zone: this.zone })
      const endBefore = this.day ? minuteOf(this.lastEnd, this.zone) : NaN
      const to = local.startOf('day').plus({ days: 1 }).toMillis()
      this.day = { to, local, first: bar.time, endBefore }
    }
    this.lastEnd = bar.end
    return this.day
  }

  minute = (moment: number): number => minuteOf(moment, this.zone)
}

/** Makes coarser bars of finer ones as they come; the same bars as resample makes of those so far. */
export class Coarser {
  private key = NaN
  private now: LiveBar | undefined
  private readonly step: number

  constructor(
    private readonly every: Timeframe,
    private readonly finer: Timeframe,
    private readonly days: Days,
  ) {
    this.step = every.count * (every.unit === 'hour' ? 3_600_000 : 60_000)
  }

  private keyOf(bar: LiveBar, day: Day): number {
    if (!isIntraday(this.every)) return calendarKey(day.local, this.every)
    return day.first + Math.floor((bar.time - day.first) / this.step) * this.step
  }

  /** The coarse bar that ends because this one begins another; undefined where it goes on. */
  ended(bar: LiveBar, day: Day): LiveBar | undefined {
    const key = this.keyOf(bar, day)
    if (key === this.key) return undefined
    const before = this.now
    this.key = key
    this.now = undefined
    return before
  }

  /** Adds a complete bar; the coarse bar with it, and whether that is complete as far as can be told. */
  add(bar: LiveBar, day: Day): { bar: LiveBar; complete: boolean } {
    this.now = this.now ? joined(this.now, bar) : { ...bar }
    return { bar: this.now, complete: !this.underWay(bar, day) }
  }

  /** As resample tells it of its last bar. */
  private underWay(bar: LiveBar, day: Day): boolean {
    if (bar.end === Infinity) return true
    const last = DateTime.fromMillis(bar.end - 1, { zone: this.days.zone })
    if (isIntraday(this.finer)) {
      if (isIntraday(this.every) && bar.end - this.key >= this.step) return false
      if (!(this.days.minute(bar.end) >= day.endBefore)) return true
      if (isIntraday(this.every)) return false
    }
    let next = last.plus({ days: 1 })
    while (next.weekday > 5) next = next.plus({ days: 1 })
    return calendarKey(next, this.every) === this.key
  }
}

function joined(before: LiveBar, bar: LiveBar): LiveBar {
  const out: LiveBar = {
    ...before,
    end: bar.end,
    close: bar.close,
    high: before.high >= bar.high ? before.high : bar.high,
    low: before.low <= bar.low ? before.low : bar.low,
    volume: before.volume + bar.volume,
  }
  for (const name of COUNTED) if (before[name] !== undefined) out[name] = before[name] + (bar[name] ?? NaN)
  return out
}
