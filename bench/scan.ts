import { type Bars, emptyBars } from '../core/market/bars'
import { parse } from '../core/rules'
import { scan } from '../core/scan/scan'
import { type Line, lineOf, timeRuns } from './measure'

const SECURITIES = 1_000
const BARS = 1_260
const RULE =
  'close > sma(close, 50) and rsi(14) < 70 and close > bollinger(close, 20, 2).lower and volume > 1.2 * sma(volume, 20)'
const DAY = 86_400_000

/** A repeatable walk; what it looks like does not matter, only that it is not constant. */
function market(): Bars[] {
  let state = 12_345
  const chance = () => (state = (state * 1_103_515_245 + 12_345) % 2_147_483_648) / 2_147_483_648
  const calendar = emptyBars(BARS, { count: 1, unit: 'day' }, 'UTC')
  for (let i = 0; i < BARS; i++) {
    calendar.time[i] = i * DAY
    calendar.end[i] = (i + 1) * DAY
  }
  return Array.from({ length: SECURITIES }, () => {
    const bars = { ...emptyBars(BARS, calendar.every, 'UTC'), time: calendar.time, end: calendar.end }
    let price = 20 + 80 * chance()
    for (let i = 0; i < BARS; i++) {
      bars.open[i] = price
      price *= 0.98 + 0.0405 * chance()
      bars.close[i] = price
      bars.high[i] = Math.max(bars.open[i], price) * 1.004
      bars.low[i] = Math.min(bars.open[i], price) * 0.996
      bars.volume[i] = Math.floor(1e5 + 1e6 * chance())
    }
    return bars
  })
}

/** A rule of four indicators over all bars in one thread, against one plain pass over the same columns. */
export function benchScan(): Line[] {
  const bars = market()
  const set = { symbols: bars.map((_, i) => `S${i}`), bars }
  const query = { rule: parse(RULE).tree!, measures: [], every: bars[0].every }
  let kept = 0
  const plain = timeRuns(() => {
    for (const { close, volume } of bars) {
      let sum = 0
      for (let i = 0; i < close.length; i++) sum += close[i] + volume[i]
      kept += sum
    }
  }, 31)
  const full = timeRuns(() => (kept += scan(set, query)!.rows.length), 31)
  if (Number.isNaN(kept)) throw new Error('The bench summed nothing')
  const base = lineOf(`plain sum of the same two columns, ${SECURITIES} x ${BARS}`, plain, 'ms', undefined)
  return [base, lineOf(`scan of four indicators, ${SECURITIES} x ${BARS}, one thread`, full, 'ms', base)]
}
