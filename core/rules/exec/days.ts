import { type Slots } from '../../indicators/slots'
import { COUNTED } from '../../market/bars'
import { type LocalDay, localDayOf, minuteOf } from '../../market/localDays'
import { calendarKey, nextWeekday } from '../../market/resample'
import { isIntraday, type Timeframe } from '../../market/timeframe'
import { asLiveBar, BAR_FIELDS, type LiveBar } from './liveBar'

/** What a day's bars tell of the day: shared by all that is made of them. */
export interface Day {
  /** Start of the next local day. */
  to: number
  local: LocalDay
  /** Start of its first bar, and the minute of the day at which the last bar of the day before ended. */
  first: number
  endBefore: number
}

/** Follows the local days of bars that come one after the other. */
export class Days {
  /** Of the day under way: its first bar's start, the start of the next day, when the day before ended; and the last end. */
  private readonly today: Float64Array
  /** The same day as dates have it, for as long as it lasts. */
  private day: Day | undefined

  constructor(
    readonly zone: string,
    slots: Slots,
  ) {
    this.today = slots.take(4, NaN)
  }

  /** The day of a bar; the first bar of a new day ends the one before. */
  of(bar: LiveBar, keep: boolean): Day {
    const { today } = this
    const lastEnd = today[3]
    const day =
      bar.time < today[1]
        ? this.dayFrom(today[0], today[1], today[2])
        : this.dayFrom(bar.time, NaN, lastEnd === lastEnd ? minuteOf(lastEnd, this.zone) : NaN)
    if (keep) {
      this.today[0] = day.first
      this.today[1] = day.to
      this.today[2] = day.endBefore
      this.today[3] = bar.end
    }
    return day
  }

  private dayFrom(first: number, to: number, endBefore: number): Day {
    if (this.day?.first === first && Object.is(this.day.endBefore, endBefore)) return this.day
    const local = localDayOf(first, this.zone)
    return (this.day = { first, to: to === to ? to : local.end, local, endBefore })
  }

  minute = (moment: number): number => minuteOf(moment, this.zone)
}

/** Makes coarser bars of finer ones as they come; the same bars as resample makes of those so far. */
export class Coarser {
  private readonly key: Float64Array
  /** The bar under way; it has begun where its time is known. */
  private readonly growing: Float64Array
  private readonly step: number
  /** The day that was asked for last, and its key: dates are dear. */
  private dayAsked: Day | undefined
  private keyOfDay = NaN

  constructor(
    private readonly every: Timeframe,
    private readonly finer: Timeframe,
    private readonly days: Days,
    slots: Slots,
  ) {
    this.step = every.count * (every.unit === 'hour' ? 3_600_000 : 60_000)
    this.key = slots.cell(NaN)
    this.growing = slots.take(BAR_FIELDS.length, NaN)
  }

  private keyOf(bar: LiveBar, day: Day): number {
    if (!isIntraday(this.every)) {
      if (this.dayAsked !== day) {
        this.dayAsked = day
        this.keyOfDay = calendarKey(day.local, this.every)
      }
      return this.keyOfDay
    }
    return day.first + Math.floor((bar.time - day.first) / this.step) * this.step
  }

  /** The coarse bar that ends because this one begins another; undefined where it goes on. */
  ended(bar: LiveBar, day: Day, keep: boolean): LiveBar | undefined {
    const key = this.keyOf(bar, day)
    if (key === this.key[0]) return undefined
    const before = this.growing[0] === this.growing[0] ? asLiveBar(this.growing) : undefined
    if (keep) {
      this.key[0] = key
      this.growing.fill(NaN)
    }
    return before
  }

  /** Adds a complete bar; the coarse bar with it, and whether that is complete as far as can be told. */
  add(bar: LiveBar, day: Day): { bar: LiveBar; complete: boolean } {
    const begun = this.growing[0] === this.growing[0]
    const now = begun ? joined(asLiveBar(this.growing), bar) : { ...bar }
    BAR_FIELDS.forEach((name, k) => (this.growing[k] = now[name] ?? NaN))
    return { bar: now, complete: !this.underWay(bar, day) }
  }

  /** As resample tells it of its last bar. */
  private underWay(bar: LiveBar, day: Day): boolean {
    if (bar.end === Infinity) return true
    if (isIntraday(this.finer)) {
      if (isIntraday(this.every) && bar.end - this.key[0] >= this.step) return false
      if (!(this.days.minute(bar.end) >= day.endBefore)) return true
      if (isIntraday(this.every)) return false
    }
    const last = localDayOf(bar.end - 1, this.days.zone)
    return calendarKey(nextWeekday(last, this.days.zone), this.every) === this.key[0]
  }
}

function joined(before: LiveBar, bar: LiveBar): LiveBar {
  const out: LiveBar = { ...before, end: bar.end, close: bar.close, volume: before.volume + bar.volume }
  if (!(before.high >= bar.high)) out.high = bar.high
  if (!(before.low <= bar.low)) out.low = bar.low
  for (const name of COUNTED) if (before[name] !== undefined) out[name] = before[name] + (bar[name] ?? NaN)
  return out
}
