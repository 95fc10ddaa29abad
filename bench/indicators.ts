import { INDICATORS } from '../core/indicators'
import { Slots } from '../core/indicators/slots'
import { type Bars } from '../core/market/bars'
import { columnOf } from '../core/market/columns'
import { type Indicator } from '../core/indicators/types'
import { barAt, checkRule, StepMachine } from '../core/rules'
import { benchMarket } from './market'
import { type Line, lineOf, timeRuns } from './measure'

const SECURITIES = 400
const ROWS = 504
/** An indicator's pass should take no more than this many plain sums of the columns that it reads. */
const WANTED = 6

/** Why some need more than the wanted ratio. */
const REASONS: Record<string, string> = {
  bollinger: 'three columns out, and a square root a row',
  deviation: 'a square root a row',
  zscore: 'a square root and a division a row',
  rsi: 'three divisions a row',
  stochrsi: 'the strength, two extremes and two averages of it',
  stochastic: 'two extremes, a division, two averages',
  williams: 'two extremes and a division a row',
  donchian: 'two extremes, three columns out',
  ichimoku: 'six extremes, four columns out',
  adx: 'four smoothings, which each wait for the row before, and three divisions a row',
  aroon: 'places of two extremes, kept in queues',
  parabolic: 'each row branches on the one before',
  macd: 'three smoothings, which each wait for the row before',
  ppo: 'three smoothings and a division a row',
  keltner: 'two smoothings and three columns out',
  hull: 'three weighted averages',
  kaufman: 'a division a row, and the path anew now and then',
  dema: 'two smoothings, one after the other',
  tema: 'three smoothings, one after the other',
  wma: 'two sums a row in each direction',
  regression: 'three sums in each direction, four columns out',
  cci: 'the mean absolute deviation has no running form: a whole window a row',
  moneyflow: 'two sums and two divisions a row',
  chaikin: 'two sums and two divisions a row',
  volatility: 'a logarithm and a square root a row',
  correlation: 'the changes of two series, then five sums in each direction',
  beta: 'the changes of two series, then five sums in each direction',
  hedge: 'eight sums in each direction, a logarithm a row, five columns out',
  usualvolume: 'looks up each minute of the day in the sessions before',
  swing: 'compares each row with those about it',
  support: 'compares each row with those about it, then with the last turns',
  resistance: 'compares each row with those about it, then with the last turns',
  trend: 'compares each row with those about it',
  'trend up': 'compares each row with those about it',
  'trend down': 'compares each row with those about it',
  'trend sideways': 'compares each row with those about it',
  prior: 'five columns out, each bar a session of its own here',
  pivots: 'seven columns out, each bar a session of its own here',
  'gap up': 'each bar is a session of its own here',
  'gap down': 'each bar is a session of its own here',
  highest: 'compares twice a row, where a sum adds once',
  lowest: 'compares twice a row, where a sum adds once',
  'new high': 'compares three times a row, where a sum adds once',
  'new low': 'compares three times a row, where a sum adds once',
  opening: 'four columns out, six comparisons a row',
  relvolume: 'a division a row',
  strength: 'three divisions a row',
  roc: 'a division a row',
}

const inputsOf = ({ input }: Indicator, bars: Bars): Float64Array[] =>
  input === 'series'
    ? [bars.close]
    : input === 'two series'
      ? [bars.close, bars.open]
      : input.map((name) => columnOf(bars, name))

/** Each indicator over many securities, against a plain loop that sums the same columns; single thread. */
export function benchIndicators(): Line[] {
  const { bars } = benchMarket(SECURITIES, ROWS)
  return INDICATORS.all().flatMap((indicator): Line[] => {
    const ins = bars.map((one) => inputsOf(indicator, one))
    const outs = indicator.outputs.map(() => new Float64Array(ROWS))
    const params = indicator.parameters.map((p) => p.preset ?? 20)
    let kept = 0
    const plain = timeRuns(() => {
      for (const columns of ins)
        for (const column of columns) {
          let sum = 0
          for (let i = 0; i < column.length; i++) sum += column[i]
          kept += sum
        }
    }, 15)
    const pass = timeRuns(() => {
      for (const columns of ins) indicator.column(columns, params, outs)
    }, 15)
    if (kept === Infinity) throw new Error('The bench summed nothing')
    const base = lineOf(`plain sum of what ${indicator.name} reads`, plain, 'ms', undefined)
    const line = lineOf(`${indicator.name}, ${SECURITIES} x ${ROWS}`, pass, 'ms', base)
    return [
      line.ratio > WANTED ? { ...line, reason: REASONS[indicator.name] ?? 'not looked into yet' } : line,
    ]
  })
}

const ON_A_TICK = [
  ...['sma', 'ema', 'wma', 'wilder', 'hull', 'dema', 'rsi', 'macd', 'bollinger', 'zscore'],
  ...['atr', 'keltner', 'donchian', 'adx', 'stochastic', 'williams', 'highest', 'roc', 'obv', 'momentum'],
]

/** Twenty measures brought up to date with one new tick of the growing bar. */
export function benchTick(): Line[] {
  const {
    bars: [bars],
  } = benchMarket(1, 2_000)
  const steps = ON_A_TICK.map((name) => {
    const indicator = INDICATORS.get(name)!
    const params = indicator.parameters.map((p) => p.preset ?? 20)
    const measured = new Slots()
    indicator.steps(params, measured)
    const step = indicator.steps(params, new Slots(new Float64Array(measured.size)))
    return { step, ins: inputsOf(indicator, bars), outs: new Float64Array(indicator.outputs.length) }
  })
  const values = steps.map(({ ins }) => new Float64Array(ins.length))
  const feed = (row: number, off: number, keep: boolean) => {
    for (let s = 0; s < steps.length; s++) {
      const { step, ins, outs } = steps[s]
      for (let c = 0; c < ins.length; c++) values[s][c] = ins[c][row] + off
      step(values[s], outs, keep)
    }
  }
  for (let row = 0; row < 600; row++) feed(row, 0, true)
  const times: number[] = []
  let row = 600
  for (let k = 0; k < 40_000; k++) {
    const began = performance.now()
    for (let t = 0; t < 20; t++) feed(row, (t - 10) / 1000, false)
    const took = performance.now() - began
    if (k >= 5_000) times.push((1000 * took) / 20)
    if (k % 40 === 0) feed(row++ % 2_000, 0, true)
    row = row % 2_000
  }
  const measures = lineOf(`${ON_A_TICK.length} measures on one new tick`, times, 'µs', undefined)
  return [measures, ruleOnTick(bars, measures)]
}

/** A rule of four parts, one of them on weeks, with one new tick of the growing bar. */
function ruleOnTick(bars: Bars, measures: Line): Line {
  const rule =
    'close crosses above sma(close, 20) and rsi(14) > 50 and recently(gap up, 5 bars) and close > on(1 week, ema(close, 10))'
  const live = StepMachine.of([checkRule(rule, bars.every).tree!], bars.every, { zone: bars.zone })
  const last = bars.time.length - 1
  for (let i = 0; i < last; i++) live.feed(barAt(bars, i), true)
  const growing = { ...barAt(bars, last), end: Infinity }
  const times: number[] = []
  for (let k = 0; k < 12_000; k++) {
    const began = performance.now()
    for (let t = 0; t < 20; t++) {
      growing.close += (t - 9.5) / 1000
      live.feed(growing, false)
    }
    if (k >= 2_000) times.push((1000 * (performance.now() - began)) / 20)
  }
  return lineOf('a rule of four parts on one new tick', times, 'µs', measures)
}
