import { type Action } from '@/core/market/adjust'
import { type Bars } from '@/core/market/bars'
import { calendarOf } from '@/core/market/columns'
import { dayNumber } from '@/core/market/figures'
import { type DailyColumns } from './daily'
import { type Listed } from './listing'
import { chance, seedOf } from '@/core/market/chance'

/** No split comes after this date, so that quotes and orders never have to be made over. */
const LAST_SPLIT = '2026-03-01'

/**
 * Splits and dividends of a security, oldest first. The price process runs in today's shares, so that before
 * a split prices were higher by its ratio. Dividends are quarterly, a share of the price of their day.
 */
export function actionsOf(
  seed: string,
  listed: Listed,
  dates: readonly string[],
  daily: DailyColumns,
): Action[] {
  if (listed.kind !== 'Stock') return []
  const luck = chance(seedOf(seed, 'actions', listed.symbol))
  const splits = luck.uniform() < 0.09
  const splitAt = 40 + luck.below(1_200)
  const ratio = luck.uniform() < 0.75 ? 2 : 3
  const pays = luck.uniform() < 0.45
  const payday = luck.below(63)
  const share = 0.003 + 0.007 * luck.uniform()
  const out: Action[] = []
  const splitDate = splits ? dates[splitAt] : undefined
  if (splitDate !== undefined && splitDate < LAST_SPLIT) out.push({ kind: 'Split', exDate: splitDate, ratio })
  if (pays) {
    for (let i = Math.max(1, payday); i < dates.length; i += 63) {
      const before = splitDate !== undefined && dates[i] < splitDate ? ratio : 1
      const amount = Math.round((share * daily.close[i - 1] * before) / 100) / 100
      if (amount > 0) out.push({ kind: 'Dividend', exDate: dates[i], amount })
    }
  }
  return out.sort((a, b) => (a.exDate < b.exDate ? -1 : 1))
}

/** Bars in the shares of their own day: what a split changed, changed back. */
export function asTraded(bars: Bars, actions: readonly Action[]): Bars {
  let out = bars
  for (const action of actions) {
    if (action.kind !== 'Split') continue
    const { session } = calendarOf(bars)
    const ex = dayNumber(action.exDate)
    const times = (column: Float64Array, by: number) => column.map((x, i) => (session[i] < ex ? x * by : x))
    out = {
      ...out,
      open: times(out.open, action.ratio),
      high: times(out.high, action.ratio),
      low: times(out.low, action.ratio),
      close: times(out.close, action.ratio),
      volume: times(out.volume, 1 / action.ratio),
    }
  }
  return out
}
