import { type Bars, EXTRAS, type ExtraName, PATH, SERIES, type SeriesName } from '../../market/bars'
import { type Timeframe } from '../../market/timeframe'

/** One bar as it is fed: Infinity is the end of one that still grows. */
export type LiveBar = { time: number; end: number } & Record<SeriesName, number> &
  Partial<Record<ExtraName | (typeof PATH)[number], number>>

/** Columns that a bar may have besides. */
const BESIDES = [...EXTRAS, ...PATH] as const

/** What a bar is kept as in slots, its time first; an extra that it does not have is unknown. */
export const BAR_FIELDS = ['time', 'end', ...SERIES, ...EXTRAS] as const

export function asLiveBar(fields: Float64Array): LiveBar {
  const bar = {} as Record<string, number>
  BAR_FIELDS.forEach((name, k) => {
    if (k < 2 + SERIES.length || fields[k] === fields[k]) bar[name] = fields[k]
  })
  return bar as LiveBar
}

/** A bar as bars of one row, for what is computed of columns. */
function asBars(bar: LiveBar, every: Timeframe, zone: string): Bars {
  const of = (x: number | undefined) => Float64Array.of(x ?? NaN)
  const out = { every, zone, time: of(bar.time), end: of(bar.end) } as Bars
  for (const name of SERIES) out[name] = of(bar[name])
  for (const name of BESIDES) if (bar[name] !== undefined) out[name] = of(bar[name])
  return out
}

/** The same with other values of the same bar: what the calendar says of it need not be asked again. */
function sameBar(bars: Bars, bar: LiveBar): boolean {
  if (bars.time[0] !== bar.time || bars.end[0] !== bar.end) return false
  for (const name of SERIES) bars[name][0] = bar[name]
  for (const name of BESIDES) {
    if ((bar[name] === undefined) !== (bars[name] === undefined)) return false
    if (bars[name]) bars[name][0] = bar[name]!
  }
  return true
}

/** The last bar that was looked at, as bars of one row: many machines are fed the same one after the other. */
let last: { bar: LiveBar; view: Bars } | undefined

/** A bar as bars of one row; they hold until another bar is looked at. */
export function viewOf(bar: LiveBar, every: Timeframe, zone: string): Bars {
  if (last && last.view.zone === zone && isLike(last.view.every, every)) {
    if (last.bar === bar) return last.view
    if (sameBar(last.view, bar)) {
      last.bar = bar
      return last.view
    }
  }
  last = { bar, view: asBars(bar, every, zone) }
  return last.view
}

const isLike = (one: Timeframe, other: Timeframe): boolean =>
  one.count === other.count && one.unit === other.unit

/** Row `i` of bars as one bar. */
export function barAt(bars: Bars, i: number): LiveBar {
  const bar = { time: bars.time[i], end: bars.end[i] } as LiveBar
  for (const name of SERIES) bar[name] = bars[name][i]
  for (const name of EXTRAS) if (bars[name]) bar[name] = bars[name][i]
  return bar
}
