import { isMore } from '../market/paper'
import { slidingDeviation } from './bollinger'
import { room, scratch } from './slidingSum'
import * as step from './steps'
import { one } from './steps'
import { ABOUT_NOUGHT, DISTANCE, GAP, type Indicator, length } from './types'

/**
 * Least squares line through the last n values, against their place. Sums by blocks as slidingSum, of values
 * counted from one that lies among them. Source: the normal equations of simple linear regression.
 */
function slidingLine(
  src: Float64Array,
  n: number,
  value: Float64Array,
  slope: Float64Array,
  r2: Float64Array,
  forecast: Float64Array,
): void {
  const rest = room(3 * n + 3)
  const [placed, squared] = [n + 1, 2 * n + 2]
  const middle = (n - 1) / 2
  const spreadOfPlaces = (n * (n * n - 1)) / 12
  for (let start = 0; start < src.length; start += n) {
    const end = Math.min(start + n, src.length)
    const from = src[start]
    let sum = start === 0 ? NaN : 0
    let sumPlaced = sum
    let sumSquared = sum
    rest[n] = rest[placed + n] = rest[squared + n] = 0
    for (let k = n - 1, i = start - 1; k > 0; k--, i--) {
      const d = src[i] - from
      rest[k] = sum += d
      rest[placed + k] = sumPlaced += k * d
      rest[squared + k] = sumSquared += d * d
    }
    sum = sumPlaced = sumSquared = 0
    for (let i = start, k = 0; i < end; i++, k++) {
      const d = src[i] - from
      sum += d
      sumPlaced += k * d
      sumSquared += d * d
      // Place in the window: value k of the block before stands at k - (own place + 1), of this one after those.
      const s = rest[k + 1] + sum
      const xy = rest[placed + k + 1] - (k + 1) * rest[k + 1] + sumPlaced + (n - 1 - k) * sum
      const yy = rest[squared + k + 1] + sumSquared - (s * s) / n
      const cross = xy - middle * s
      const b = n > 1 ? cross / spreadOfPlaces : 0
      slope[i] = s === s ? b : NaN
      value[i] = from + s / n + b * middle
      forecast[i] = value[i] + b
      // All values alike: the line is exact, and explains nothing that varies.
      r2[i] =
        yy > 1e-12 * sumSquared && isMore(Math.sqrt(yy), from)
          ? Math.min(1, (b * cross) / yy)
          : s === s
            ? 0
            : NaN
    }
  }
}

/** What the sums of a window say of its line, one row of slidingLine. */
function putLine(n: number, k: number, { old, now, from }: step.ShiftedSums, outs: Float64Array): void {
  const middle = (n - 1) / 2
  const s = old[0] + now[0]
  const xy = old[1] - (k + 1) * old[0] + now[1] + (n - 1 - k) * now[0]
  const yy = old[2] + now[2] - (s * s) / n
  const cross = xy - middle * s
  const b = n > 1 ? cross / ((n * (n * n - 1)) / 12) : 0
  outs[1] = s === s ? b : NaN
  outs[0] = from[0] + s / n + b * middle
  outs[3] = outs[0] + b
  outs[2] =
    yy > 1e-12 * now[2] && isMore(Math.sqrt(yy), from[0]) ? Math.min(1, (b * cross) / yy) : s === s ? 0 : NaN
}

export const regression: Indicator = {
  name: 'regression',
  also: ['linear regression', 'trend line', 'least squares', 'slope', 'r squared', 'linreg'],
  opposite: {
    goes: 'price',
    each: { slope: 'about nought', rsquared: 'neither way' },
  },
  unknown: GAP,
  input: 'series',
  parameters: [{ ...length('length', 20), min: 2 }],
  outputs: [
    { name: 'value', unit: 'input' },
    { name: 'slope', unit: 'input' },
    { name: 'rsquared', unit: 'number', range: [0, 1] },
    { name: 'forecast', unit: 'input' },
  ],
  warmUp: ([n]) => n,
  doc: 'Straight line of best fit through the last bars: where it stands (value), its rise a bar (slope), how much of the movement it explains (rsquared, 0 to 1), and the next bar (forecast).',
  source: 'Least squares over the places of the last bars',
  column: ([src], [n], [value, slope, r2, forecast]) => slidingLine(src, n, value, slope, r2, forecast),
  steps: ([n], slots) => {
    const sums = step.shiftedSums(slots, n, 1, 3, (d, k, out) => {
      out[0] = d[0]
      out[1] = k * d[0]
      out[2] = d[0] * d[0]
    })
    return (ins, outs, keep) => {
      const all = sums(ins, keep)
      putLine(n, all.place, all, outs)
    }
  },
}

export const deviation: Indicator = {
  name: 'deviation',
  also: ['standard deviation', 'stdev', 'std', 'sigma'],
  opposite: DISTANCE,
  unknown: GAP,
  input: 'series',
  parameters: [length('length', 20)],
  outputs: [{ name: 'value', unit: 'input' }],
  warmUp: ([n]) => n,
  doc: 'Standard deviation of the last bars, population form.',
  source: 'Definition',
  column: ([src], [n], [out]) => slidingDeviation(src, n, scratch(0, src.length), out),
  steps: one(([n], slots) => step.deviation(slots, n).step),
}

export const zscore: Indicator = {
  name: 'zscore',
  also: ['z score', 'standard score'],
  opposite: ABOUT_NOUGHT,
  unknown: 'nothing moved, or a value among its bars is missing',
  input: 'series',
  parameters: [length('length', 20)],
  outputs: [{ name: 'value', unit: 'number' }],
  warmUp: ([n]) => n,
  doc: 'Distance from the mean of the last bars, in standard deviations (population form); unknown where nothing moved.',
  source: 'Definition',
  column: ([src], [n], [out]) => {
    const mean = scratch(0, src.length)
    slidingDeviation(src, n, mean, out)
    for (let i = 0; i < src.length; i++) out[i] = isMore(out[i], mean[i]) ? (src[i] - mean[i]) / out[i] : NaN
  },
  steps: one(([n], slots) => {
    const of = step.deviation(slots, n)
    return (x, keep) => {
      const spread = of.step(x, keep)
      return isMore(spread, of.at.mean) ? (x - of.at.mean) / spread : NaN
    }
  }),
}
