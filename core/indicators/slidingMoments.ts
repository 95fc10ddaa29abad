import { type Slots } from './slots'
import { room } from './slidingSum'
import { shiftedSums } from './steps'

/** Columns that slidingMoments fills: the means of two series over a window, and sums about those means. */
export interface Moments {
  meanX: Float64Array
  meanY: Float64Array
  xx: Float64Array
  yy: Float64Array
  xy: Float64Array
}

/**
 * Means of two series over the n values that end at each row, and sums of squares and products about them, by blocks
 * as slidingSum. Values are counted from the first of each block, which lies in every window that reaches into it, so
 * that little is lost to rounding (shifted data: Chan, Golub and LeVeque, 1983). Unknown before the window is full,
 * and while it holds an unknown value.
 */
export function slidingMoments(x: Float64Array, y: Float64Array, n: number, out: Moments): void {
  const rest = room(5 * (n + 1))
  const [atY, atXX, atYY, atXY] = [n + 1, 2 * n + 2, 3 * n + 3, 4 * n + 4]
  const { meanX, meanY, xx, yy, xy } = out
  const share = 1 / n
  for (let start = 0; start < x.length; start += n) {
    const end = Math.min(start + n, x.length)
    const [fromX, fromY] = [x[start], y[start]]
    let sx = start === 0 ? NaN : 0
    let [sy, sxx, syy, sxy] = [sx, sx, sx, sx]
    rest[n] = rest[atY + n] = rest[atXX + n] = rest[atYY + n] = rest[atXY + n] = 0
    for (let k = n - 1, i = start - 1; k > 0; k--, i--) {
      const dx = x[i] - fromX
      const dy = y[i] - fromY
      rest[k] = sx += dx
      rest[atY + k] = sy += dy
      rest[atXX + k] = sxx += dx * dx
      rest[atYY + k] = syy += dy * dy
      rest[atXY + k] = sxy += dx * dy
    }
    sx = sy = sxx = syy = sxy = 0
    for (let i = start, k = 1; i < end; i++, k++) {
      const dx = x[i] - fromX
      const dy = y[i] - fromY
      const sumX = rest[k] + (sx += dx)
      const sumY = rest[atY + k] + (sy += dy)
      sxx += dx * dx
      syy += dy * dy
      sxy += dx * dy
      meanX[i] = fromX + sumX * share
      meanY[i] = fromY + sumY * share
      xx[i] = positive(rest[atXX + k] + sxx, sumX * sumX * share)
      yy[i] = positive(rest[atYY + k] + syy, sumY * sumY * share)
      xy[i] = rest[atXY + k] + sxy - sumX * sumY * share
    }
  }
}

/** A sum of squares less what the mean takes of it; what rounding alone leaves is nought. */
const positive = (squares: number, mean: number): number => {
  const left = squares - mean
  return left < 1e-13 * squares ? 0 : left
}

/** The same one pair of values at a time. */
export function momentsStep(
  slots: Slots,
  n: number,
): (x: number, y: number, keep: boolean) => Record<keyof Moments, number> {
  const sums = shiftedSums(slots, n, 2, 5, (d, _, out) => {
    out[0] = d[0]
    out[1] = d[1]
    out[2] = d[0] * d[0]
    out[3] = d[1] * d[1]
    out[4] = d[0] * d[1]
  })
  const [pair, share] = [new Float64Array(2), 1 / n]
  return (x, y, keep) => {
    pair[0] = x
    pair[1] = y
    const { old, now, from } = sums(pair, keep)
    const [sumX, sumY] = [old[0] + now[0], old[1] + now[1]]
    return {
      meanX: from[0] + sumX * share,
      meanY: from[1] + sumY * share,
      xx: positive(old[2] + now[2], sumX * sumX * share),
      yy: positive(old[3] + now[3], sumY * sumY * share),
      xy: old[4] + now[4] - sumX * sumY * share,
    }
  }
}
