import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { mean, standardDeviation } from 'simple-statistics'
import { column, expectColumn, gappyPrices, prices } from '@/tests/bars'
import { INDICATORS } from '.'
import { makeRegistry } from './registry'

/** Runs an indicator over columns and gives its outputs by name. */
function run(
  name: string,
  ins: readonly (readonly number[])[],
  params: readonly number[],
): Record<string, Float64Array> {
  const indicator = INDICATORS.get(name)!
  const outs = indicator.outputs.map(() => new Float64Array(ins[0].length))
  indicator.column(ins.map(column), params, outs)
  return Object.fromEntries(indicator.outputs.map((o, i) => [o.name, outs[i]]))
}

const value = (name: string, xs: readonly number[], ...params: number[]) => run(name, [xs], params).value

/** The last n values up to each row, or undefined where there are fewer or one is unknown. */
const windows = (xs: readonly number[], n: number): (number[] | undefined)[] =>
  xs.map((_, i) => {
    const part = i >= n - 1 ? xs.slice(i - n + 1, i + 1) : undefined
    return part?.every((x) => !Number.isNaN(x)) ? part : undefined
  })

const over = (xs: readonly number[], n: number, f: (part: number[]) => number): number[] =>
  windows(xs, n).map((part) => (part ? f(part) : NaN))

const lengths = fc.integer({ min: 1, max: 25 })

describe('moving windows against their definitions', () => {
  it('sma is the mean of each window (reference: simple-statistics)', () => {
    fc.assert(
      fc.property(gappyPrices(), lengths, (xs, n) => expectColumn(value('sma', xs, n), over(xs, n, mean))),
    )
  })

  it('wma weighs n, n-1, ... 1', () => {
    const weighted = (part: number[]) =>
      part.reduce((sum, x, i) => sum + (i + 1) * x, 0) / ((part.length * (part.length + 1)) / 2)
    fc.assert(
      fc.property(gappyPrices(), lengths, (xs, n) =>
        expectColumn(value('wma', xs, n), over(xs, n, weighted)),
      ),
    )
  })

  it('highest and lowest are the extremes of each window', () => {
    fc.assert(
      fc.property(gappyPrices(), lengths, (xs, n) => {
        expectColumn(
          value('highest', xs, n),
          over(xs, n, (part) => Math.max(...part)),
        )
        expectColumn(
          value('lowest', xs, n),
          over(xs, n, (part) => Math.min(...part)),
        )
      }),
    )
  })

  it('bollinger uses the population deviation (Bollinger 2001; reference: simple-statistics)', () => {
    fc.assert(
      fc.property(gappyPrices(160), lengths, (xs, n) => {
        const { middle, upper, lower } = run('bollinger', [xs], [n, 2])
        expectColumn(middle, over(xs, n, mean))
        expectColumn(
          upper,
          over(xs, n, (part) => mean(part) + 2 * standardDeviation(part)),
          7,
        )
        expectColumn(
          lower,
          over(xs, n, (part) => mean(part) - 2 * standardDeviation(part)),
          7,
        )
      }),
    )
  })

  it('roc is the change in percent', () => {
    fc.assert(
      fc.property(prices(), lengths, (xs, n) =>
        expectColumn(
          value('roc', xs, n),
          xs.map((x, i) => (i >= n ? 100 * (x / xs[i - n] - 1) : NaN)),
        ),
      ),
    )
  })

  it('a huge value leaves nothing behind in a sum (as an exact sum of doubles, Shewchuk 1997)', () => {
    expectColumn(value('sma', [1, 1e16, 1, 1, 1, 1], 3).slice(4), [1, 1])
  })
})

describe('NIST Statistical Reference Datasets, univariate summary statistics', () => {
  // https://www.itl.nist.gov/div898/strd/univ: certified mean and sample standard deviation.
  const numAcc = (first: number, low: number, high: number) => [
    first,
    ...Array.from({ length: 1000 }, (_, i) => (i % 2 === 0 ? low : high)),
  ]
  it.each([
    ['NumAcc1', [10000001, 10000003, 10000002], 10000002, 1],
    ['NumAcc2', numAcc(1.2, 1.1, 1.3), 1.2, 0.1],
    ['NumAcc3', numAcc(1000000.2, 1000000.1, 1000000.3), 1000000.2, 0.1],
    ['NumAcc4', numAcc(10000000.2, 10000000.1, 10000000.3), 10000000.2, 0.1],
  ])('%s', (_, data, certifiedMean, certifiedDeviation) => {
    const n = data.length
    const { middle, upper } = run('bollinger', [data], [n, 1])
    expect(middle[n - 1]).toBeCloseTo(certifiedMean, 8)
    // The band is the population form: sample form times sqrt((n - 1) / n).
    expect((upper[n - 1] - middle[n - 1]) * Math.sqrt(n / (n - 1))).toBeCloseTo(certifiedDeviation, 7)
  })
})

describe('recursive averages', () => {
  it('ema begins with the plain mean and weighs the new bar 2/(n+1) (common practice)', () => {
    // Worked by hand: mean(1,2,3) = 2; 2 + (7-2)/2 = 4.5; 4.5 + (5-4.5)/2 = 4.75.
    expectColumn(value('ema', [1, 2, 3, 7, 5], 3), [NaN, NaN, 2, 4.5, 4.75])
  })

  it('an unknown value makes it begin anew', () => {
    expectColumn(value('ema', [1, 2, NaN, 4, 6, 8], 2), [NaN, 1.5, NaN, NaN, 5, 7])
  })

  it('every average of a constant is the constant', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('sma', 'ema', 'wma'),
        lengths,
        fc.integer({ min: 1, max: 900 }),
        (name, n, x) => {
          const out = value(name, Array<number>(60).fill(x), n)
          expectColumn(out.slice(n - 1), Array<number>(60 - n + 1).fill(x))
        },
      ),
    )
  })

  it('macd is the gap of two ema, its signal an ema of that (Appel: 12/26/9)', () => {
    fc.assert(
      fc.property(prices(40, 90), (xs) => {
        const { line, signal, histogram } = run('macd', [xs], [12, 26, 9])
        const [fast, slow] = [value('ema', xs, 12), value('ema', xs, 26)]
        const gap = xs.map((_, i) => fast[i] - slow[i])
        expectColumn(line, gap)
        const after = value('ema', gap, 9)
        expectColumn(signal, [...after])
        expectColumn(
          histogram,
          gap.map((x, i) => x - after[i]),
        )
      }),
    )
  })
})

describe('Wilder 1978', () => {
  // The 14-bar worked example that textbooks reprint, closes and results to two places; written down from
  // memory, and confirmed here by both ways agreeing.
  const closes = [
    44.3389, 44.0902, 44.1497, 43.6124, 44.3278, 44.8264, 45.0955, 45.4245, 45.8433, 46.0826, 45.8931,
    46.0328, 45.614, 46.282, 46.282, 46.0028, 46.0328, 46.4116, 46.2222, 45.6439, 46.2122, 46.2521, 45.7137,
    46.4515, 45.7835, 45.3548, 44.0288, 44.1783, 44.2181, 44.5672, 43.4205, 42.6628, 43.1314,
  ]
  const results = [
    70.53, 66.32, 66.55, 69.41, 66.36, 57.97, 62.93, 63.26, 56.06, 62.38, 54.71, 50.42, 39.99, 41.46, 41.87,
    45.46, 37.3, 33.08, 37.77,
  ]

  it('rsi reprints the worked example', () => {
    const out = value('rsi', closes, 14)
    expect([...out.slice(14)].map((x) => Number(x.toFixed(2)))).toEqual(results)
    expectColumn(out.slice(0, 14), Array<number>(14).fill(NaN))
  })

  it('rsi is 100 where nothing fell, 0 where nothing rose, 50 where nothing moved', () => {
    const climb = Array.from({ length: 20 }, (_, i) => i + 1)
    expect(value('rsi', climb, 14)[19]).toBe(100)
    expect(value('rsi', [...climb].reverse(), 14)[19]).toBe(0)
    expect(value('rsi', Array<number>(20).fill(7), 14)[19]).toBe(50)
  })

  it('rsi of a mirrored series is mirrored about 50', () => {
    fc.assert(
      fc.property(prices(20, 60), (xs) => {
        const mirrored = xs.map((x) => 100 - x)
        expectColumn(
          value('rsi', mirrored, 5),
          [...value('rsi', xs, 5)].map((x) => 100 - x),
          7,
        )
      }),
    )
  })

  it('atr: first value the plain mean of true ranges, then (n-1)/n of the last plus 1/n of the new', () => {
    const [high, low, close] = [
      [12, 13, 12.5, 15, 14],
      [10, 11, 11.5, 13.5, 12],
      [11, 12, 12, 14, 13],
    ]
    // True ranges by hand: 2; max(2, |13-11|, |11-11|) = 2; 1; max(1.5, 15-12) = 3; max(2, |12-14|) = 2.
    const out = run('atr', [high, low, close], [3]).value
    expectColumn(out, [NaN, NaN, 5 / 3, ((5 / 3) * 2 + 3) / 3, ((((5 / 3) * 2 + 3) / 3) * 2 + 2) / 3])
  })

  it('atr is never below the smallest bar nor above the largest true range', () => {
    fc.assert(
      fc.property(prices(6, 60), (xs) => {
        const high = xs.map((x) => x + 1)
        const low = xs.map((x) => x - 1)
        const out = run('atr', [high, low, xs], [5]).value
        for (let i = 4; i < xs.length; i++) {
          expect(out[i]).toBeGreaterThanOrEqual(2 - 1e-9)
          expect(out[i]).toBeLessThanOrEqual(22 + 1e-9)
        }
      }),
    )
  })
})

describe('Granville 1963', () => {
  it('obv adds volume on a rise, takes it on a fall, leaves it where the close stands', () => {
    const close = [10, 11, 11, 9, 12]
    const volume = [100, 200, 300, 400, 500]
    expectColumn(run('obv', [close, volume], []).value, [0, 200, 200, -200, 300])
  })
})

describe('every registered indicator', () => {
  const all = INDICATORS.all()
  const arbitrary = fc.record({
    which: fc.constantFrom(...all),
    xs: prices(0, 70),
    cut: fc.integer({ min: 0, max: 70 }),
  })
  /** Sessions of five bars of ten minutes from 09:30. */
  const calendar: Record<string, (i: number) => number> = {
    session: (i) => Math.floor(i / 5),
    began: (i) => 570 + 10 * (i % 5),
    clock: (i) => 580 + 10 * (i % 5),
  }
  const columnsOf = ({ input }: (typeof all)[number], xs: number[]): number[][] => {
    if (input === 'series') return [xs]
    if (input === 'two series') return [xs, xs.map((x, i) => x / 2 + Math.cos(i * 1.7))]
    return input.map((name) =>
      name in calendar
        ? xs.map((_, i) => calendar[name](i))
        : xs.map((x) => x + ({ high: 1, low: -1 }[name as string] ?? 0)),
    )
  }
  const presets = (indicator: (typeof all)[number]) =>
    indicator.parameters.map((p) => (p.minutes ? 20 : Math.min(p.preset ?? 9, 30)))
  /** Known only once the price has turned, or a session has passed: not by the number of bars alone. */
  const byEvent = /^(swing|support|resistance|trend|prior|pivots|gap|opening|usual|hedge)/

  it('knows nothing before its warm-up and everything after', () => {
    for (const indicator of all) {
      const xs = Array.from({ length: 150 }, (_, i) => 20 + Math.sin(i) * 3)
      const outs = Object.values(run(indicator.name, columnsOf(indicator, xs), presets(indicator)))
      const first = Math.max(...outs.map((out) => out.findIndex((x) => !Number.isNaN(x)))) + 1
      const warmUp = indicator.warmUp(presets(indicator))
      if (byEvent.test(indicator.name)) expect(first).toBeGreaterThanOrEqual(warmUp)
      else expect([indicator.name, first]).toEqual([indicator.name, warmUp])
    }
  })

  it('never looks ahead: what is known at a bar does not change when later bars come', () => {
    fc.assert(
      fc.property(arbitrary, ({ which, xs, cut }) => {
        const n = Math.min(cut, xs.length)
        const whole = Object.values(run(which.name, columnsOf(which, xs), presets(which)))
        const part = Object.values(run(which.name, columnsOf(which, xs.slice(0, n)), presets(which)))
        part.forEach((out, k) => expectColumn(out, [...whole[k].slice(0, n)], 12))
      }),
    )
  })

  it('names its source and its parameters', () => {
    for (const indicator of all) {
      expect(indicator.source.length).toBeGreaterThan(5)
      expect(indicator.doc).toMatch(/\.$/)
    }
  })

  it('may not be registered twice', () => {
    expect(() => makeRegistry([all[0], all[0]])).toThrow('choose another name')
  })
})
