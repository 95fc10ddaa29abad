import { CONTRACT_MULTIPLIER, isOption } from '../options/osi'
import { type Leg, type Side } from './legs'
import { directionOf } from './levels'

/** Where a security of a leg may be dealt in, in e4. */
export interface Dealt {
  bid: number
  ask: number
}

/** What a security is dealt in at by a side. */
export const dealtAt = (side: Side, { bid, ask }: Dealt): number => (side === 'Buy' ? ask : bid)

/**
 * Net price of legs a unit of ratio, in e4: option prices as they stand, a stock's by a hundred shares; what is paid is above 0, what is
 * received below. Times a hundred it is the money of one unit (common practice of US options markets). `priceOf` gives
 * the price of each leg.
 */
export function netE4(legs: readonly Leg[], priceOf: (leg: Leg) => number): number {
  let sum = 0
  for (const leg of legs) {
    const ratio = isOption(leg.symbol) ? leg.legRatioQty : leg.legRatioQty / CONTRACT_MULTIPLIER
    sum += directionOf(leg.legSide) * ratio * priceOf(leg)
  }
  return Math.round(sum)
}
