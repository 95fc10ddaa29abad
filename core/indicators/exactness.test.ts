import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import * as ss from 'simple-statistics'
import { column, expectColumn, gappyPrices, prices } from '@/tests/bars'
import { INDICATORS } from '.'
import { type Moments, slidingMoments } from './slidingMoments'

/** Columns of an indicator over series, by the names of its outputs. */
function run(name: string, series: readonly (readonly number[])[], params: number[]) {
  const indicator = INDICATORS.get(name)!
  const outs = indicator.outputs.map(() => new Float64Array(series[0].length))
  indicator.column(series.map(column), params, outs)
  return Object.fromEntries(indicator.outputs.map((output, k) => [output.name, outs[k]]))
}

/** Means and sums about them, each window on its own in two passes. */
function plainMoments(x: readonly number[], y: readonly number[], n: number) {
  const out = { meanX: [], meanY: [], xx: [], yy: [], xy: [] } as Record<keyof Moments, number[]>
  x.forEach((_, i) => {
    const [wx, wy] = [x.slice(i - n + 1, i + 1), y.slice(i - n + 1, i + 1)]
    const full = i >= n - 1 && [...wx, ...wy].every((v) => !Number.isNaN(v))
    const [mx, my] = full ? [ss.mean(wx), ss.mean(wy)] : [NaN, NaN]
    const about = (a: number[], ma: number, b: number[], mb: number) =>
      full ? a.reduce((sum, v, k) => sum + (v - ma) * (b[k] - mb), 0) : NaN
    out.meanX.push(mx)
    out.meanY.push(my)
    out.xx.push(about(wx, mx, wx, mx))
    out.yy.push(about(wy, my, wy, my))
    out.xy.push(about(wx, mx, wy, my))
  })
  return out
}

describe('moments of two series over a moving window', () => {
  it('are those of each window on its own, unknown values among them', () => {
    fc.assert(
      fc.property(gappyPrices(70), fc.integer({ min: 2, max: 12 }), (x, n) => {
        const y = x.map((v, i) => 3 * v + 5 * Math.sin(i))
        const names = ['meanX', 'meanY', 'xx', 'yy', 'xy'] as const
        const out = Object.fromEntries(
          names.map((name) => [name, new Float64Array(x.length)]),
        ) as unknown as Moments
        slidingMoments(column(x), column(y), n, out)
        const wanted = plainMoments(x, y, n)
        for (const name of names) expectColumn(out[name], wanted[name], 8)
      }),
    )
  })

  it('a huge value leaves nothing behind when it has gone', () => {
    const x = [1, 2, 3, 1e15, 4, 5, 7, 6, 8, 9]
    const out = Object.fromEntries(
      ['meanX', 'meanY', 'xx', 'yy', 'xy'].map((name) => [name, new Float64Array(x.length)]),
    ) as unknown as Moments
    slidingMoments(column(x), column(x), 3, out)
    expect(out.xx[6]).toBeCloseTo(ss.variance([4, 5, 7]) * 3, 12)
    expect(out.meanX[9]).toBeCloseTo((6 + 8 + 9) / 3, 12)
  })
})

describe('one series against another (simple-statistics)', () => {
  const change = (xs: readonly number[]) => xs.slice(1).map((x, i) => x / xs[i] - 1)

  it('correlation and beta are those of the changes of each window', () => {
    fc.assert(
      fc.property(prices(8, 50), fc.integer({ min: 3, max: 7 }), (x, n) => {
        const y = x.map((v, i) => v * (1.5 + Math.cos(i) / 3))
        const [correlation, beta] = [run('correlation', [x, y], [n]).value, run('beta', [x, y], [n]).value]
        for (let i = n; i < x.length; i++) {
          const [dx, dy] = [change(x.slice(i - n, i + 1)), change(y.slice(i - n, i + 1))]
          const spread = ss.variance(dy)
          if (spread < 1e-9 || ss.variance(dx) < 1e-9) continue
          expect(correlation[i]).toBeCloseTo(ss.sampleCorrelation(dx, dy), 6)
          expect(beta[i]).toBeCloseTo(ss.sampleCovariance(dx, dy) / ss.sampleVariance(dy), 6)
        }
      }),
    )
  })

  it('hedge: ratio, spread and half-life are those of each window regressed on its own', () => {
    fc.assert(
      fc.property(prices(10, 40), fc.integer({ min: 5, max: 9 }), (x, n) => {
        const y = x.map((v, i) => 0.7 * v + 3 * Math.sin(2.3 * i))
        const { ratio, spread, halflife } = run('hedge', [x, y], [n])
        for (let i = n - 1; i < x.length; i++) {
          const [wx, wy] = [x.slice(i - n + 1, i + 1), y.slice(i - n + 1, i + 1)]
          if (ss.variance(wy) < 1e-6) continue
          const { m, b } = ss.linearRegression(wy.map((v, k) => [v, wx[k]]))
          expect(ratio[i]).toBeCloseTo(m, 6)
          const left = wx.map((v, k) => v - m * wy[k] - b)
          expect(spread[i]).toBeCloseTo(left.at(-1)!, 6)
          if (ss.variance(left) < 1e-4 || ss.variance(left.slice(0, -1)) < 1e-4) continue
          const steps = left.slice(1).map((v, k) => [left[k], v - left[k]])
          const back = ss.linearRegression(steps).m
          // Near the edges of what returns at all, a hair decides whether it does.
          if (back > -0.01 || back < -0.99) continue
          expect(halflife[i]).toBeCloseTo(-Math.LN2 / Math.log1p(back), 3)
        }
      }),
    )
  })

  it('historical volatility is the sample deviation of logarithmic changes, brought to a year', () => {
    fc.assert(
      fc.property(prices(6, 40), fc.integer({ min: 2, max: 5 }), (x, n) => {
        const { value } = run('volatility', [x], [n, 252])
        for (let i = n; i < x.length; i++) {
          const logs = x.slice(i - n + 1, i + 1).map((v, k) => Math.log(v / x[i - n + k]))
          expect(value[i]).toBeCloseTo(100 * ss.sampleStandardDeviation(logs) * Math.sqrt(252), 4)
        }
      }),
    )
  })
})

describe('directional movement on cents', () => {
  it('moves alike up and down count for neither side, whatever their binary fractions', () => {
    // 14.18 - 13.99 and 13.84 - 13.65 are both 0.19, but not as doubles.
    const high = [13.99, 14.18, 14.18, 14.18, 14.18, 14.18]
    const low = [13.84, 13.65, 13.65, 13.65, 13.65, 13.65]
    const indicator = INDICATORS.get('adx')!
    const outs = indicator.outputs.map(() => new Float64Array(high.length))
    indicator.column([column(high), column(low), column(low)], [2], outs)
    expect([outs[1][2], outs[2][2]]).toEqual([0, 0])
  })
})
