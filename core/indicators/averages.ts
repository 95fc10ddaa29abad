import { smooth } from './recursive'
import { room, slidingMean } from './slidingSum'
import * as step from './steps'
import { one } from './steps'
import { AS_PRICE, GAP, type Indicator, length } from './types'

export const sma: Indicator = {
  name: 'sma',
  also: ['simple moving average', 'ma', 'moving average', 'mean', 'average'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: 'series',
  parameters: [length('length')],
  outputs: [{ name: 'value', unit: 'input' }],
  warmUp: ([n]) => n,
  doc: 'Simple average: the plain mean of the last bars.',
  source: 'Definition of the arithmetic mean over a moving window',
  column: ([src], [n], [out]) => slidingMean(src, n, out),
  steps: one(([n], slots) => step.mean(slots, n)),
}

export const ema: Indicator = {
  name: 'ema',
  also: ['exponential moving average', 'ewma', 'average'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: 'series',
  parameters: [length('length')],
  outputs: [{ name: 'value', unit: 'input' }],
  warmUp: ([n]) => n,
  doc: 'Exponential average: each new bar weighs 2/(length+1); begins with the plain mean of the first bars.',
  source: 'Common practice: weight 2/(n+1), first value the simple average of the first n',
  column: ([src], [n], [out]) => smooth(src, n, 2 / (n + 1), out),
  steps: one(([n], slots) => step.exponential(slots, n)),
}

export const wma: Indicator = {
  name: 'wma',
  also: ['weighted moving average', 'linear weighted', 'average'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: 'series',
  parameters: [length('length')],
  outputs: [{ name: 'value', unit: 'input' }],
  warmUp: ([n]) => n,
  doc: 'Weighted average: the newest bar weighs most, each older one a step less.',
  source: 'Definition: weights n, n-1, ... 1 over their sum n(n+1)/2',
  column: ([src], [n], [out]) => weigh(src, n, out),
  steps: one(([n], slots) => step.weighted(slots, n)),
}

/** Weighted sums by blocks, as slidingSum: of each block its plain sums and its sums weighted by place. */
export function weigh(src: Float64Array, n: number, out: Float64Array): void {
  const rest = room(2 * n + 2)
  const placed = n + 1
  rest.fill(NaN, 0, n)
  rest.fill(NaN, placed, placed + n)
  rest[n] = rest[placed + n] = 0
  const share = 2 / (n * (n + 1))
  for (let start = 0; start < src.length; start += n) {
    const end = Math.min(start + n, src.length)
    let come = 0
    let comePlaced = 0
    for (let i = start, k = 0; i < end; i++, k++) {
      const x = src[i]
      come += x
      comePlaced += k * x
      // Value k of this block weighs n - (its age), value j of the one before what is left of that.
      const old = rest[placed + k + 1] - k * rest[k + 1]
      out[i] = (old + (n - k) * come + comePlaced) * share
    }
    let left = 0
    let leftPlaced = 0
    for (let k = n - 1; k >= 0; k--) {
      const x = src[start + k]
      rest[k] = left += x
      rest[placed + k] = leftPlaced += k * x
    }
  }
}
