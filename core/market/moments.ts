import { DateTime } from 'luxon'
import { type Bars, sliceBars } from './bars'
import { offsetAt } from './offsets'
import { isIntraday, type Timeframe } from './timeframe'

/**
 * Moments in words and in files. A moment is told in the zone of its own security: the venue's, or that of the file
 * it came from. A bar of a day or longer is a date, never an instant.
 */

/**
 * Writes a moment as the clocks of a zone tell it, handed over as the date that has the same parts in the universal clock. Where
 * there is no moment, such as that of a bar that is not there, there is nothing to write.
 */
function written(moment: number, zone: string, write: (on: Date) => string): string {
  const on = moment + offsetAt(zone, moment) * 60_000
  return Number.isFinite(on) ? write(new Date(on)) : ''
}

const DAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday']
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']

/** A day for people: "Mon 16 Mar 2026". */
const sayDay = (on: Date): string =>
  `${DAYS[on.getUTCDay()].slice(0, 3)} ${on.getUTCDate()} ${MONTHS[on.getUTCMonth()]} ${on.getUTCFullYear()}`

const sayTime = (on: Date): string => on.toISOString().slice(11, 16)

/** The date on which a moment lies in a zone, "yyyy-MM-dd". */
export const dateIn = (moment: number, zone: string): string =>
  written(moment, zone, (on) => on.toISOString().slice(0, 10))

/** What a bar's start is called in files: its date for days and longer, else date and time with the offset. */
export const stampOf = (every: Timeframe, zone: string, start: number): string =>
  isIntraday(every)
    ? DateTime.fromMillis(start, { zone }).toISO({ suppressMilliseconds: true })!
    : dateIn(start, zone)

/** The same for many bars of a zone. */
export function stamper(every: Timeframe, zone: string): (start: number) => string {
  const intraday = isIntraday(every)
  let [offset, suffix] = [NaN, '']
  // Many things happen at one moment.
  let [last, told] = [NaN, '']
  return (start) => {
    if (start === last) return told
    const now = offsetAt(zone, start) * 60_000
    if (now !== offset) {
      offset = now
      suffix = /(Z|[+-]\d\d:\d\d)$/.exec(DateTime.fromMillis(start, { zone }).toISO()!)![0]
    }
    const text = new Date(start + offset).toISOString()
    last = start
    told = intraday ? `${text.slice(0, text.endsWith('.000Z') ? 19 : 23)}${suffix}` : text.slice(0, 10)
    return told
  }
}

/** A bar by its start, for people: "Mon 16 Mar 2026", "Mon 16 Mar 2026, 10:42". */
export const sayStart = (every: Timeframe, zone: string, start: number): string =>
  isIntraday(every) ? sayMoment(start, zone) : written(start, zone, sayDay)

/** A bar of a security by its row. */
export const sayBar = (bars: Bars, row: number): string => sayStart(bars.every, bars.zone, bars.time[row])

/** A moment for people, whatever bars it belongs to: "Mon 16 Mar 2026, 10:42". */
export const sayMoment = (moment: number, zone: string): string =>
  written(moment, zone, (on) => `${sayDay(on)}, ${sayTime(on)}`)

/** A time of the day: "10:45". */
export const timeOfDay = (moment: number, zone: string): string => written(moment, zone, sayTime)

/** When a venue opens, for people, within a week: "Tuesday 09:30". */
export const sayOpens = (open: number, zone: string): string =>
  written(open, zone, (on) => `${DAYS[on.getUTCDay()]} ${sayTime(on)}`)

/**
 * Up to when bars go, for people: the day that is over for days and longer ("the close of Mon 16 Mar 2026"), else the
 * moment. `growing`: the last bar is not over yet, so that its end is the moment at which it was taken.
 */
export function sayEnd(every: Timeframe, zone: string, end: number, growing = false): string {
  if (growing || isIntraday(every)) return sayMoment(end, zone)
  // A day that ends at midnight is the one before.
  return `the close of ${written(end - 1, zone, sayDay)}`
}

const ends = new Map<string, number>()

/** The first moment after a date in a zone. Throws RangeError for a date that is none. */
export function endOfDate(date: string, zone: string): number {
  const key = `${zone} ${date}`
  let end = ends.get(key)
  if (end === undefined) {
    const day = DateTime.fromISO(date, { zone })
    if (!day.isValid) throw new RangeError(`"${date}" is not a date. Write it as 2026-03-02.`)
    if (ends.size > 2_000) ends.clear()
    ends.set(key, (end = day.plus({ days: 1 }).startOf('day').toMillis()))
  }
  return end
}

/** Bars complete by the end of a date in their own zone; all of them without one. */
export function completedOn(bars: Bars, date: string | undefined): Bars {
  if (date === undefined) return bars
  const by = endOfDate(date, bars.zone)
  let n = bars.end.length
  while (n > 0 && bars.end[n - 1] > by) n--
  return n === bars.end.length ? bars : sliceBars(bars, 0, n)
}
