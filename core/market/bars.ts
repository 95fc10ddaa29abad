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
}

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

/** Rows from `from` up to, not including, `to`, without copying. */
export function sliceBars(bars: Bars, from: number, to: number): Bars {
  const out = { ...bars }
  for (const name of COLUMNS) out[name] = bars[name].subarray(from, to)
  for (const name of ['uptrades', 'downtrades'] as const) out[name] = bars[name]?.subarray(from, to)
  return out
}

/** Rows complete by the moment `now`; a bar still under way is left out. */
export function completedBy(bars: Bars, now: number): Bars {
  let n = bars.end.length
  while (n > 0 && bars.end[n - 1] > now) n--
  return n === bars.end.length ? bars : sliceBars(bars, 0, n)
}
