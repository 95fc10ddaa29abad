import { type Bars, completedBy, COUNTED, emptyBars } from './bars'
import { type LocalDay, localDayOf, minuteOf } from './localDays'
import { isIntraday, roughMinutes, type Timeframe, timeframeText } from './timeframe'

/**
 * Which coarser bar each bar belongs to. Days, weeks and months are calendar units of the bars' zone; minute
 * and hour bars are counted from the first bar of each day, so that they are aligned to the session.
 */
function groupKeys(bars: Bars, every: Timeframe): Float64Array {
  const { time, zone } = bars
  const name = `${timeframeText(every)} ${zone}`
  let known = cache.get(time)
  if (!known) cache.set(time, (known = new Map()))
  let keys = known.get(name)
  if (!keys) known.set(name, (keys = makeKeys(time, zone, every)))
  return keys
}

/** By time column: securities of one calendar share it, so the zone is asked once for all of them. */
const cache = new WeakMap<Float64Array, Map<string, Float64Array>>()

function makeKeys(time: Float64Array, zone: string, every: Timeframe): Float64Array {
  const keys = new Float64Array(time.length)
  const intraday = isIntraday(every)
  const step = every.count * (every.unit === 'hour' ? 3_600_000 : 60_000)
  let dayEnd = -Infinity
  let dayKey = 0
  let dayFirst = 0
  for (let i = 0; i < time.length; i++) {
    if (time[i] >= dayEnd) {
      const local = localDayOf(time[i], zone)
      dayEnd = local.end
      dayFirst = time[i]
      dayKey = calendarKey(local, every)
    }
    keys[i] = intraday ? dayFirst + Math.floor((time[i] - dayFirst) / step) * step : dayKey
  }
  return keys
}

/** Which day, week or month, or group of them, a local date belongs to. */
export function calendarKey(
  { number: days, year, month }: Pick<LocalDay, 'number' | 'year' | 'month'>,
  every: Timeframe,
): number {
  if (every.unit === 'month') return Math.floor((year * 12 + month - 1) / every.count)
  // 1970-01-01 was a Thursday: three days on, so that weeks begin on Monday.
  if (every.unit === 'week') return Math.floor(Math.floor((days + 3) / 7) / every.count)
  return every.unit === 'day' && every.count > 1 ? Math.floor(days / every.count) : days
}

/**
 * Bars of a coarser timeframe, and for each of the given bars the row that it fell into. A coarse bar starts
 * with its first and is complete with its last given bar (`end` is Infinity while the last one still grows);
 * unknown prices are passed over.
 * Throws RangeError if the timeframe is finer than that of the bars.
 */
export function resample(bars: Bars, every: Timeframe): { bars: Bars; row: Int32Array } {
  if (roughMinutes(every) < roughMinutes(bars.every)) {
    throw new RangeError('Bars can be made coarser, not finer')
  }
  if (timeframeText(every) === timeframeText(bars.every))
    return { bars, row: Int32Array.from(bars.time.keys()) }
  const keys = groupKeys(bars, every)
  const n = keys.length
  const row = new Int32Array(n)
  let rows = 0
  for (let i = 0; i < n; i++) {
    if (i > 0 && keys[i] !== keys[i - 1]) rows++
    row[i] = rows
  }
  const out = emptyBars(n === 0 ? 0 : rows + 1, every, bars.zone)
  for (const name of COUNTED) {
    const trades = bars[name]
    if (!trades) continue
    const sums = (out[name] = new Float64Array(out.time.length))
    for (let i = 0; i < n; i++) sums[row[i]] += trades[i]
  }
  for (let i = 0; i < n; i++) {
    const r = row[i]
    if (i === 0 || row[i - 1] !== r) {
      out.time[r] = bars.time[i]
      out.open[r] = bars.open[i]
      out.high[r] = bars.high[i]
      out.low[r] = bars.low[i]
      out.volume[r] = 0
    }
    if (!(out.high[r] >= bars.high[i])) out.high[r] = bars.high[i]
    if (!(out.low[r] <= bars.low[i])) out.low[r] = bars.low[i]
    out.close[r] = bars.close[i]
    out.volume[r] += bars.volume[i]
    out.end[r] = bars.end[i]
  }
  if (n > 0 && lastUnderWay(bars, every, keys)) out.end[rows] = Infinity
  return { bars: out, row }
}

/** Coarser bars of finer ones, those alone that are complete; bars that are not finer stand as they are. */
export function resampledWhole(bars: Bars, every: Timeframe): Bars {
  if (roughMinutes(bars.every) >= roughMinutes(every)) return bars
  return completedBy(resample(bars, every).bars, Number.MAX_VALUE)
}

/**
 * Whether the last coarse bar is still growing, as far as the given bars can tell: a week or month until no
 * weekday of it is left, a day until it reaches as late as the day before it did, an hour until it is full.
 */
function lastUnderWay(bars: Bars, every: Timeframe, keys: Float64Array): boolean {
  const last = bars.time.length - 1
  if (bars.end[last] === Infinity) return true
  const local = localDayOf(bars.end[last] - 1, bars.zone)
  if (isIntraday(bars.every)) {
    const full = every.count * (every.unit === 'hour' ? 3_600_000 : 60_000)
    if (isIntraday(every) && bars.end[last] - keys[last] >= full) return false
    if (!reachesDayEnd(bars, local)) return true
    if (isIntraday(every)) return false
  }
  return calendarKey(nextWeekday(local, bars.zone), every) === keys[last]
}

/** The first day after one that is no Saturday or Sunday. */
export function nextWeekday(day: LocalDay, zone: string): LocalDay {
  let next = localDayOf(day.end, zone)
  // 1970-01-01, day 0, was a Thursday.
  while ((next.number + 3) % 7 > 4) next = localDayOf(next.end, zone)
  return next
}

function reachesDayEnd(bars: Bars, lastDay: LocalDay): boolean {
  let before = bars.time.length - 1
  while (before >= 0 && bars.time[before] >= lastDay.start) before--
  if (before < 0) return false
  const clock = (moment: number) => minuteOf(moment, bars.zone)
  return clock(bars.end[bars.end.length - 1]) >= clock(bars.end[before])
}
