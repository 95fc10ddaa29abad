import { scratch } from './slidingSum'
import { type Indicator, length, value } from './types'

/** One series against another: an index, or the other half of a pair. */

/** Relative changes from bar to bar; unknown where the value before is not above nought. */
function changes(src: Float64Array, out: Float64Array): void {
  for (let i = 0; i < out.length; i++) out[i] = i > 0 && src[i - 1] > 0 ? src[i] / src[i - 1] - 1 : NaN
}

/** Sums of squares and products about the means of the n values that end at a row. */
function moments(x: Float64Array, y: Float64Array, i: number, n: number) {
  let [meanX, meanY] = [0, 0]
  for (let k = i - n + 1; k <= i; k++) {
    meanX += x[k]
    meanY += y[k]
  }
  meanX /= n
  meanY /= n
  let [xx, yy, xy] = [0, 0, 0]
  for (let k = i - n + 1; k <= i; k++) {
    const [dx, dy] = [x[k] - meanX, y[k] - meanY]
    xx += dx * dx
    yy += dy * dy
    xy += dx * dy
  }
  return { meanX, meanY, xx, yy, xy }
}

const lengths = [{ ...length('length', 60), min: 3 }]

/** A figure of the changes of two series over the last n bars. */
const ofChanges = (
  name: string,
  doc: string,
  source: string,
  of: (m: ReturnType<typeof moments>) => number,
  range?: readonly [number, number],
): Indicator => ({
  name,
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
    for (let i = 0; i < out.length; i++) out[i] = i >= n ? of(moments(dx, dy, i, n)) : NaN
  },
})

export const correlation = ofChanges(
  'correlation',
  'Correlation, −1 to 1, of the bar-to-bar changes of two series: correlation(close, beside("index", close), 60).',
  'Pearson; of relative changes (common practice)',
  ({ xx, yy, xy }) => (xx > 0 && yy > 0 ? Math.max(-1, Math.min(1, xy / Math.sqrt(xx * yy))) : NaN),
  [-1, 1],
)

export const beta = ofChanges(
  'beta',
  'How far the first series moves for a move of the second: slope of its changes on theirs.',
  'Sharpe (1964): covariance over variance',
  ({ yy, xy }) => (yy > 0 ? xy / yy : NaN),
)

export const strength: Indicator = {
  name: 'strength',
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
}

export const hedge: Indicator = {
  name: 'hedge',
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
    for (const out of [ratio, intercept, spread, zscore, halflife])
      out.fill(NaN, 0, Math.min(n - 1, out.length))
    for (let i = n - 1; i < x.length; i++) {
      const { meanX, meanY, yy, xy, xx } = moments(x, y, i, n)
      const slope = yy > 0 ? xy / yy : NaN
      const level = meanX - slope * meanY
      ratio[i] = slope
      intercept[i] = level
      spread[i] = x[i] - slope * y[i] - level
      const left = xx - slope * xy
      // What rounding leaves of an exact line is no spread.
      zscore[i] = left > 1e-12 * xx ? spread[i] / Math.sqrt(left / n) : NaN
      halflife[i] = left > 1e-12 * xx ? halfLife(x, y, slope, level, i, n) : NaN
    }
  },
}

/** Bars in which half of a spread is gone; unknown where it does not return to its mean. */
function halfLife(
  x: Float64Array,
  y: Float64Array,
  slope: number,
  level: number,
  i: number,
  n: number,
): number {
  let [sum, sumNext, squares, products] = [0, 0, 0, 0]
  let before = x[i - n + 1] - slope * y[i - n + 1] - level
  for (let k = i - n + 2; k <= i; k++) {
    const now = x[k] - slope * y[k] - level
    sum += before
    sumNext += now - before
    squares += before * before
    products += before * (now - before)
    before = now
  }
  const m = n - 1
  const b = (products - (sum * sumNext) / m) / (squares - (sum * sum) / m)
  return b < 0 && b > -1 ? -Math.LN2 / Math.log1p(b) : NaN
}

export const volatility: Indicator = {
  name: 'volatility',
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
    for (let i = 0; i < src.length; i++) {
      if (i < n) {
        out[i] = NaN
        continue
      }
      let mean = 0
      for (let k = i - n + 1; k <= i; k++) mean += log[k]
      mean /= n
      let squares = 0
      for (let k = i - n + 1; k <= i; k++) squares += (log[k] - mean) ** 2
      out[i] = 100 * Math.sqrt((squares / (n - 1)) * year)
    }
  },
}
