import { isMore } from '../market/paper'
import { slidingHighest, slidingLowest } from './extremes'
import { rsi, rsiStep } from './rsi'
import { type Slots } from './slots'
import { scratch, slidingMean } from './slidingSum'
import * as step from './steps'
import { one } from './steps'
import { ABOUT_NOUGHT, BETWEEN_BOUNDS, GAP, type Indicator, length, value } from './types'

/** Where the price stands in its recent range, and how fast it moves. */

/** Where a value stands between two others, in percent; 50 where there is no range but what rounding leaves. */
export const placeBetween = (x: number, low: number, high: number): number =>
  isMore(high - low, high) ? (100 * (x - low)) / (high - low) : 50 + 0 * (x - low + high)

const lines = [
  { name: 'slow', unit: 'number', range: [0, 100] },
  { name: 'signal', unit: 'number', range: [0, 100] },
  { name: 'fast', unit: 'number', range: [0, 100] },
] as const

/** Place of a series in the range of the last n highs and lows, and its two averages. */
function placeInRange(
  [high, low, close]: readonly Float64Array[],
  [n, k, d]: readonly number[],
  [slow, signal, fast]: readonly Float64Array[],
): void {
  slidingHighest(high, n, slow)
  slidingLowest(low, n, signal)
  for (let i = 0; i < close.length; i++) fast[i] = placeBetween(close[i], signal[i], slow[i])
  slidingMean(fast, k, slow)
  slidingMean(slow, d, signal)
}

/** The same one bar at a time. */
function placeStep(slots: Slots, n: number, k: number, d: number) {
  const [top, bottom] = [step.extreme(slots, n, 1), step.extreme(slots, n, -1)]
  const [slow, signal] = [step.mean(slots, k), step.mean(slots, d)]
  return (high: number, low: number, close: number, outs: Float64Array, keep: boolean): void => {
    const [upper, lower] = [top(high, keep), bottom(low, keep)]
    outs[2] = placeBetween(close, lower, upper)
    outs[0] = slow(outs[2], keep)
    outs[1] = signal(outs[0], keep)
  }
}

export const stochastic: Indicator = {
  name: 'stochastic',
  also: ['%k', '%d', 'stochastics', 'kd'],
  opposite: BETWEEN_BOUNDS,
  unknown: GAP,
  input: ['high', 'low', 'close'],
  parameters: [length('length', 14), length('smoothing', 3), length('signal', 3)],
  outputs: lines,
  warmUp: ([n, k, d]) => n + k + d - 2,
  doc: 'Where the close stands in the range of the last bars, 0 to 100: raw (fast), averaged (slow), averaged again (signal). 50 where there is no range.',
  source: 'Lane, 14 bars, averages of 3',
  column: placeInRange,
  steps: ([n, k, d], slots) => {
    const place = placeStep(slots, n, k, d)
    return (ins, outs, keep) => place(ins[0], ins[1], ins[2], outs, keep)
  },
}

export const stochasticRsi: Indicator = {
  name: 'stochrsi',
  also: ['stochastic rsi'],
  opposite: BETWEEN_BOUNDS,
  unknown: GAP,
  input: 'series',
  parameters: [length('rsiLength', 14), length('length', 14), length('smoothing', 3), length('signal', 3)],
  outputs: lines,
  warmUp: ([m, n, k, d]) => m + n + k + d - 2,
  doc: 'The stochastic of the relative strength index: where that stands in its own range of the last bars.',
  source: 'Chande and Kroll, The New Technical Trader (1994), with the averages of Lane',
  column: ([src], [m, ...rest], outs) => {
    const strength = scratch(0, src.length)
    rsi.column([src], [m], [strength])
    placeInRange([strength, strength, strength], rest, outs)
  },
  steps: ([m, n, k, d], slots) => {
    const [strength, place] = [rsiStep(slots, m), placeStep(slots, n, k, d)]
    return (ins, outs, keep) => {
      const x = strength(ins[0], keep)
      place(x, x, x, outs, keep)
    }
  },
}

export const williams: Indicator = {
  name: 'williams',
  also: ['%r', 'percent r', 'williams r'],
  opposite: BETWEEN_BOUNDS,
  unknown: GAP,
  input: ['high', 'low', 'close'],
  parameters: [length('length', 14)],
  outputs: value('number', [-100, 0]),
  warmUp: ([n]) => n,
  doc: 'Williams’ percent R, −100 to 0: how far the close is below the highest high, as a share of the range. −50 where there is no range.',
  source: 'Williams, How I Made One Million Dollars (1973)',
  column: ([high, low, close], [n], [out]) => {
    const top = scratch(0, high.length)
    slidingHighest(high, n, top)
    slidingLowest(low, n, out)
    for (let i = 0; i < out.length; i++) out[i] = placeBetween(close[i], out[i], top[i]) - 100
  },
  steps: ([n], slots) => {
    const [top, bottom] = [step.extreme(slots, n, 1), step.extreme(slots, n, -1)]
    return (ins, outs, keep) => {
      const upper = top(ins[0], keep)
      outs[0] = placeBetween(ins[2], bottom(ins[1], keep), upper) - 100
    }
  },
}

export const momentum: Indicator = {
  name: 'momentum',
  also: ['mom', 'difference'],
  opposite: ABOUT_NOUGHT,
  unknown: GAP,
  input: 'series',
  parameters: [length('length', 10)],
  outputs: [{ name: 'value', unit: 'input' }],
  warmUp: ([n]) => n + 1,
  doc: 'Change from the value so many bars ago.',
  source: 'Definition',
  column: ([src], [n], [out]) => {
    out.fill(NaN, 0, Math.min(n, out.length))
    for (let i = n; i < out.length; i++) out[i] = src[i] - src[i - n]
  },
  steps: one(([n], slots) => {
    const before = step.earlier(slots, n)
    return (x, keep) => x - before(x, keep)
  }),
}

export const cci: Indicator = {
  name: 'cci',
  also: ['commodity channel index'],
  opposite: ABOUT_NOUGHT,
  unknown: GAP,
  input: ['high', 'low', 'close'],
  parameters: [length('length', 20)],
  outputs: [{ name: 'value', unit: 'number' }],
  warmUp: ([n]) => n,
  doc: 'Commodity channel index: distance of the typical price from its mean, in mean absolute deviations times 0.015; 0 where nothing moved.',
  source: 'Lambert, Commodities (1980): constant 0.015, mean absolute deviation',
  column: ([high, low, close], [n], [out]) => {
    const typical = scratch(0, high.length)
    for (let i = 0; i < high.length; i++) typical[i] = (high[i] + low[i] + close[i]) / 3
    slidingMean(typical, n, out)
    for (let i = 0; i < out.length; i++) {
      const mean = out[i]
      if (mean !== mean) continue
      let away = 0
      for (let k = i - n + 1; k <= i; k++) away += Math.abs(typical[k] - mean)
      // What is left of a constant series by rounding is no movement.
      out[i] = isMore(away, mean) ? (typical[i] - mean) / ((0.015 * away) / n) : 0
    }
  },
  steps: ([n], slots) => {
    const [average, last] = [step.mean(slots, n), step.lastValues(slots, n)]
    return (ins, outs, keep) => {
      const high = ins[0]
      const low = ins[1]
      const close = ins[2]
      const typical = (high + low + close) / 3
      const mean = average(typical, keep)
      last.push(typical, keep)
      outs[0] = mean
      if (mean !== mean) return
      let away = 0
      for (let k = n - 1; k >= 0; k--) away += Math.abs(last.back(k) - mean)
      outs[0] = isMore(away, mean) ? (typical - mean) / ((0.015 * away) / n) : 0
    }
  },
}
