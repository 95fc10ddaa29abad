import { type Action, type Factor } from '@/core/market/adjust'
import { dayNumber } from '@/core/market/figures'
import { incrementAt } from '@/core/market/increment'
import { toE4 } from '@/core/market/money'
import { chance, seedOf } from '@/core/market/chance'
import { type DailyColumns } from './daily'
import { type Listed } from './listing'

/** The price process runs in the shares that there are on this date. */
const START = '2026-03-01'

/** Sessions between two dividends. */
export const QUARTER = 63

/** A split: from the session of a row on there are `ratio` times as many shares. */
export interface ShareSplit {
  exDate: string
  row: number
  ratio: number
}

/** Quarterly dividends: a share of the close before, on every 63rd session from `first` on. */
export interface Payout {
  first: number
  share: number
}

/** Splits and dividends of one security, and what they do to its price. */
export interface Corporate {
  /** Oldest first. */
  splits: readonly ShareSplit[]
  payout: Payout | undefined
  /** Shares on the day of a row for one share of the price process. */
  sharesOn(row: number): number
}

/** A dated row of the calendar. */
interface Day {
  date: string
}

/**
 * Splits and dividends of a security over a calendar. Only stocks without options are split, so that no contract has to
 * be adjusted; always into whole shares.
 */
export function corporateOf(
  seed: string,
  listed: Listed,
  optioned: boolean,
  sessions: readonly Day[],
): Corporate {
  if (listed.kind !== 'Stock') return { splits: [], payout: undefined, sharesOn: () => 1 }
  const luck = chance(seedOf(seed, 'actions', listed.symbol))
  const splitLuck = luck.uniform()
  const splitAt = 40 + luck.below(1_200)
  const ratio = luck.uniform() < 0.75 ? 2 : 3
  const pays = luck.uniform() < 0.45
  const first = Math.max(1, luck.below(QUARTER))
  const share = 0.003 + 0.007 * luck.uniform()
  const early =
    !optioned && splitLuck < 0.65 && sessions[splitAt] && sessions[splitAt].date < START
      ? [{ exDate: sessions[splitAt].date, row: splitAt, ratio }]
      : []
  const later = optioned ? [] : laterSplits(seed, listed, sessions)
  return {
    splits: [...early, ...later],
    payout: pays ? { first, share } : undefined,
    sharesOn: (row) =>
      later.reduce((shares, one) => (row >= one.row ? shares * one.ratio : shares), 1) /
      early.reduce((shares, one) => (row < one.row ? shares * one.ratio : shares), 1),
  }
}

/** Half of the stocks without options have a split ahead of them on the day that the market starts. */
function laterSplits(seed: string, { symbol }: Listed, sessions: readonly Day[]): ShareSplit[] {
  const luck = chance(seedOf(seed, 'later split', symbol))
  if (luck.uniform() >= 0.5) return []
  const row = sessions.findIndex(({ date }) => date >= START) + 15 + luck.below(160)
  const ratio = luck.uniform() < 0.75 ? 2 : 3
  return sessions[row] ? [{ exDate: sessions[row].date, row, ratio }] : []
}

/** The first row at or after `from` at which a dividend is due. */
export const nextExRow = ({ first }: Payout, from: number): number =>
  first + Math.max(0, Math.ceil((from - first) / QUARTER)) * QUARTER

/** Whether a row is the ex-date of a dividend. No dividend falls on the day of a split. */
export const isExDate = ({ payout, splits }: Corporate, row: number): boolean =>
  payout !== undefined &&
  row >= payout.first &&
  (row - payout.first) % QUARTER === 0 &&
  !splits.some((one) => one.row === row)

/**
 * The dividend of a row, in currency units a share of that day, rounded to the cent; 0 without one. `closeE4` is the close
 * before, in shares of the price process and ten-thousandths.
 */
export function dividendOn(corporate: Corporate, row: number, closeE4: number): number {
  if (!isExDate(corporate, row)) return 0
  return Math.round((corporate.payout!.share * closeE4) / corporate.sharesOn(row) / 100) / 100
}

/** Daily bars of the price process in the shares of each day; prices on ticks. */
export function inOwnShares(daily: DailyColumns, corporate: Corporate, listed: Listed): DailyColumns {
  if (corporate.splits.length === 0) return daily
  const shares = Float64Array.from(daily.close, (_, row) => corporate.sharesOn(row))
  const price = (column: Int32Array) =>
    column.map((x, row) => (shares[row] === 1 ? x : onStep(listed, x / shares[row])))
  const { open, high, low, close, volume } = daily
  return {
    ...{ open: price(open), high: price(high), low: price(low), close: price(close) },
    volume: volume.map((x, row) => Math.round(x * shares[row])),
  }
}

/** The nearest tick to a price, both in ten-thousandths. */
export function onStep(listed: Listed, priceE4: number): number {
  const step = toE4(incrementAt(listed.increments, priceE4 / 10_000))
  return Math.max(step, Math.round(priceE4 / step) * step)
}

/** Splits and dividends as they are announced, oldest first; each in the shares of its day. */
export function actionsOf(corporate: Corporate, dates: readonly string[], process: DailyColumns): Action[] {
  const out: Action[] = corporate.splits.map(({ exDate, ratio }) => ({ kind: 'Split', exDate, ratio }))
  for (let row = 1; row < dates.length; row++) {
    const amount = dividendOn(corporate, row, process.close[row - 1])
    if (amount > 0) out.push({ kind: 'Dividend', exDate: dates[row], amount })
  }
  return out.sort((a, b) => (a.exDate < b.exDate ? -1 : 1))
}

/** What makes bars comparable over a split, also while there is no bar of the new shares yet. */
export const splitFactor = ({ exDate, ratio }: ShareSplit): Factor => ({
  ...{ exDay: dayNumber(exDate), price: 1 / ratio, size: ratio },
})
