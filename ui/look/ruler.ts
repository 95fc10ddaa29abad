import { DateTime } from 'luxon'
import { type Bars } from '@/core/market/bars'
import { dateIn } from '@/core/market/moments'
import { isIntraday } from '@/core/market/timeframe'
import { rowOf } from './marks'

/**
 * The whole history as a ruler. Days and longer are measured in bars; minutes in sessions, since of those only a
 * stretch is loaded and the market has more. A place is a number of units from the left end, with parts.
 */
export interface Ruler {
  units: number
  /** Place of a row of the bars that are loaded; `bars.length` is their end. */
  placeOf(row: number): number
  /** Row that a place lies in; undefined where those bars are not loaded. */
  rowAt(place: number): number | undefined
  /** Start of the unit that a place lies in, epoch milliseconds. */
  momentAt(place: number): number
  /** Place of a moment. */
  placeAt(moment: number): number
  /** The stretch that is loaded. */
  loaded: [number, number]
}

function ofBars(bars: Bars): Ruler {
  const n = bars.time.length
  return {
    units: n,
    placeOf: (row) => row,
    rowAt: (place) => Math.max(0, Math.min(n - 1, Math.floor(place))),
    momentAt: (place) => bars.time[Math.max(0, Math.min(n - 1, Math.floor(place)))],
    placeAt: (moment) => rowOf(bars, moment) ?? 0,
    loaded: [0, n],
  }
}

/** Minutes on the sessions that daily bars name. */
function ofSessions(bars: Bars, days: Bars): Ruler {
  const n = days.time.length
  const last = bars.time.length - 1
  const sessionAt = (moment: number) => rowOf(days, moment) ?? 0
  // A session's length is that of the day's bar; one that still grows is taken for as long as the one before.
  const lengthOf = (day: number) =>
    Number.isFinite(days.end[day])
      ? days.end[day] - days.time[day]
      : day > 0
        ? days.end[day - 1] - days.time[day - 1]
        : 1
  const placeAt = (moment: number) => {
    const day = sessionAt(moment)
    return day + Math.max(0, Math.min(0.999, (moment - days.time[day]) / lengthOf(day)))
  }
  const loaded: [number, number] = [placeAt(bars.time[0]), Math.min(n, placeAt(bars.time[last]) + 0.01)]
  const momentAt = (place: number) => {
    const day = Math.max(0, Math.min(n - 1, Math.floor(place)))
    return days.time[day] + (place - day) * lengthOf(day)
  }
  return {
    units: n,
    placeOf: (row) => (row > last ? loaded[1] : placeAt(bars.time[row])),
    rowAt(place) {
      if (place < loaded[0] - 0.01 || place > loaded[1] + 0.01) return undefined
      return rowOf(bars, momentAt(place)) ?? 0
    },
    momentAt,
    placeAt,
    loaded,
  }
}

/** The ruler for bars; `days` are the daily bars of the same security, where minutes are looked at. */
export const rulerOf = (bars: Bars, days: Bars | undefined): Ruler =>
  isIntraday(bars.every) && days && days.time.length > 1 ? ofSessions(bars, days) : ofBars(bars)

/** Names under the ruler: years where it spans several, months, or days, each at its first unit; few enough to be read. */
export function rulerNames(ruler: Ruler, zone: string, most: number): { place: number; text: string }[] {
  if (ruler.units < 2) return []
  for (const [length, words] of [
    [10, 'd LLL'],
    [7, 'LLL yyyy'],
    [4, 'yyyy'],
  ] as const) {
    const out: { place: number; text: string }[] = []
    let before = dateIn(ruler.momentAt(0), zone).slice(0, length)
    for (let place = 1; place < ruler.units; place++) {
      const date = dateIn(ruler.momentAt(place), zone)
      if (date.slice(0, length) === before) continue
      before = date.slice(0, length)
      out.push({ place, text: DateTime.fromISO(date).setLocale('en').toFormat(words) })
      if (out.length > most) break
    }
    if (out.length <= most) return out
  }
  return []
}

/** Something notched into the ruler. */
export interface Notch {
  place: number
  kind: 'for' | 'against' | 'fill' | 'event' | 'gap'
  filled?: boolean
}

/** Notches that can be told apart: of each kind one to a step of the ruler. */
export function thinnedNotches(notches: readonly Notch[], step: number): Notch[] {
  const seen = new Set<string>()
  return notches.filter(({ kind, place }) => {
    const key = `${kind} ${Math.floor(place / step)}`
    if (seen.has(key)) return false
    seen.add(key)
    return true
  })
}
