import { INDICATORS } from '../indicators'
import { type Bars } from './bars'
import { calendarOf } from './columns'
import { type IncrementBand, ticksBetween } from './increment'
import { decimal, priceText } from './money'
import { isIntraday } from './timeframe'

/** A place on a chart: a row of the bars and a price. */
export interface Spot {
  row: number
  price: number
}

/** What lies between two places: money, percent, average ranges, bars and sessions. */
export interface Distance {
  money: number
  percent: number
  /** In average true ranges of 14 bars at the later place; unknown where there are too few bars. */
  ranges: number
  bars: number
  sessions: number
}

export function distance(bars: Bars, from: Spot, to: Spot): Distance {
  const [first, last] = from.row <= to.row ? [from, to] : [to, from]
  const atr = new Float64Array(bars.time.length)
  INDICATORS.get('atr')!.column([bars.high, bars.low, bars.close], [14], [atr])
  const money = last.price - first.price
  const { session } = calendarOf(bars)
  let sessions = 0
  for (let i = first.row + 1; i <= last.row; i++) if (session[i] !== session[i - 1]) sessions++
  return {
    money,
    percent: first.price > 0 ? (100 * money) / first.price : NaN,
    ranges: atr[last.row] > 0 ? Math.abs(money) / atr[last.row] : NaN,
    bars: last.row - first.row,
    sessions,
  }
}

const plural = (n: number, word: string) => `${n.toLocaleString('en-US')} ${word}${n === 1 ? '' : 's'}`

/** The answer as a sentence; ticks are those of the security at the first price. */
export function sayDistance(bars: Bars, from: Spot, to: Spot, steps: readonly IncrementBand[]): string {
  const { money, percent, ranges, bars: count, sessions } = distance(bars, from, to)
  const [first, last] = from.row <= to.row ? [from, to] : [to, from]
  const way = money > 0 ? 'up' : money < 0 ? 'down' : 'level'
  const sign = money < 0 ? '−' : '+'
  const size = Number.isNaN(ranges) ? '' : `, ${decimal(ranges, 1)} average ranges`
  const ticks = Math.abs(Math.round(ticksBetween(steps, first.price, last.price)))
  const span = isIntraday(bars.every)
    ? `${plural(count, 'bar')}, ${plural(sessions + 1, 'session')}`
    : plural(count, 'bar')
  const far =
    way === 'level'
      ? 'level'
      : `${way} ${first.price >= 1 ? decimal(Math.abs(money), 2) : priceText(Math.abs(money))} (${sign}${decimal(Math.abs(percent), 2)} %, ${plural(ticks, 'tick')}${size})`
  return `From ${priceText(first.price)} to ${priceText(last.price)}: ${far}, in ${span}.`
}
