import { smooth } from './recursive'
import * as step from './steps'
import { DISTANCE, GAP, type Indicator, length } from './types'

/**
 * Greatest of the bar's range and its reach from the close before. A first bar has no close before it, so
 * its true range is its range (common practice). Source: Wilder (1978).
 */
export function trueRange(
  high: Float64Array,
  low: Float64Array,
  close: Float64Array,
  out: Float64Array,
): void {
  if (out.length > 0) out[0] = high[0] - low[0]
  for (let i = 1; i < out.length; i++) {
    const before = close[i - 1]
    const top = high[i] > before ? high[i] : before
    const bottom = low[i] < before ? low[i] : before
    // Adding nought times each keeps an unknown value unknown, which > and < would pass over.
    out[i] = top - bottom + 0 * (high[i] + low[i] + before)
  }
}

export const atr: Indicator = {
  name: 'atr',
  also: ['average true range', 'volatility'],
  opposite: DISTANCE,
  unknown: GAP,
  input: ['high', 'low', 'close'],
  parameters: [length('length', 14)],
  outputs: [{ name: 'value', unit: 'price' }],
  warmUp: ([n]) => n,
  doc: 'Average true range: how far the price usually travels in a bar, gaps included.',
  source: 'Wilder, New Concepts in Technical Trading Systems (1978)',
  column: ([high, low, close], [n], [out]) => {
    trueRange(high, low, close, out)
    smooth(out, n, 1 / n, out)
  },
  steps: ([n], slots) => {
    const [reach, average] = [step.range(slots), step.smooth(slots, n, 1 / n)]
    return (ins, outs, keep) => {
      outs[0] = average(reach(ins[0], ins[1], ins[2], keep), keep)
    }
  },
}
