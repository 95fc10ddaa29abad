import { type Adjustment } from '@/core/market/adjust'
import { type Bars, type ExtraName } from '@/core/market/bars'

/** How bars are asked for: the last `limit` that begin from `from` up to `to`, epoch milliseconds. */
export interface BarsAsk {
  from?: number
  to?: number
  limit: number
  soFar: boolean
  prices?: Adjustment
  extras?: readonly ExtraName[]
}

/** Bars, and whether there are more in what was asked for, before the first. */
export interface Series {
  bars: Bars
  cut: boolean
}
