/**
 * What is equal on paper. Prices are decimals and doubles are not: 14.18 − 13.99 and 13.84 − 13.65 are both 0.19 on
 * paper and differ by 2e-15 as doubles. Sums, differences and quotients of prices are therefore compared with a hair
 * between them: a share of the size of what they were made of, ten thousand times what rounding leaves and far below
 * the least difference that whole ten-thousandths can make.
 */
export const HAIR = 1e-12

/** Whether a stands above (1), on (0) or below (-1) b, made of numbers up to `size`; NaN where one is unknown. */
export function sideOf(a: number, b: number, size = 0): number {
  const apart = a - b
  const hair = HAIR * Math.max(Math.abs(a), Math.abs(b), size)
  return apart > hair ? 1 : apart < -hair ? -1 : apart === apart ? 0 : NaN
}

/** How far a value moved from the one before; 0 where they are equal on paper, NaN where one is unknown. */
export function moved(now: number, before: number): number {
  const change = now - before
  return Math.abs(change) <= HAIR * Math.max(Math.abs(now), Math.abs(before)) ? 0 : change
}

/** Whether what is left of numbers of a size is more than rounding leaves. */
export const isMore = (left: number, size: number): boolean => left > HAIR * Math.abs(size)
