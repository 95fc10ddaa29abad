import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { linearRegression, mean, rSquared, standardDeviation } from 'simple-statistics'
import { column, expectColumn, gappyPrices, prices } from '@/tests/bars'
import { INDICATORS } from '.'

/** Bars of random shape: close within the range, sometimes no range at all. */
const bars = (max = 70) =>
  fc
    .array(
      fc.record({
        low: fc.integer({ min: 400, max: 1600 }),
        range: fc.integer({ min: 0, max: 60 }),
        at: fc.integer({ min: 0, max: 100 }),
        volume: fc.integer({ min: 0, max: 5000 }),
      }),
      { maxLength: max },
    )
    .map((rows) => ({
      high: rows.map((r) => (r.low + r.range) / 100),
      low: rows.map((r) => r.low / 100),
      close: rows.map((r) => (r.low + Math.round((r.range * r.at) / 100)) / 100),
      volume: rows.map((r) => r.volume),
    }))
type Rows = { high: number[]; low: number[]; close: number[]; volume: number[] }

/** Runs an indicator over bars, or over one series. */
function run(name: string, source: Rows | number[], ...params: number[]): Record<string, number[]> {
  const indicator = INDICATORS.get(name)!
  const ins = Array.isArray(source)
    ? [source]
    : (indicator.input as readonly (keyof Rows)[]).map((column) => source[column])
  const outs = indicator.outputs.map(() => new Float64Array(ins[0].length))
  const filled = indicator.parameters.map((p, i) => params[i] ?? p.preset!)
  indicator.column(ins.map(column), filled, outs)
  return Object.fromEntries(indicator.outputs.map((o, i) => [o.name, [...outs[i]]]))
}
const one = (name: string, source: Rows | number[], ...params: number[]) => run(name, source, ...params).value

/** f of the n rows that end at each row; unknown before there are n. */
const over = (count: number, n: number, f: (from: number, to: number) => number): number[] =>
  Array.from({ length: count }, (_, i) => (i >= n - 1 ? f(i - n + 1, i + 1) : NaN))
const cut = (xs: readonly number[], from: number, to: number) => xs.slice(from, to)

const small = fc.integer({ min: 2, max: 15 })

describe('averages of averages, each by its formula', () => {
  it('hull (2005): wma(2 wma(half) - wma(whole), root)', () => {
    fc.assert(
      fc.property(gappyPrices(), fc.integer({ min: 2, max: 30 }), (xs, n) => {
        const [half, whole] = [one('wma', xs, Math.floor(n / 2)), one('wma', xs, n)]
        const raw = xs.map((_, i) => 2 * half[i] - whole[i])
        expectColumn(one('hull', xs, n), one('wma', raw, Math.floor(Math.sqrt(n))))
      }),
    )
  })

  it('dema and tema (Mulloy 1994) follow a straight line without lag', () => {
    const line = Array.from({ length: 200 }, (_, i) => 10 + i / 4)
    for (const name of ['dema', 'tema']) expect(one(name, line, 10).at(-1)).toBeCloseTo(line.at(-1)!, 6)
    fc.assert(
      fc.property(prices(30, 80), small, (xs, n) => {
        const e1 = one('ema', xs, n)
        const e2 = one('ema', e1, n)
        const e3 = one('ema', e2, n)
        expectColumn(
          one('dema', xs, n),
          xs.map((_, i) => 2 * e1[i] - e2[i]),
        )
        expectColumn(
          one('tema', xs, n),
          xs.map((_, i) => 3 * e1[i] - 3 * e2[i] + e3[i]),
        )
      }),
    )
  })

  it('kaufman (1995): weight from the efficiency ratio, squared', () => {
    fc.assert(
      fc.property(prices(12, 80), (xs) => {
        const n = 10
        let value = xs[n - 1]
        const wanted = xs.map((x, i) => {
          if (i < n) return NaN
          const path = Array.from({ length: n }, (_, k) => Math.abs(xs[i - k] - xs[i - k - 1])).reduce(
            (a, b) => a + b,
            0,
          )
          const ratio = path > 1e-9 ? Math.abs(x - xs[i - n]) / path : 0
          const weight = (ratio * (2 / 3 - 2 / 31) + 2 / 31) ** 2
          return (value += weight * (x - value))
        })
        expectColumn(one('kaufman', xs), wanted, 7)
      }),
    )
  })

  it('wilder: first value the plain mean, then 1/n of the new', () =>
    expectColumn(one('wilder', [1, 2, 3, 7], 3), [NaN, NaN, 2, 2 + 5 / 3]))
})

describe('regression', () => {
  it('an exact line comes out exact, explained wholly', () => {
    const line = Array.from({ length: 60 }, (_, i) => -0.262323073774029 + 1.00211681802045 * i)
    const { value, slope, rsquared, forecast } = run('regression', line, 36)
    expect(slope.at(-1)).toBeCloseTo(1.00211681802045, 12)
    expect(value.at(-1)).toBeCloseTo(line.at(-1)!, 11)
    expect(forecast.at(-1)).toBeCloseTo(line.at(-1)! + 1.00211681802045, 11)
    expect(rsquared.at(-1)).toBeCloseTo(1, 12)
  })

  it('agrees with simple-statistics on every window', () => {
    fc.assert(
      fc.property(prices(2, 60), small, (xs, n) => {
        const fit = (from: number, to: number) => {
          const points = cut(xs, from, to).map((y, x) => [x, y])
          const { m, b } = linearRegression(points)
          return {
            m,
            b,
            r2: rSquared(points, (x) => m * x + b),
            flat: standardDeviation(points.map((p) => p[1])) < 1e-9,
          }
        }
        const { value, slope, rsquared, forecast } = run('regression', xs, n)
        expectColumn(
          slope,
          over(xs.length, n, (a, z) => fit(a, z).m),
          8,
        )
        expectColumn(
          value,
          over(xs.length, n, (a, z) => fit(a, z).b + fit(a, z).m * (n - 1)),
          8,
        )
        expectColumn(
          forecast,
          over(xs.length, n, (a, z) => fit(a, z).b + fit(a, z).m * n),
          8,
        )
        expectColumn(
          rsquared,
          over(xs.length, n, (a, z) => (fit(a, z).flat ? 0 : fit(a, z).r2)),
          6,
        )
      }),
    )
  })

  it('deviation and zscore by their definitions', () => {
    fc.assert(
      fc.property(prices(0, 60), small, (xs, n) => {
        expectColumn(
          one('deviation', xs, n),
          over(xs.length, n, (a, z) => standardDeviation(cut(xs, a, z))),
          7,
        )
        const z = over(xs.length, n, (from, to) => {
          const part = cut(xs, from, to)
          const sd = standardDeviation(part)
          return sd > 1e-9 ? (xs[to - 1] - mean(part)) / sd : NaN
        })
        expectColumn(one('zscore', xs, n), z, 6)
      }),
    )
  })
})

describe('bands', () => {
  it('donchian: extremes of the window, and halfway', () => {
    fc.assert(
      fc.property(bars(), small, (b, n) => {
        const { upper, lower, middle } = run('donchian', b, n)
        const top = over(b.high.length, n, (a, z) => Math.max(...cut(b.high, a, z)))
        const bottom = over(b.low.length, n, (a, z) => Math.min(...cut(b.low, a, z)))
        expectColumn(upper, top)
        expectColumn(lower, bottom)
        expectColumn(
          middle,
          top.map((x, i) => (x + bottom[i]) / 2),
        )
      }),
    )
  })

  it('keltner: an exponential average and average true ranges about it', () => {
    fc.assert(
      fc.property(bars(), (b) => {
        const { middle, upper, lower } = run('keltner', b, 7, 1.5, 4)
        const [average, range] = [one('ema', b.close, 7), one('atr', b, 4)]
        expectColumn(middle, average)
        expectColumn(
          upper,
          average.map((x, i) => x + 1.5 * range[i]),
        )
        expectColumn(
          lower,
          average.map((x, i) => x - 1.5 * range[i]),
        )
      }),
    )
  })

  it('ichimoku (Hosoda): middles of ranges, the cloud from 26 bars before', () => {
    fc.assert(
      fc.property(bars(), (b) => {
        const middle = (n: number) =>
          over(
            b.high.length,
            n,
            (a, z) => (Math.max(...cut(b.high, a, z)) + Math.min(...cut(b.low, a, z))) / 2,
          )
        const [c, k, s] = [middle(3), middle(7), middle(12)]
        const { conversion, base, spana, spanb } = run('ichimoku', b, 3, 7, 12, 5)
        expectColumn(conversion, c)
        expectColumn(base, k)
        expectColumn(
          spana,
          c.map((_, i) => (i >= 5 ? (c[i - 5] + k[i - 5]) / 2 : NaN)),
        )
        expectColumn(
          spanb,
          s.map((_, i) => (i >= 5 ? s[i - 5] : NaN)),
        )
      }),
    )
  })
})

describe('trend', () => {
  it('adx (Wilder 1978): 100 in a straight climb, plus and minus from the larger of the two moves', () => {
    const climb = Array.from({ length: 60 }, (_, i) => i + 10)
    const b = { high: climb.map((x) => x + 1), low: climb.map((x) => x - 1), close: climb, volume: climb }
    const { value, plus, minus } = run('adx', b)
    expect([value.at(-1), minus.at(-1)]).toEqual([100, 0])
    // Each bar rises by 1; its true range is 2.
    expect(plus.at(-1)).toBeCloseTo(50, 9)
    expect(value.findIndex((x) => !Number.isNaN(x))).toBe(27)
    expect(plus.findIndex((x) => !Number.isNaN(x))).toBe(14)
  })

  it('adx of bars turned upside down changes plus with minus and keeps its value', () => {
    fc.assert(
      fc.property(bars(), (b) => {
        const turned = {
          ...b,
          high: b.low.map((x) => 40 - x),
          low: b.high.map((x) => 40 - x),
          close: b.close.map((x) => 40 - x),
        }
        const [one, other] = [run('adx', b, 5), run('adx', turned, 5)]
        expectColumn(other.plus, one.minus, 7)
        expectColumn(other.minus, one.plus, 7)
        expectColumn(other.value, one.value, 6)
        for (const x of one.value) if (!Number.isNaN(x)) expect(x).toBeLessThanOrEqual(100 + 1e-9)
      }),
    )
  })

  it('aroon (Chande 1995): how lately the extremes came', () => {
    fc.assert(
      fc.property(bars(), small, (b, n) => {
        const { up, down, oscillator } = run('aroon', b, n)
        const lately = (xs: number[], best: (...x: number[]) => number) =>
          over(xs.length, n + 1, (from, to) => {
            const part = cut(xs, from, to)
            return (100 * part.lastIndexOf(best(...part))) / n
          })
        const [wantedUp, wantedDown] = [lately(b.high, Math.max), lately(b.low, Math.min)]
        expectColumn(up, wantedUp)
        expectColumn(down, wantedDown)
        expectColumn(
          oscillator,
          wantedUp.map((x, i) => x - wantedDown[i]),
        )
      }),
    )
  })

  it('parabolic (Wilder 1978): never within the two bars before, turns only when it is touched', () => {
    fc.assert(
      fc.property(bars(), (b) => {
        const { value, trend, turn } = run('parabolic', b)
        for (let i = 2; i < value.length; i++) {
          if (turn[i] !== 0) continue
          if (trend[i] > 0)
            expect(value[i]).toBeLessThanOrEqual(Math.min(b.low[i], b.low[i - 1], b.low[i - 2]) + 1e-12)
          else
            expect(value[i]).toBeGreaterThanOrEqual(Math.max(b.high[i], b.high[i - 1], b.high[i - 2]) - 1e-12)
          expect(trend[i]).toBe(trend[i - 1])
        }
        turn.forEach((t, i) => {
          if (t === 1 || t === -1) expect([trend[i], trend[i - 1]]).toEqual([t, -t])
        })
      }),
    )
  })

  it('parabolic by hand: a climb of 1 a bar speeds up by 0.02 a bar', () => {
    const high = [10, 11, 12, 13]
    const { value } = run('parabolic', { high, low: high.map((x) => x - 1), close: high, volume: high })
    // Begins at the first low, 9. Then 9 + 0.02 (11 - 9) = 9.04, held at 9 by the low of the first bar, with
    // speed 0.04 from the new high of 12; then 9 + 0.04 (12 - 9) = 9.12.
    expectColumn(value, [NaN, 9, 9, 9.12])
  })
})

describe('oscillators', () => {
  it('stochastic (Lane), williams, each by its definition', () => {
    fc.assert(
      fc.property(bars(), small, (b, n) => {
        const place = over(b.close.length, n, (from, to) => {
          const [top, bottom] = [Math.max(...cut(b.high, from, to)), Math.min(...cut(b.low, from, to))]
          return top > bottom ? (100 * (b.close[to - 1] - bottom)) / (top - bottom) : 50
        })
        const { fast, slow, signal } = run('stochastic', b, n, 3, 2)
        expectColumn(fast, place)
        expectColumn(slow, one('sma', place, 3), 8)
        expectColumn(signal, one('sma', one('sma', place, 3), 2), 8)
        expectColumn(
          one('williams', b, n),
          place.map((x) => x - 100),
          8,
        )
      }),
    )
  })

  it('the stochastic of the rsi stays between 0 and 100, and reaches both', () => {
    const wave = Array.from({ length: 200 }, (_, i) => 50 + 10 * Math.sin(i / 5))
    const { fast } = run('stochrsi', wave)
    const known = fast.filter((x) => !Number.isNaN(x))
    expect(Math.min(...known)).toBeCloseTo(0, 9)
    expect(Math.max(...known)).toBeCloseTo(100, 9)
  })

  it('ppo is macd over its slow average; momentum is a difference', () => {
    fc.assert(
      fc.property(prices(40, 90), (xs) => {
        const [gap, slow] = [run('macd', xs).line, one('ema', xs, 26)]
        expectColumn(
          run('ppo', xs).line,
          gap.map((x, i) => (100 * x) / slow[i]),
          7,
        )
        expectColumn(
          one('momentum', xs, 4),
          xs.map((x, i) => (i >= 4 ? x - xs[i - 4] : NaN)),
        )
      }),
    )
  })

  it('cci (Lambert 1980): mean absolute deviation, constant 0.015', () => {
    fc.assert(
      fc.property(bars(), small, (b, n) => {
        const typical = b.high.map((h, i) => (h + b.low[i] + b.close[i]) / 3)
        const wanted = over(typical.length, n, (from, to) => {
          const part = cut(typical, from, to)
          const middle = mean(part)
          const away = mean(part.map((x) => Math.abs(x - middle)))
          return away > 1e-9 ? (part.at(-1)! - middle) / (0.015 * away) : 0
        })
        expectColumn(one('cci', b, n), wanted, 6)
      }),
    )
  })
})

describe('volume', () => {
  const push = (b: Rows, i: number) =>
    b.high[i] > b.low[i]
      ? (b.volume[i] * (2 * b.close[i] - b.high[i] - b.low[i])) / (b.high[i] - b.low[i])
      : 0

  it('accumulation adds up, chaikin money flow is a share of the window’s volume', () => {
    fc.assert(
      fc.property(bars(), small, (b, n) => {
        let total = 0
        expectColumn(
          one('accumulation', b),
          b.close.map((_, i) => (total += push(b, i))),
          7,
        )
        const wanted = over(b.close.length, n, (from, to) => {
          const rows = Array.from({ length: to - from }, (_, k) => from + k)
          const all = rows.reduce((sum, i) => sum + b.volume[i], 0)
          return all > 0 ? rows.reduce((sum, i) => sum + push(b, i), 0) / all : 0
        })
        expectColumn(one('chaikin', b, n), wanted, 7)
      }),
    )
  })

  it('money flow index (Quong and Soudack 1989)', () => {
    fc.assert(
      fc.property(bars(), small, (b, n) => {
        const typical = b.high.map((h, i) => (h + b.low[i] + b.close[i]) / 3)
        const wanted = over(typical.length, n + 1, (from, to) => {
          let [up, down] = [0, 0]
          for (let i = from + 1; i < to; i++) {
            if (typical[i] > typical[i - 1]) up += typical[i] * b.volume[i]
            if (typical[i] < typical[i - 1]) down += typical[i] * b.volume[i]
          }
          return up + down > 0 ? (100 * up) / (up + down) : 50
        })
        expectColumn(one('moneyflow', b, n), wanted, 7)
      }),
    )
  })
})
