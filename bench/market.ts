import { type Bars, emptyBars } from '../core/market/bars'
import { type BarSet } from '../core/market/barTable'

const DAY = 86_400_000

/** A repeatable walk of many securities; what it looks like does not matter, only that it is not constant. */
export function benchMarket(securities: number, rows: number): BarSet {
  let state = 12_345
  const chance = () => (state = (state * 1_103_515_245 + 12_345) % 2_147_483_648) / 2_147_483_648
  const calendar = emptyBars(rows, { count: 1, unit: 'day' }, 'UTC')
  for (let i = 0; i < rows; i++) {
    calendar.time[i] = i * DAY
    calendar.end[i] = (i + 1) * DAY
  }
  const bars = Array.from({ length: securities }, (): Bars => {
    const one = { ...emptyBars(rows, calendar.every, 'UTC'), time: calendar.time, end: calendar.end }
    let price = 20 + 80 * chance()
    for (let i = 0; i < rows; i++) {
      one.open[i] = price
      price *= 0.98 + 0.0405 * chance()
      one.close[i] = price
      one.high[i] = Math.max(one.open[i], price) * 1.004
      one.low[i] = Math.min(one.open[i], price) * 0.996
      one.volume[i] = Math.floor(1e5 + 1e6 * chance())
    }
    return one
  })
  return { symbols: bars.map((_, i) => `S${i}`), bars }
}
