import { room } from './slidingSum'
import * as step from './steps'
import { GAP, type Indicator, length, UPPER_LOWER } from './types'

/**
 * Mean and population standard deviation over a moving window, by blocks as slidingSum. Values are counted
 * from a reference that lies among them, the first of each block, so that what their squares lose to rounding
 * stays far below what is asked for (shifted data: Chan, Golub and LeVeque, 1983).
 */
export function slidingDeviation(
  src: Float64Array,
  n: number,
  mean: Float64Array,
  deviation: Float64Array,
): void {
  const rest = room(2 * n + 2)
  const squared = n + 1
  const share = 1 / n
  for (let start = 0; start < src.length; start += n) {
    const end = Math.min(start + n, src.length)
    const from = src[start]
    let left = start === 0 ? NaN : 0
    let leftSquared = left
    rest[n] = rest[squared + n] = 0
    for (let k = n - 1, i = start - 1; k > 0; k--, i--) {
      const d = src[i] - from
      rest[k] = left += d
      rest[squared + k] = leftSquared += d * d
    }
    let come = 0
    let comeSquared = 0
    for (let i = start, k = 1; i < end; i++, k++) {
      const d = src[i] - from
      come += d
      comeSquared += d * d
      const sum = rest[k] + come
      const spread = rest[squared + k] + comeSquared - sum * sum * share
      mean[i] = from + sum * share
      // Rounding can leave a hair below nought where all values are alike.
      deviation[i] = spread < 0 ? 0 : Math.sqrt(spread * share)
    }
  }
}

export const bollinger: Indicator = {
  name: 'bollinger',
  also: ['bollinger bands', 'bb', 'bands'],
  opposite: UPPER_LOWER,
  unknown: GAP,
  input: 'series',
  parameters: [length('length', 20), { name: 'deviations', preset: 2, min: 0, max: 100, whole: false }],
  outputs: [
    { name: 'middle', unit: 'input' },
    { name: 'upper', unit: 'input' },
    { name: 'lower', unit: 'input' },
  ],
  warmUp: ([n]) => n,
  doc: 'Simple average (middle) with a band of so many standard deviations above (upper) and below (lower).',
  source: 'Bollinger, Bollinger on Bollinger Bands (2001): 20 bars, 2 deviations, population form',
  column: ([src], [n, deviations], [middle, upper, lower]) => {
    slidingDeviation(src, n, middle, upper)
    for (let i = 0; i < src.length; i++) {
      const width = deviations * upper[i]
      upper[i] = middle[i] + width
      lower[i] = middle[i] - width
    }
  },
  steps: ([n, deviations], slots) => {
    const of = step.deviation(slots, n)
    return (ins, outs, keep) => {
      const width = deviations * of.step(ins[0], keep)
      const { mean } = of.at
      outs[0] = mean
      outs[1] = mean + width
      outs[2] = mean - width
    }
  },
}
