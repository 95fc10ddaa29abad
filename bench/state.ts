import { barAt, checkMeasure, compile, StepMachine } from '../core/rules'
import { benchMarket } from './market'
import { type Line, lineOf, timeRuns } from './measure'

const SECURITIES = 500
/** Twenty measures of the kind that a plan looks at. */
const MEASURES = [
  ...['sma(close, 20)', 'sma(close, 50)', 'ema(close, 33)', 'wma(close, 10)', 'wilder(close, 14)'],
  ...['hull(close, 16)', 'rsi(14)', 'macd.line', 'bollinger(close, 20, 2).upper', 'zscore(close, 20)'],
  ...['atr(14)', 'keltner.upper', 'donchian(20).lower', 'adx.plus', 'stochastic.slow', 'williams(14)'],
  ...['highest(close, 20)', 'roc(close, 10)', 'obv', 'momentum(close, 10)'],
]

/** What machines keep, saved as text and put back: against one plain copy of the same slots. */
export function benchState(): Line[] {
  const { bars } = benchMarket(SECURITIES, 120)
  const graph = compile(
    MEASURES.map((text) => checkMeasure(text).tree!),
    bars[0].every,
  )
  const made = () => bars.map((one) => new StepMachine(graph, { zone: one.zone }))
  const [from, to] = [made(), made()]
  for (const [k, machine] of from.entries())
    for (let i = 0; i < 120; i++) machine.feed(barAt(bars[k], i), true)
  const copies = from.map(({ slots }) => slots.slice())
  const copy = timeRuns(() => from.forEach(({ slots }, k) => copies[k].set(slots)), 31)
  const both = timeRuns(() => {
    const saved = from.map((machine) => machine.save())
    for (const [k, one] of saved.entries()) if (!to[k].restore(one)) throw new Error('Not taken back')
  }, 15)
  const kept = from.reduce((sum, { slots }) => sum + slots.length, 0)
  const base = lineOf(`plain copy of ${kept} slots`, copy, 'ms', undefined)
  return [
    base,
    lineOf(
      `state of ${SECURITIES} securities x ${MEASURES.length} measures saved and put back`,
      both,
      'ms',
      base,
    ),
  ]
}
