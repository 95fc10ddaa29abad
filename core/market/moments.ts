import { DateTime } from 'luxon'
import { type Bars, sliceBars } from './bars'
import { isIntraday, type Timeframe } from './timeframe'

/**
 * Moments in words and in files. A moment is told in the zone of its own security: the venue's, or that of the file
 * it came from. A bar of a day or longer is a date, never an instant.
 */

const local = (moment: number, zone: string): DateTime =>
  DateTime.fromMillis(moment, { zone }).setLocale('en')

/** The date on which a moment lies in a zone, "yyyy-MM-dd". */
export const dateIn = (moment: number, zone: string): string => local(moment, zone).toISODate()!

/** What a bar's start is called in files: its date for days and longer, else date and time with the offset. */
export const stampOf = (every: Timeframe, zone: string, start: number): string =>
  isIntraday(every) ? local(start, zone).toISO({ suppressMilliseconds: true })! : dateIn(start, zone)

/**
 * The same for many bars of a zone, without asking the calendar for each: the offset is asked once for each quarter
 * of an hour, the finest step at which clocks are changed anywhere (IANA time zone database).
 */
export function stamper(every: Timeframe, zone: string): (start: number) => string {
  const intraday = isIntraday(every)
  let [quarter, offset, suffix] = [NaN, 0, '']
  // Many things happen at one moment.
  let [last, told] = [NaN, '']
  return (start) => {
    if (start === last) return told
    const now = Math.floor(start / 900_000)
    if (now !== quarter) {
      const at = local(start, zone)
      quarter = now
      offset = at.offset * 60_000
      suffix = /(Z|[+-]\d\d:\d\d)$/.exec(at.toISO()!)![0]
    }
    const text = new Date(start + offset).toISOString()
    last = start
    told = intraday ? `${text.slice(0, text.endsWith('.000Z') ? 19 : 23)}${suffix}` : text.slice(0, 10)
    return told
  }
}

/** A bar by its start, for people: "Mon 16 Mar 2026", "Mon 16 Mar 2026, 10:42". */
export const sayStart = (every: Timeframe, zone: string, start: number): string =>
  local(start, zone).toFormat(isIntraday(every) ? 'ccc d LLL yyyy, HH:mm' : 'ccc d LLL yyyy')

/** A bar of a security by its row. */
export const sayBar = (bars: Bars, row: number): string => sayStart(bars.every, bars.zone, bars.time[row])

/** A moment for people, whatever bars it belongs to: "Mon 16 Mar 2026, 10:42". */
export const sayMoment = (moment: number, zone: string): string =>
  local(moment, zone).toFormat('ccc d LLL yyyy, HH:mm')

/** A time of the day: "10:45". */
export const timeOfDay = (moment: number, zone: string): string => local(moment, zone).toFormat('HH:mm')

/** When a venue opens, for people, within a week: "Tuesday 09:30". */
export const sayOpens = (open: number, zone: string): string => local(open, zone).toFormat('cccc HH:mm')

/**
 * Up to when bars go, for people: the day that is over for days and longer ("the close of Mon 16 Mar 2026"), else the
 * moment. `growing`: the last bar is not over yet, so that its end is the moment at which it was taken.
 */
export function sayEnd(every: Timeframe, zone: string, end: number, growing = false): string {
  if (growing || isIntraday(every)) return sayMoment(end, zone)
  // A day that ends at midnight is the one before.
  return `the close of ${local(end - 1, zone).toFormat('ccc d LLL yyyy')}`
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
