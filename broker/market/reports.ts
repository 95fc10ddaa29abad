import { type Report } from '@/core/market/figures'
import { type Session } from '@/core/market/venue'
import { type DailyColumns } from './daily'
import { type Listed } from './listing'
import { chance, seedOf } from '@/core/market/chance'

/** Sessions between two reports of earnings. */
const QUARTER = 63
/** Sessions between confirming a report date and the report: usually, and when it is late. */
const CONFIRMED_BEFORE = { usually: 10, late: 3 }
/** Share of reports whose date moves from the estimate, and share that is confirmed late. */
const MOVED = 0.3
const LATE = 0.15
/** A date moves by at most so many sessions. */
const MOVES_BY = 4

/**
 * What a company has reported, oldest first: shares and float, earnings of four quarters, and when the next report comes.
 * The next date is an estimate at first; some are off by a few sessions. It is confirmed ten sessions ahead, or three if late.
 * Everything is made from what was known at the time.
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
    const moved = luck.uniform() < MOVED
    const away = (luck.uniform() < 0.5 ? 1 : -1) * (1 + luck.below(MOVES_BY))
    const estimate = Math.max(0, moved ? next + away : next)
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
    if (sessions[estimate]) told.nextEarnings = sessions[estimate].date
    out.push(told)
  }
  report(sessions[0].open, offset)
  for (let i = offset; i < sessions.length; i += QUARTER) {
    const before = luck.uniform() < LATE ? CONFIRMED_BEFORE.late : CONFIRMED_BEFORE.usually
    if (i >= before)
      out.push({
        known: sessions[i - before].close,
        nextEarnings: sessions[i].date,
        confirmed: true,
        beforeOpen,
      })
    // Earnings follow the price of the year in part. A report before the open must not use that day's close.
    const last = beforeOpen ? Math.max(0, i - 1) : i
    const trend = Math.log(daily.close[last] / daily.close[Math.max(0, i - 4 * QUARTER)])
    quarters.push(quarters[quarters.length - 4] * Math.exp(0.35 * trend + 0.1 * luck.normal() + 0.02))
    report(beforeOpen ? sessions[i].open : sessions[i].close, i + QUARTER)
  }
  return out
}

/** Option contracts of an underlying that trade on a session in all: a share of its volume, with days on which it swells. */
export function optionVolumeOn(seed: string, listed: Listed, date: string, volume: number): number {
  const { symbol, kind } = listed
  const luck = chance(seedOf(seed, 'option volume', symbol))
  const share = kind === 'Stock' ? Math.exp(-7.5 + 2 * luck.uniform()) : 0.0004
  const today = chance(seedOf(seed, 'option volume', symbol, date))
  const swell = today.uniform() < 0.02 ? 2 + 4 * today.uniform() : 1
  return Math.round(volume * share * swell * Math.exp(0.35 * today.normal()))
}
