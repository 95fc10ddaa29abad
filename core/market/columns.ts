import { DateTime } from 'luxon'
import { type Bars, EXTRAS, SERIES } from './bars'

/** Columns that rules can take from bars: what is in them, and what the calendar says of each bar. */
export const CALENDAR = ['session', 'began', 'clock'] as const
export const COLUMN_NAMES = [...SERIES, ...EXTRAS, ...CALENDAR] as const
export type ColumnName = (typeof COLUMN_NAMES)[number]

type Calendar = Record<(typeof CALENDAR)[number], Float64Array>

/** By time column, as securities of one calendar share it. */
const known = new WeakMap<Float64Array, { zone: string; of: Calendar }>()

/**
 * Of each bar: `session`, the number of its local day; `began`, the minute of the day at which it began; `clock`,
 * that at which it was complete (at which it began, while it still grows); all in the zone of the bars.
 */
export function calendarOf(bars: Bars): Calendar {
  const { time, end, zone } = bars
  const kept = known.get(time)
  if (kept?.zone === zone) return kept.of
  const column = () => new Float64Array(time.length)
  const of = { session: column(), began: column(), clock: column() }
  let [dayStart, dayEnd, day, firstMinute, first] = [0, -Infinity, 0, 0, 0]
  for (let i = 0; i < time.length; i++) {
    if (!(time[i] >= dayStart && time[i] < dayEnd)) {
      const local = DateTime.fromMillis(time[i], { zone })
      dayStart = local.startOf('day').toMillis()
      dayEnd = local.startOf('day').plus({ days: 1 }).toMillis()
      day = Math.floor(Date.UTC(local.year, local.month - 1, local.day) / 86_400_000)
      first = time[i]
      firstMinute = local.hour * 60 + local.minute
    }
    of.session[i] = day
    of.began[i] = firstMinute + Math.floor((time[i] - first) / 60_000)
    const moment = Number.isFinite(end[i]) ? end[i] : time[i]
    of.clock[i] =
      moment <= dayEnd ? firstMinute + Math.floor((moment - first) / 60_000) : minuteOf(moment, zone)
  }
  known.set(time, { zone, of })
  return of
}

function minuteOf(moment: number, zone: string): number {
  const local = DateTime.fromMillis(moment, { zone })
  return local.hour * 60 + local.minute
}

/** A column of bars by name; unknown everywhere where the bars do not hold it. */
export function columnOf(bars: Bars, name: ColumnName): Float64Array {
  if (name === 'session' || name === 'began' || name === 'clock') return calendarOf(bars)[name]
  return bars[name] ?? new Float64Array(bars.time.length).fill(NaN)
}
