import { isMore } from '../market/paper'
import { slidingDeviation } from './bollinger'
import { type Moments, momentsStep, slidingMoments } from './slidingMoments'
import { scratch, slidingSum } from './slidingSum'
import { type Slots } from './slots'
import * as step from './steps'
import { one } from './steps'
import { ABOUT_NOUGHT, type Indicator, length, NEITHER_WAY, type Stepper, value } from './types'

/** One series against another: an index, or the other half of a pair. */

const change = (now: number, before: number): number => (before > 0 ? now / before - 1 : NaN)

/** Relative changes from bar to bar; unknown where the value before is not above nought. */
function changes(src: Float64Array, out: Float64Array): void {
  for (let i = 0; i < out.length; i++) out[i] = i > 0 ? change(src[i], src[i - 1]) : NaN
}

const NAMES = ['meanX', 'meanY', 'xx', 'yy', 'xy'] as const

/** Moments of two series in columns to work in, from the given number on. */
function momentsOf(x: Float64Array, y: Float64Array, n: number, from: number): Moments {
  const all = Object.fromEntries(
    NAMES.map((name, k) => [name, scratch(from + k, x.length)]),
  ) as unknown as Moments
  slidingMoments(x, y, n, all)
  return all
}

const lengths = [{ ...length('length', 60), min: 3 }]

/** Whether relative changes differ by more than rounding: their squares about the mean. */
const varies = (squares: number): boolean => isMore(Math.sqrt(squares), 1)

/** A figure of the changes of two series over the last n bars. */
const ofChanges = (
  name: string,
  also: readonly string[],
  doc: string,
  source: string,
  of: (xx: number, yy: number, xy: number) => number,
  range?: readonly [number, number],
): Indicator => ({
  name,
  also,
  opposite: NEITHER_WAY,
  unknown: 'the second series does not move, or a value among its bars is missing',
  input: 'two series',
  parameters: lengths,
  outputs: value('number', range),
  warmUp: ([n]) => n + 1,
  doc,
  source,
  column: ([x, y], [n], [out]) => {
    const [dx, dy] = [scratch(0, x.length), scratch(1, x.length)]
    changes(x, dx)
    changes(y, dy)
    const { xx, yy, xy } = momentsOf(dx, dy, n, 2)
    for (let i = 0; i < out.length; i++) out[i] = of(xx[i], yy[i], xy[i])
  },
  steps: ([n], slots) => {
    const [beforeX, beforeY] = [step.earlier(slots, 1), step.earlier(slots, 1)]
    const moments = momentsStep(slots, n)
    return (ins, outs, keep) => {
      const x = ins[0]
      const y = ins[1]
      const m = moments(change(x, beforeX(x, keep)), change(y, beforeY(y, keep)), keep)
      outs[0] = of(m.xx, m.yy, m.xy)
    }
  },
})

export const correlation = ofChanges(
  'correlation',
  ['pearson', 'corr'],
  'Correlation, −1 to 1, of the bar-to-bar changes of two series: correlation(close, beside("index", close), 60).',
  'Pearson; of relative changes (common practice)',
  (xx, yy, xy) => (varies(xx) && varies(yy) ? Math.max(-1, Math.min(1, xy / Math.sqrt(xx * yy))) : NaN),
  [-1, 1],
)

export const beta = ofChanges(
  'beta',
  [],
  'How far the first series moves for a move of the second: slope of its changes on theirs.',
  'Sharpe (1964): covariance over variance',
  (_, yy, xy) => (varies(yy) ? xy / yy : NaN),
)

export const strength: Indicator = {
  name: 'strength',
  also: ['relative strength', 'outperformance', 'rs'],
  opposite: ABOUT_NOUGHT,
  unknown: 'a value before is nought or missing',
  input: 'two series',
  parameters: [length('length', 63)],
  outputs: value('percent'),
  warmUp: ([n]) => n + 1,
  doc: 'Relative strength: percent by which the first series outran the second over the last bars.',
  source: 'Definition: 100 (x/x before ÷ y/y before − 1)',
  column: ([x, y], [n], [out]) => {
    for (let i = 0; i < out.length; i++) {
      const fine = i >= n && x[i - n] > 0 && y[i - n] > 0 && y[i] > 0
      out[i] = fine ? 100 * (x[i] / x[i - n] / (y[i] / y[i - n]) - 1) : NaN
    }
  },
  steps: ([n], slots) => {
    const [before, otherBefore] = [step.earlier(slots, n), step.earlier(slots, n)]
    return (ins, outs, keep) => {
      const x = ins[0]
      const y = ins[1]
      const [a, b] = [before(x, keep), otherBefore(y, keep)]
      outs[0] = a > 0 && b > 0 && y > 0 ? 100 * (x / a / (y / b) - 1) : NaN
    }
  },
}

export const hedge: Indicator = {
  name: 'hedge',
  also: ['pair', 'spread', 'cointegration', 'half life'],
  opposite: {
    goes: 'price',
    each: {
      ratio: 'neither way',
      spread: 'about nought',
      zscore: 'about nought',
      halflife: 'neither way',
    },
  },
  unknown: 'the second series does not move, or a value among its bars is missing',
  input: 'two series',
  parameters: [{ ...length('length', 60), min: 4 }],
  outputs: [
    { name: 'ratio', unit: 'number' },
    { name: 'intercept', unit: 'input' },
    { name: 'spread', unit: 'input' },
    { name: 'zscore', unit: 'number' },
    { name: 'halflife', unit: 'number' },
  ],
  warmUp: ([n]) => n,
  doc: 'Two series as a pair: how much of the second stands against one of the first (ratio, by least squares), what is left over (spread), that in standard deviations (zscore), and in how many bars half of it is gone (halflife; unknown where it does not return).',
  source: 'Least squares; half-life −ln 2 / ln(1 + b), b the slope of the change of the spread on the spread',
  column: ([x, y], [n], [ratio, intercept, spread, zscore, halflife]) => {
    const { meanX, meanY, xx, yy, xy } = momentsOf(x, y, n, 0)
    const squares = squaresOfSteps(x, y, n - 1)
    for (let i = 0; i < x.length; i++) {
      const slope = isMore(Math.sqrt(yy[i]), meanY[i]) ? xy[i] / yy[i] : NaN
      const level = meanX[i] - slope * meanY[i]
      ratio[i] = slope
      intercept[i] = level
      spread[i] = x[i] - slope * y[i] - level
      const left = xx[i] - slope * xy[i]
      // What rounding leaves of an exact line is no spread.
      const apart = left > 1e-12 * xx[i]
      zscore[i] = apart ? spread[i] / Math.sqrt(left / n) : NaN
      if (!apart) {
        halflife[i] = NaN
        continue
      }
      const first = x[i - n + 1] - slope * y[i - n + 1] - level
      const steps = squares.xx[i] - 2 * slope * squares.xy[i] + slope * slope * squares.yy[i]
      halflife[i] = halfLife(first, spread[i], left, steps, n)
    }
  },
  steps: hedgeSteps,
}

/** The same one bar at a time. */
function hedgeSteps([n]: readonly number[], slots: Slots): Stepper {
  const moments = momentsStep(slots, n)
  const steps = [0, 1, 2].map(() => step.sum(slots, n - 1))
  const [lastX, lastY] = [step.lastValues(slots, n), step.lastValues(slots, n)]
  return (ins, outs, keep) => {
    const x = ins[0]
    const y = ins[1]
    const { meanX, meanY, xx, yy, xy } = moments(x, y, keep)
    lastX.push(x, keep)
    lastY.push(y, keep)
    const [dx, dy] = [x - lastX.back(1), y - lastY.back(1)]
    const [squaresX, squaresY, products] = [dx * dx, dy * dy, dx * dy].map((one, k) => steps[k](one, keep))
    const slope = isMore(Math.sqrt(yy), meanY) ? xy / yy : NaN
    const level = meanX - slope * meanY
    outs[0] = slope
    outs[1] = level
    outs[2] = x - slope * y - level
    const left = xx - slope * xy
    outs[3] = outs[4] = NaN
    if (!(left > 1e-12 * xx)) return
    outs[3] = outs[2] / Math.sqrt(left / n)
    const first = lastX.back(n - 1) - slope * lastY.back(n - 1) - level
    const all = squaresX - 2 * slope * products + slope * slope * squaresY
    outs[4] = halfLife(first, outs[2], left, all, n)
  }
}

/** Sums of squares and products of the steps of two series from bar to bar, over the last n steps. */
function squaresOfSteps(x: Float64Array, y: Float64Array, n: number) {
  const column = (which: number) => scratch(which, x.length)
  const [dx, dy, xx, yy, xy, work] = [5, 6, 7, 8, 9, 10].map(column)
  dx[0] = dy[0] = NaN
  for (let i = 1; i < x.length; i++) {
    dx[i] = x[i] - x[i - 1]
    dy[i] = y[i] - y[i - 1]
  }
  const sums = (one: Float64Array, other: Float64Array, out: Float64Array) => {
    for (let i = 0; i < x.length; i++) work[i] = one[i] * other[i]
    slidingSum(work, n, out)
  }
  sums(dx, dx, xx)
  sums(dy, dy, yy)
  sums(dx, dy, xy)
  return { xx, yy, xy }
}

const EDGE = 1e-9

/**
 * Bars in which half of a spread is gone; unknown where it does not return to its mean. The spread's change regressed
 * on the spread over a window of n bars, whose residuals add up to nought: with its first and last value, its sum of
 * squares and that of its steps, nothing else need be added up, for Σ s Δs = ½ (last² − first² − Σ Δs²).
 */
function halfLife(first: number, last: number, squares: number, steps: number, n: number): number {
  const m = n - 1
  const before = squares - last * last - (last * last) / m
  // All the spreads before were one and the same: there is nothing to regress on.
  if (!(before > EDGE * squares)) return NaN
  const products = 0.5 * (last * last - first * first - steps)
  const b = (products + (last * (last - first)) / m) / before
  // Gone within one bar, or not returning, is told apart from nearly so by more than rounding leaves.
  return b < -EDGE && b > -1 + EDGE ? -Math.LN2 / Math.log1p(b) : NaN
}

export const volatility: Indicator = {
  name: 'volatility',
  also: ['historical volatility', 'hv', 'realised volatility', 'annualised'],
  opposite: NEITHER_WAY,
  unknown: 'a value among its bars is nought or missing',
  input: 'series',
  parameters: [
    { ...length('length', 20), min: 2 },
    { name: 'barsAYear', preset: 252, min: 1, max: 200_000, whole: true },
  ],
  outputs: value('percent'),
  warmUp: ([n]) => n + 1,
  doc: 'Historical volatility: standard deviation of the logarithmic changes, brought to a year, in percent.',
  source: 'Hull, Options, Futures and Other Derivatives: sample form, 252 sessions a year',
  column: ([src], [n, year], [out]) => {
    const log = scratch(0, src.length)
    for (let i = 0; i < src.length; i++)
      log[i] = i > 0 && src[i] > 0 && src[i - 1] > 0 ? Math.log(src[i] / src[i - 1]) : NaN
    slidingDeviation(log, n, scratch(1, src.length), out)
    const scale = 100 * Math.sqrt((n / (n - 1)) * year)
    for (let i = 0; i < src.length; i++) out[i] *= scale
  },
  steps: one(([n, year], slots) => {
    const [before, of] = [step.earlier(slots, 1), step.deviation(slots, n)]
    const scale = 100 * Math.sqrt((n / (n - 1)) * year)
    return (x, keep) => {
      const last = before(x, keep)
      return of.step(x > 0 && last > 0 ? Math.log(x / last) : NaN, keep) * scale
    }
  }),
}
