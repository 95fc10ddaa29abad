import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { type Bars, emptyBars } from '../market/bars'
import { columnOf } from '../market/columns'
import { barSource, checkMeasure, checkRule, ColumnMachine, compile } from '../rules'
import { type Verdict, verdictOf } from '../rules/verdict'
import { measureColumn } from '../scan/hits'
import { INDICATORS } from '.'

/**
 * Indicators and rules over prices in decimals against the same over whole cents, or whole ten-thousandths, where sums
 * and differences are exact: what scales with the price is a hundred times as large, all else the same. Prices lie
 * close together, so that equal sums and quotients are common.
 */
const DAY = 86_400_000

interface Row {
  open: number
  close: number
  up: number
  down: number
  volume: number
}

const rows = (around: number) =>
  fc.array(
    fc.record({
      open: fc.integer({ min: around - 3, max: around + 3 }),
      close: fc.integer({ min: around - 3, max: around + 3 }),
      up: fc.integer({ min: 0, max: 2 }),
      down: fc.integer({ min: 0, max: 2 }),
      volume: fc.integer({ min: 1, max: 5 }).map((n) => 100 * n),
    }),
    { minLength: 70, maxLength: 90 },
  )

function barsIn(all: readonly Row[], parts: number): Bars {
  const bars = emptyBars(all.length, { count: 1, unit: 'day' }, 'UTC')
  for (const [i, { open, close, up, down, volume }] of all.entries()) {
    bars.time[i] = Date.UTC(2025, 0, 6) + i * DAY
    bars.end[i] = bars.time[i] + DAY
    bars.open[i] = open / parts
    bars.close[i] = close / parts
    bars.high[i] = (Math.max(open, close) + up) / parts
    bars.low[i] = (Math.min(open, close) - down) / parts
    bars.volume[i] = volume
    for (const name of ['uptrades', 'downtrades', 'optionvolume'] as const)
      (bars[name] ??= new Float64Array(all.length))[i] = volume / 100
  }
  return bars
}

/** Prices in cents, and in ten-thousandths. */
const STEPS = [
  { parts: 100, around: 1_837 },
  { parts: 10_000, around: 7_311 },
]

/** Short windows, so that the random bars fill them many times. */
const SHORT = 5

function columnsOf(name: string, bars: Bars): Float64Array[] {
  const indicator = INDICATORS.get(name)!
  const { input } = indicator
  const ins =
    input === 'series'
      ? [bars.close]
      : input === 'two series'
        ? [bars.close, bars.open]
        : input.map((column) => columnOf(bars, column))
  const params = indicator.parameters.map((p) =>
    p.minutes ? 1 : p.whole ? Math.max(p.min, Math.min(p.preset ?? SHORT, SHORT)) : (p.preset ?? p.min),
  )
  const outs = indicator.outputs.map(() => new Float64Array(bars.time.length))
  indicator.column(ins, params, outs)
  return outs
}

/** Rows on which two columns differ by more than rounding. */
function differing(got: Float64Array, wanted: Float64Array, scale: number, near = 1e-7): number[] {
  return Array.from(got.keys()).filter((i) => {
    const want = wanted[i] / scale
    if (Number.isNaN(got[i]) || Number.isNaN(want)) return Number.isNaN(got[i]) !== Number.isNaN(want)
    return Math.abs(got[i] - want) > near * Math.max(1, Math.abs(want))
  })
}

/** Quotients of variances of changes as small as a hundred-millionth keep fewer digits. */
const NEAR: Record<string, number> = { beta: 1e-3, correlation: 1e-3, hedge: 1e-3 }

describe.each(STEPS)('prices in $parts parts of a unit', ({ parts, around }) => {
  // Drawn once for all: drawing takes longer than what is tested.
  const drawn = fc.sample(rows(around), 25)

  it.each(INDICATORS.all().map(({ name }) => name))('%s is that of whole numbers', (name) => {
    const indicator = INDICATORS.get(name)!
    for (const all of drawn) {
      const got = columnsOf(name, barsIn(all, parts))
      const wanted = columnsOf(name, barsIn(all, 1))
      for (const [k, { unit }] of indicator.outputs.entries()) {
        const scale = unit === 'price' || unit === 'input' ? parts : 1
        const rows = differing(got[k], wanted[k], scale, NEAR[name])
        if (rows.length > 0) throw new Error(`rows ${rows.join()} of ${JSON.stringify(all)}`)
      }
    }
  })

  it.each([
    '(high + low) / 2 crosses above earlier((high + low) / 2, 2 bars)',
    '(high + low + close) / 3 > earlier((high + low + close) / 3, 1 bar)',
    '(high + low + close) / 3 = earlier((high + low + close) / 3, 1 bar)',
    'high - low = earlier(high - low, 1 bar)',
    'high - close >= open - low',
    'close - open - (earlier(close, 1 bar) - earlier(open, 1 bar)) = 0',
    'close - sma(close, 3) > 0',
    'sma(close, 3) crosses below sma(close, 4)',
    'sma(close, 4) = sma(open, 4)',
    'wma(close, 3) >= wma(open, 3)',
    'climbs((high + low) / 2, 2 bars)',
    'sinks(sma(close, 2), 2 bars)',
    '(open + close) / 2 between (high + low) / 2 and high',
    'reaches((earlier(high, 1 bar) + earlier(low, 1 bar)) / 2)',
    'close / open > earlier(close, 1 bar) / earlier(open, 1 bar)',
    'roc(2) >= earlier(roc(2), 2 bars)',
    'momentum(2) > earlier(momentum(2), 1 bar)',
    'donchian(4).middle crosses above ichimoku(3, 4, 5, 1).base',
    'moneyflow(3) > 50',
    'rsi((high + low) / 2, 3) = 50',
    'close > all of (sma(close, 2), sma(close, 3), donchian(3).middle)',
    'pivots.middle = earlier(pivots.middle, 1 bar)',
    'vwap > earlier(vwap, 1 bar)',
    'least(sma(close, 2), sma(open, 2)) = sma(close, 2)',
    'bollinger(close, 4, 2).middle > sma(open, 4)',
    'regression(4).slope > 0',
    'macd(2, 3, 2).line crosses above 0',
  ])('%s is judged as on whole numbers', (text) => {
    const { tree, type } = checkRule(text)
    expect(type).toBeDefined()
    const judged = (bars: Bars): Verdict[] => {
      const graph = compile([tree!], bars.every)
      const machine = new ColumnMachine(graph)
      machine.run(barSource(bars))
      return Array.from(machine.verdicts[graph.results[0]], verdictOf)
    }
    for (const all of drawn) expect(judged(barsIn(all, parts))).toEqual(judged(barsIn(all, 1)))
  })
})

it('by hand: a typical price that is the same on paper is neither a rise nor a fall of money flow', () => {
  // (10.10 + 10.00 + 10.06) / 3 and (10.11 + 10.01 + 10.04) / 3 are both 10.05333…, but not as doubles.
  const bars = emptyBars(4, { count: 1, unit: 'day' }, 'UTC')
  const put = (i: number, high: number, low: number, close: number) => {
    bars.time[i] = i * DAY
    bars.end[i] = (i + 1) * DAY
    ;[bars.open[i], bars.high[i], bars.low[i], bars.close[i], bars.volume[i]] = [close, high, low, close, 100]
  }
  put(0, 10.1, 10, 10.06)
  put(1, 10.11, 10.01, 10.04)
  put(2, 10.1, 10, 10.06)
  put(3, 10.11, 10.01, 10.04)
  const tree = checkMeasure('moneyflow(2)').tree!
  expect(measureColumn(tree, barSource(bars)).at(-1)).toBe(50)
})
