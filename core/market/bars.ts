import { type Timeframe } from './timeframe'

/**
 * The bars of one security as columns of equal length, oldest first. Times are epoch milliseconds: `time`
 * is when a bar starts, `end` when it is complete. Prices are in currency units, volume in shares. A value
 * that is not known is NaN. `zone` is the IANA zone in which days, weeks and months are counted.
 */
export interface Bars {
  every: Timeframe
  zone: string
  time: Float64Array
  end: Float64Array
  open: Float64Array
  high: Float64Array
  low: Float64Array
  close: Float64Array
  volume: Float64Array
  /** Trades in the bar at a higher, and at a lower, price than the one before; where the source counts them. */
  uptrades?: Float64Array
  downtrades?: Float64Array
  /** Option contracts on the security that were traded in the bar. */
  optionvolume?: Float64Array
  last?: Float64Array
  bid?: Float64Array
  ask?: Float64Array
  /** Of the message that a growing bar stands at: the price before it, and its range. */
  from?: Float64Array
  pathhigh?: Float64Array
  pathlow?: Float64Array
}

/** Columns that bars may have besides, where their source counts them. */
/** Of the quote at the last bar, in its currency; unknown on the bars before. */
export const QUOTED = ['last', 'bid', 'ask'] as const
export const COUNTED = ['uptrades', 'downtrades', 'optionvolume'] as const
/** Of the last message of quotes, while a bar grows; no source of complete bars has them. */
export const PATH = ['from', 'pathhigh', 'pathlow'] as const
export const EXTRAS = [...COUNTED, ...QUOTED] as const
export type ExtraName = (typeof EXTRAS)[number]

export const SERIES = ['open', 'high', 'low', 'close', 'volume'] as const
export type SeriesName = (typeof SERIES)[number]

const COLUMNS = ['time', 'end', ...SERIES] as const

/** New bars of n rows; unknown everywhere. */
export function emptyBars(n: number, every: Timeframe, zone: string): Bars {
  const column = () => new Float64Array(n).fill(NaN)
  return {
    every,
    zone,
    time: column(),
    end: column(),
    open: column(),
    high: column(),
    low: column(),
    close: column(),
    volume: column(),
  }
}

/** Names of the columns that bars hold. */
export const columnNames = (bars: Bars): ((typeof COLUMNS)[number] | ExtraName)[] => [
  ...COLUMNS,
  ...EXTRAS.filter((name) => bars[name]),
]

/** Rows from `from` up to, not including, `to`, without copying. */
export function sliceBars(bars: Bars, from: number, to: number): Bars {
  const out = { ...bars }
  for (const name of columnNames(bars)) out[name] = bars[name]!.subarray(from, to)
  return out
}

/** Rows complete by the moment `now`; a bar still under way is left out. */
export function completedBy(bars: Bars, now: number): Bars {
  let n = bars.end.length
  while (n > 0 && bars.end[n - 1] > now) n--
  return n === bars.end.length ? bars : sliceBars(bars, 0, n)
}
