import { INDICATORS } from '../indicators'
import { type BarSet } from '../market/barTable'

/** Two securities as a pair, over the last bars that both have. */
export interface Pair {
  one: string
  other: string
  correlation: number
  /** Shares of the other against one share of the first. */
  ratio: number
  /** Bars in which half of the spread is gone; unknown where it does not return. */
  halflife: number
  /** Distance of the spread from its mean now, in standard deviations. */
  zscore: number
  /** Bars that were compared. */
  bars: number
}

/** Whole shares of the other that stand with so many of the first; undefined where the ratio is unknown. */
export const sharesBeside = (ratio: number, shares: number): number | undefined =>
  Number.isFinite(ratio) ? Math.round(Math.abs(ratio) * shares) : undefined

/**
 * Every pair of a row with the rows after it in `among`, whose changes correlate at least so much over the last
 * `length` bars that both have.
 */
export function scanPairs(
  set: BarSet,
  rows: readonly number[],
  among: readonly number[],
  length: number,
  least: number,
): Pair[] {
  const hedge = INDICATORS.get('hedge')!
  const correlation = INDICATORS.get('correlation')!
  const out: Pair[] = []
  const made = [0, 1, 2, 3, 4].map(() => new Float64Array(length + 1))
  for (const a of rows) {
    for (const b of among) {
      if (b <= a) continue
      const both = lastCommon(set, a, b, length + 1)
      if (!both || both.x.length < 5) continue
      const { x, y } = both
      const [values] = made
      const n = x.length
      correlation.column([x, y], [n - 1], [values.subarray(0, n)])
      if (!(Math.abs(values[n - 1]) >= least)) continue
      const corr = values[n - 1]
      hedge.column(
        [x.subarray(1), y.subarray(1)],
        [n - 1],
        made.map((column) => column.subarray(0, n - 1)),
      )
      const [ratio, , , zscore, halflife] = made.map((column) => column[n - 2])
      out.push({
        one: set.symbols[a],
        other: set.symbols[b],
        correlation: corr,
        ratio,
        halflife,
        zscore,
        bars: n - 1,
      })
    }
  }
  return out
}

/** The last closes of bars that two securities have at the same times. */
function lastCommon(
  set: BarSet,
  a: number,
  b: number,
  n: number,
): { x: Float64Array; y: Float64Array } | undefined {
  const [one, other] = [set.bars[a], set.bars[b]]
  if (one.time === other.time) return { x: one.close.slice(-n), y: other.close.slice(-n) }
  const x: number[] = []
  const y: number[] = []
  let [i, j] = [one.time.length - 1, other.time.length - 1]
  // Bars of venues in different zones begin at different hours of the same day.
  const near = 12 * 3_600_000
  while (i >= 0 && j >= 0 && x.length < n) {
    const apart = one.time[i] - other.time[j]
    if (Math.abs(apart) < near) {
      x.unshift(one.close[i--])
      y.unshift(other.close[j--])
    } else if (apart > 0) i--
    else j--
  }
  return x.length < 5 ? undefined : { x: Float64Array.from(x), y: Float64Array.from(y) }
}
