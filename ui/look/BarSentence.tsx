import { percentChange } from '@/core/market/change'
import { type Bars } from '@/core/market/bars'
import { sayBar } from '@/core/market/moments'
import { decimal, priceText, short } from '@/core/market/money'
import { isIntraday, type Timeframe, timeframeText } from '@/core/market/timeframe'
import { valueText } from '@/core/rules'
import { Change } from '../shell/Change'
import { type Line } from './chartOption'
import css from './Look.module.css'

/** "On" a day or a minute; "In the week from" its first day. */
function within(every: Timeframe): string {
  if (isIntraday(every) || (every.unit === 'day' && every.count === 1)) return 'On'
  return `In the ${every.count === 1 ? every.unit : timeframeText(every)} from`
}

/** So many things of one bar are said in a sentence; more are counted, and listed when asked for. */
const FOLDED = 4

/** The bar under the crosshair, or the last one, as a sentence; then what the lines stood at there. */
export function BarSentence({
  bars,
  lines,
  row,
  said,
}: {
  bars: Bars
  lines: readonly Line[]
  row: number
  /** What happened at that bar. */
  said: readonly string[]
}) {
  const at = Math.min(row, bars.time.length - 1)
  const growing = bars.end[at] === Infinity
  const change = at > 0 ? percentChange(bars.close[at - 1], bars.close[at]) : NaN
  const [open, high, low, close] = [bars.open, bars.high, bars.low, bars.close].map((column) =>
    priceText(column[at]),
  )
  return (
    <p className={css.barSentence} data-testid="bar">
      {within(bars.every)} <b>{sayBar(bars, at)}</b> it opened at <b>{open}</b>, rose to <b>{high}</b>, fell
      to <b>{low}</b> and {growing ? 'stands at' : 'closed at'} <b>{close}</b>
      {Number.isNaN(change) ? '' : ' ('}
      {!Number.isNaN(change) && <Change value={change} />}
      {Number.isNaN(change) ? '' : ' %)'}
      {Number.isNaN(bars.volume[at]) ? '' : ', '}
      {!Number.isNaN(bars.volume[at]) && (
        <>
          with <b>{bars.volume[at] >= 10_000 ? short(bars.volume[at]) : decimal(bars.volume[at], 0)}</b>{' '}
          traded
        </>
      )}
      .
      {lines.map((line) => (
        <span key={line.text} className={css.lineValue}>
          {line.text} <b>{valueText(line.values[at], line.unit)}</b>
        </span>
      ))}
      {said.length > 0 && said.length <= FOLDED && (
        <span className={css.lineValue}>{`Here: ${said.join('; ')}.`}</span>
      )}
      {said.length > FOLDED && (
        <details className={css.lineValue}>
          <summary>{`Here: ${said.length} orders, fills and reports`}</summary>
          <ul className={css.many}>
            {said.map((one, i) => (
              <li key={i}>{one}</li>
            ))}
          </ul>
        </details>
      )}
    </p>
  )
}
