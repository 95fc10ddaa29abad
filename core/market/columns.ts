import { type Bars, EXTRAS, PATH, SERIES } from './bars'
import { localDayOf, minuteOf } from './localDays'

/** Columns that rules can take from bars: what is in them, and what the calendar says of each bar. */
export const CALENDAR = ['session', 'began', 'clock'] as const
export const COLUMN_NAMES = [...SERIES, ...EXTRAS, ...PATH, ...CALENDAR] as const
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
      const local = localDayOf(time[i], zone)
      dayStart = local.start
      dayEnd = local.end
      day = local.number
      first = time[i]
      firstMinute = minuteOf(first, zone)
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

/** A column of bars by name; unknown everywhere where the bars do not hold it. */
export function columnOf(bars: Bars, name: ColumnName): Float64Array {
  if (name === 'session' || name === 'began' || name === 'clock') return calendarOf(bars)[name]
  return bars[name] ?? new Float64Array(bars.time.length).fill(NaN)
}
