import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { sampleCorrelation, sampleStandardDeviation } from 'simple-statistics'
import { column, expectColumn, prices } from '@/tests/bars'
import { INDICATORS } from '.'

/** Runs an indicator over columns by name; the calendar is sessions of `a` bars of ten minutes from 09:30. */
function run(name: string, columns: Record<string, number[]>, params: number[] = [], a = 4) {
  const indicator = INDICATORS.get(name)!
  const n = Object.values(columns)[0].length
  const rows = Array.from({ length: n }, (_, i) => i)
  const all: Record<string, number[]> = {
    session: rows.map((i) => Math.floor(i / a)),
    began: rows.map((i) => 570 + 10 * (i % a)),
    clock: rows.map((i) => 580 + 10 * (i % a)),
    ...columns,
  }
  const ins = (typeof indicator.input === 'string' ? ['x', 'y'] : indicator.input).map((c) =>
    column(all[c as string] ?? rows.map(() => NaN)),
  )
  const outs = indicator.outputs.map(() => new Float64Array(n))
  indicator.column(
    ins,
    indicator.parameters.map((p, i) => params[i] ?? p.preset!),
    outs,
  )
  return Object.fromEntries(indicator.outputs.map((o, i) => [o.name, [...outs[i]]]))
}

/** Two sessions of four bars; worked by hand. */
const two = {
  open: [10, 11, 12, 11, 14, 15, 14, 13],
  high: [11, 13, 12, 12, 15, 16, 15, 14],
  low: [9, 10, 11, 10, 13, 14, 13, 12],
  close: [11, 12, 11, 11, 15, 14, 13, 13],
  volume: [100, 300, 100, 500, 200, 200, 100, 100],
}

describe('what a session does, worked by hand', () => {
  it('vwap begins anew with each session', () => {
    const typical = two.high.map((h, i) => (h + two.low[i] + two.close[i]) / 3)
    const first = (typical[0] * 100 + typical[1] * 300) / 400
    const second = (typical[4] * 200 + typical[5] * 200) / 400
    const { value } = run('vwap', two)
    expect(value[1]).toBeCloseTo(first, 12)
    expect(value[4]).toBeCloseTo(typical[4], 12)
    expect(value[5]).toBeCloseTo(second, 12)
  })

  it('prior gives the session before: first open, extremes, last close, all volume', () => {
    const told = run('prior', two)
    for (const [name, value] of Object.entries({ open: 10, high: 13, low: 9, close: 11, volume: 1000 }))
      expectColumn(told[name], [NaN, NaN, NaN, NaN, value, value, value, value])
  })

  it('pivots by the formulas of the floor (common practice)', () => {
    const told = run('pivots', two)
    const p = (13 + 9 + 11) / 3
    expect([told.middle[4], told.r1[5], told.s1[5], told.r2[6], told.s2[6], told.r3[7], told.s3[7]]).toEqual([
      p,
      2 * p - 9,
      2 * p - 13,
      p + 4,
      p - 4,
      13 + 2 * (p - 9),
      9 - 2 * (13 - p),
    ])
  })

  it('a gap is an open outside the range before, and lasts all session', () => {
    expectColumn(run('gap up', two).value, [NaN, NaN, NaN, NaN, 1, 1, 1, 1])
    expectColumn(run('gap down', two).value, [NaN, NaN, NaN, NaN, 0, 0, 0, 0])
    expect(run('gap', two).value[6]).toBeCloseTo(100 * (14 / 11 - 1), 12)
  })

  it('the opening range is known once it is over, never sooner', () => {
    const told = run('opening', two, [20])
    expectColumn(told.high, [NaN, 13, 13, 13, NaN, 16, 16, 16])
    expectColumn(told.low, [NaN, 9, 9, 9, NaN, 13, 13, 13])
    expectColumn(told.middle, [NaN, 11, 11, 11, NaN, 14.5, 14.5, 14.5])
    // 15 minutes lie inside a bar of ten: what the price did by then cannot be told.
    expect(run('opening', two, [15]).high.every(Number.isNaN)).toBe(true)
  })

  it('volume against what is usual: the bars before, and by the same time of day', () => {
    expect(run('relvolume', two, [3]).value[3]).toBeCloseTo(500 / (500 / 3), 12)
    const volume = [100, 300, 200, 200, 300, 900, 100, 100]
    expectColumn(run('usualvolume', { volume }, [1]).value, [
      ...[NaN, NaN, NaN, NaN],
      ...[3, 1200 / 400, 1300 / 600, 1400 / 800],
    ])
  })
})

describe('turning points, worked by hand', () => {
  const shape = [5, 6, 8, 7, 6, 7, 9, 8, 7, 8, 10, 9, 8]
  const bars = { high: shape, low: shape.map((x) => x - 1), close: shape.map((x) => x - 0.5) }

  it('a swing is known only after the bars that confirm it', () => {
    const { high, low } = run('swing', bars, [2])
    expectColumn(high, [NaN, NaN, NaN, NaN, 8, 8, 8, 8, 9, 9, 9, 9, 10])
    expectColumn(low, [NaN, NaN, NaN, NaN, NaN, NaN, 5, 5, 5, 5, 6, 6, 6])
  })

  it('rising tops and rising bottoms are a trend up', () => {
    const known = run('trend', bars, [2]).value
    expect(known.slice(10)).toEqual([1, 1, 1])
    expect(run('trend up', bars, [2]).value.at(-1)).toBe(1)
    expect(run('trend down', bars, [2]).value.at(-1)).toBe(0)
    const falling = { high: shape.map((x) => 20 - x), low: shape.map((x) => 19 - x) }
    expect(run('trend', falling, [2]).value.at(-1)).toBe(-1)
  })

  it('support and resistance are the nearest turns below and above the close', () => {
    expect(run('support', bars, [8, 2]).value.at(-1)).toBe(6)
    expect(run('resistance', bars, [8, 2]).value.at(-1)).toBe(8)
  })

  it('new highs and lows are of closes, and count alike ones as new', () => {
    const close = [3, 4, 4, 5, 2, 2]
    expectColumn(run('new high', { close }, [3]).value, [NaN, NaN, 1, 1, 0, 0])
    expectColumn(run('new low', { close }, [3]).value, [NaN, NaN, 0, 0, 1, 1])
  })
})

/** NIST StRD, Norris: linear regression, lower difficulty; y and x in the order of the file. */
const NORRIS = [
  ...[
    0.1, 0.2, 338.8, 337.4, 118.1, 118.2, 888.0, 884.6, 9.2, 10.1, 228.1, 226.5, 668.5, 666.3, 998.5, 996.3,
  ],
  ...[449.1, 448.6, 778.9, 777.0, 559.2, 558.2, 0.3, 0.4, 0.1, 0.6, 778.1, 775.5, 668.8, 666.9, 339.3, 338.0],
  ...[448.9, 447.5, 10.8, 11.6, 557.7, 556.0, 228.3, 228.1, 998.0, 995.8, 888.8, 887.6, 119.6, 120.2, 0.3],
  ...[0.3, 0.6, 0.3, 557.6, 556.8, 339.3, 339.1, 888.0, 887.2, 998.5, 999.0, 778.9, 779.0, 10.2, 11.1, 117.6],
  ...[118.3, 228.9, 229.2, 668.4, 669.1, 449.2, 448.9, 0.2, 0.5],
]

describe('one series against another', () => {
  it('hedge reprints the certified line of NIST StRD Norris', () => {
    const x = NORRIS.filter((_, i) => i % 2 === 0)
    const y = NORRIS.filter((_, i) => i % 2 === 1)
    expect(x).toHaveLength(36)
    const { ratio, intercept } = run('hedge', { x, y }, [36])
    expect(ratio.at(-1)).toBeCloseTo(1.00211681802045, 12)
    expect(intercept.at(-1)).toBeCloseTo(-0.262323073774029, 10)
  })

  it('its spread is what least squares leaves over: it sums to nought, and its z-score is in its deviations', () => {
    fc.assert(
      fc.property(prices(30, 60), prices(30, 60), (a, b) => {
        const n = Math.min(a.length, b.length)
        const [x, y] = [a.slice(0, n), b.slice(0, n)]
        const { ratio, intercept, spread, zscore } = run('hedge', { x, y }, [n])
        fc.pre(!Number.isNaN(ratio[n - 1]))
        const left = x.map((v, i) => v - ratio[n - 1] * y[i] - intercept[n - 1])
        expect(left.reduce((s, v) => s + v, 0)).toBeCloseTo(0, 6)
        expect(left.reduce((s, v, i) => s + v * y[i], 0)).toBeCloseTo(0, 4)
        expect(spread[n - 1]).toBeCloseTo(left[n - 1], 9)
        const deviation = Math.sqrt(left.reduce((s, v) => s + v * v, 0) / n)
        if (deviation > 1e-3) expect(zscore[n - 1]).toBeCloseTo(left[n - 1] / deviation, 6)
      }),
    )
  })

  it('a spread that loses a fifth each bar is half gone in ln 2 / -ln 0.8 bars', () => {
    // A spread about a line that does not slope with it: AR(1) with 0.8, kicked back and forth.
    const [y, x]: number[][] = [[], []]
    let spread = 8
    for (let i = 0; i < 400; i++) {
      if (i % 40 === 0) spread = i % 80 === 0 ? 8 : -8
      y.push(100 + 10 * Math.sin(i))
      x.push(2 * y[i] + spread)
      spread *= 0.8
    }
    const { ratio } = run('hedge', { x, y }, [400])
    expect(ratio.at(-1)).toBeCloseTo(2, 1)
    // Over stretches without a kick the decay is exact.
    const calm = run('hedge', { x: x.slice(0, 40), y: y.slice(0, 40).map(() => NaN) }, [40])
    expect(calm.halflife.at(-1)).toBeNaN()
    const still = Array.from({ length: 40 }, (_, i) => 50 + (i % 2))
    const decay = still.map((v, i) => 3 * v + 8 * 0.8 ** i)
    const told = run('hedge', { x: decay, y: still }, [40])
    expect(told.halflife.at(-1)).toBeCloseTo(Math.LN2 / -Math.log(0.8), 0)
  })

  it('correlation and volatility as simple-statistics computes them', () => {
    fc.assert(
      fc.property(prices(25, 40), prices(25, 40), (a, b) => {
        const n = Math.min(a.length, b.length)
        const [x, y] = [a.slice(0, n), b.slice(0, n)]
        const change = (xs: number[]) => xs.slice(1).map((v, i) => v / xs[i] - 1)
        const [dx, dy] = [change(x).slice(-20), change(y).slice(-20)]
        fc.pre(sampleStandardDeviation(dx) > 1e-6 && sampleStandardDeviation(dy) > 1e-6)
        expect(run('correlation', { x, y }, [20]).value[n - 1]).toBeCloseTo(sampleCorrelation(dx, dy), 8)
        const logs = x.slice(1).map((v, i) => Math.log(v / x[i]))
        expect(run('volatility', { x }, [20]).value[n - 1]).toBeCloseTo(
          100 * sampleStandardDeviation(logs.slice(-20)) * Math.sqrt(252),
          8,
        )
      }),
    )
  })

  it('beta of a series that moves twice as far is 2; strength is the ratio of the two rises', () => {
    const y = [100, 101, 100, 103, 102, 104]
    const x = [50]
    for (let i = 1; i < y.length; i++) x.push(x[i - 1] * (1 + 2 * (y[i] / y[i - 1] - 1)))
    expect(run('beta', { x, y }, [5]).value.at(-1)).toBeCloseTo(2, 12)
    expect(run('strength', { x, y }, [5]).value.at(-1)).toBeCloseTo(100 * (x[5] / 50 / 1.04 - 1), 10)
  })
})
