import { type Report } from '@/core/market/figures'
import { type Session } from '@/core/market/venue'
import { type DailyColumns } from './daily'
import { type Listed } from './listing'
import { chance, seedOf } from '@/core/market/chance'

/** Sessions between two reports of earnings, and how long before one its date is confirmed. */
const QUARTER = 63
const CONFIRMED_BEFORE = 10

/**
 * What a company has reported, oldest first: shares and float, earnings of four quarters, and when the next
 * report comes: estimated at first, confirmed ten sessions before. Made up from the price of the first day.
 */
export function reportsOf(
  seed: string,
  listed: Listed,
  sessions: readonly Session[],
  daily: DailyColumns,
): Report[] {
  if (listed.kind !== 'Stock') return []
  const luck = chance(seedOf(seed, 'reports', listed.symbol))
  const offset = luck.below(QUARTER)
  let shares = Math.round(Math.exp(Math.log(8e6) + luck.uniform() * Math.log(60)) / 1000) * 1000
  const free = 0.4 + 0.55 * luck.uniform()
  const beforeOpen = luck.uniform() < 0.5
  const multiple = 9 + 26 * luck.uniform()
  const quarter = (listed.firstPrice / multiple / 4) * (luck.uniform() < 0.12 ? -0.6 : 1)
  const quarters = Array.from({ length: 7 }, () => quarter * (0.85 + 0.3 * luck.uniform()))
  const sum = (from: number) => quarters.slice(from, from + 4).reduce((a, b) => a + b, 0)
  const out: Report[] = []
  const report = (known: number, next: number) => {
    shares = Math.round((shares * (1 + 0.004 * luck.normal())) / 1000) * 1000
    const [now, before] = [sum(quarters.length - 4), sum(quarters.length - 8)]
    const told: Report = {
      known,
      sharesOutstanding: shares,
      float: Math.round((shares * free) / 1000) * 1000,
      eps: Math.round(100 * now) / 100,
      confirmed: false,
      beforeOpen,
    }
    if (before > 0) told.epsGrowth = Math.round(1000 * (now / before - 1)) / 10
    if (sessions[next]) told.nextEarnings = sessions[next].date
    out.push(told)
  }
  report(sessions[0].open, offset)
  for (let i = offset; i < sessions.length; i += QUARTER) {
    if (i >= CONFIRMED_BEFORE)
      out.push({
        known: sessions[i - CONFIRMED_BEFORE].close,
        nextEarnings: sessions[i].date,
        confirmed: true,
        beforeOpen,
      })
    // What the year brought to the price, the earnings follow in part.
    const trend = Math.log(daily.close[i] / daily.close[Math.max(0, i - 4 * QUARTER)])
    quarters.push(quarters[quarters.length - 4] * Math.exp(0.35 * trend + 0.1 * luck.normal() + 0.02))
    report(beforeOpen ? sessions[i].open : sessions[i].close, i + QUARTER)
  }
  return out
}

/** Option contracts traded on each session: a share of the volume of its own, with days on which it swells. */
export function optionVolume(seed: string, listed: Listed, daily: DailyColumns, n: number): Float64Array {
  const luck = chance(seedOf(seed, 'option volume', listed.symbol))
  const share = listed.kind === 'Stock' ? Math.exp(-7.5 + 2 * luck.uniform()) : 0.0004
  const out = new Float64Array(n)
  for (let i = 0; i < n; i++) {
    const swell = luck.uniform() < 0.02 ? 2 + 4 * luck.uniform() : 1
    out[i] = Math.round(daily.volume[i] * share * swell * Math.exp(0.35 * luck.normal()))
  }
  return out
}
