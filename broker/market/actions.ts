import { type Action, type Factor } from '@/core/market/adjust'
import { type Bars } from '@/core/market/bars'
import { calendarOf } from '@/core/market/columns'
import { dayNumber } from '@/core/market/figures'
import { incrementAt } from '@/core/market/increment'
import { toE4 } from '@/core/market/money'
import { type DailyColumns } from './daily'
import { type Listed } from './listing'
import { chance, seedOf } from '@/core/market/chance'

/** Of splits before this date the price process knows nothing: it runs in the shares that there were at the market's start. */
const START = '2026-03-01'

/** A split that comes while the market is traded. */
export interface LaterSplit {
  exDate: string
  /** Row of its session. */
  row: number
  ratio: number
}

/**
 * The split that lies ahead of a security at the market's start; undefined where there is none. Only of stocks that are not
 * `optioned`, so that no contract has to be made over; always so many shares for one.
 */
export function laterSplitOf(
  seed: string,
  listed: Listed,
  optioned: boolean,
  sessions: readonly { date: string }[],
): LaterSplit | undefined {
  if (listed.kind !== 'Stock' || optioned) return undefined
  const luck = chance(seedOf(seed, 'later split', listed.symbol))
  if (luck.uniform() >= 0.5) return undefined
  const row = sessions.findIndex(({ date }) => date >= START) + 15 + luck.below(160)
  const ratio = luck.uniform() < 0.75 ? 2 : 3
  return sessions[row] && { exDate: sessions[row].date, row, ratio }
}

/** Daily bars of the price process in the shares of each day; prices on ticks. */
export function inOwnShares(daily: DailyColumns, { row, ratio }: LaterSplit, listed: Listed): DailyColumns {
  const price = (column: Int32Array) => column.map((x, i) => (i < row ? x : onStep(listed, x / ratio)))
  const { open, high, low, close, volume } = daily
  return {
    ...{ open: price(open), high: price(high), low: price(low), close: price(close) },
    volume: volume.map((x, i) => (i < row ? x : x * ratio)),
  }
}

/** The nearest tick to a price, both in ten-thousandths. */
export function onStep(listed: Listed, priceE4: number): number {
  const step = toE4(incrementAt(listed.increments, priceE4 / 10_000))
  return Math.max(step, Math.round(priceE4 / step) * step)
}

/**
 * Splits and dividends of a security, oldest first: `daily` in the shares of each day since the market's start, and before in
 * those of the start. Dividends are quarterly, a share of the price of their day.
 */
export function actionsOf(
  seed: string,
  listed: Listed,
  dates: readonly string[],
  daily: DailyColumns,
  later: LaterSplit | undefined,
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
  const early = splitDate !== undefined && splitDate < START
  if (early) out.push({ kind: 'Split', exDate: splitDate, ratio })
  if (later) out.push({ kind: 'Split', exDate: later.exDate, ratio: later.ratio })
  if (pays) {
    for (let i = Math.max(1, payday); i < dates.length; i += 63) {
      if (i === later?.row) continue
      const before = early && dates[i] < splitDate ? ratio : 1
      const amount = Math.round((share * daily.close[i - 1] * before) / 100) / 100
      if (amount > 0) out.push({ kind: 'Dividend', exDate: dates[i], amount })
    }
  }
  return out.sort((a, b) => (a.exDate < b.exDate ? -1 : 1))
}

/** Bars in the shares of their own day: what a split before the market's start changed, changed back. */
export function asTraded(bars: Bars, actions: readonly Action[]): Bars {
  let out = bars
  for (const action of actions) {
    if (action.kind !== 'Split' || isLater(action)) continue
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

/** Whether something comes while the market is traded. */
export const isLater = ({ exDate }: Action): boolean => exDate >= START

/** What makes bars comparable over a split, also where no bar of the new shares is there yet. */
export const laterFactor = ({ exDate, ratio }: LaterSplit): Factor => ({
  ...{ exDay: dayNumber(exDate), price: 1 / ratio, size: ratio },
})
