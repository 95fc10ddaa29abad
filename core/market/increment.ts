import { toE4 } from './money'

/** Smallest step of a price, by band: `from` and `step` in currency units, bands ascending. */
export type IncrementBand = { from: number; step: number }

/**
 * Increment that holds at a price. Source of the usual bands: SEC rule 612 (0.0001 below 1.00, 0.01 from
 * there up).
 */
export function incrementAt(bands: readonly IncrementBand[], price: number): number {
  let step = bands[0].step
  for (const band of bands) if (price >= band.from) step = band.step
  return step
}

/** True if the price is a whole number of increments. */
export function onTick(bands: readonly IncrementBand[], price: number): boolean {
  const e4 = price * 10_000
  const whole = Math.round(e4)
  return Math.abs(e4 - whole) < 1e-4 && whole % toE4(incrementAt(bands, price)) === 0
}

/** How to round a price that lies between two ticks. */
export type Rounding = 'nearest' | 'down' | 'up'

/** A price moved to the tick; halves go up. Never below one increment. */
export function toTick(
  bands: readonly IncrementBand[],
  price: number,
  rounding: Rounding = 'nearest',
): number {
  const step = toE4(incrementAt(bands, price))
  // A hair's breadth, so that 48.21 held as 48.209999… is not taken down a whole tick.
  const ticks = (price * 10_000) / step
  const near = Math.round(ticks)
  const exact = Math.abs(ticks - near) < 1e-6
  const whole =
    exact || rounding === 'nearest' ? near : rounding === 'down' ? Math.floor(ticks) : Math.ceil(ticks)
  return (Math.max(whole, 1) * step) / 10_000
}

/** A distance in price as a number of ticks at that price, not rounded. */
export function ticksBetween(bands: readonly IncrementBand[], from: number, to: number): number {
  return (toE4(to) - toE4(from)) / toE4(incrementAt(bands, from))
}

/** Where no venue says otherwise. */
export const USUAL_INCREMENTS: readonly IncrementBand[] = [
  { from: 0, step: 0.0001 },
  { from: 1, step: 0.01 },
]
