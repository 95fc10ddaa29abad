import { type Action } from '@/core/market/adjust'
import { type Session } from '@/core/market/venue'
import {
  actionsOf,
  type Corporate,
  corporateOf,
  isExDate,
  nextExRow,
  onStep,
  QUARTER,
  type ShareSplit,
} from './actions'
import { type DailyColumns } from './daily'
import { type Listed } from './listing'

/** The calendar and the prices that splits and dividends of a market fall on. */
interface Source {
  seed: string
  allSessions(): readonly Session[]
  /** How many sessions have begun by a moment. */
  countBegun(moment: number): number
  nextSession(moment: number): Session
  /** Daily bars in the shares of the market's start. */
  processOf(listed: Listed): DailyColumns
}

/** Splits and dividends of all securities of a market, as of any moment. */
export class ShareCounts {
  private readonly corporates = new Map<string, Corporate>()
  private readonly actions = new Map<string, Action[]>()

  constructor(
    private readonly source: Source,
    private readonly isOptioned: (listed: Listed) => boolean,
  ) {}

  /** Call this after the calendar has grown. */
  clear(): void {
    this.corporates.clear()
    this.actions.clear()
  }

  /** Splits and dividends of a security, also those to come. */
  of(listed: Listed): Corporate {
    let corporate = this.corporates.get(listed.symbol)
    if (!corporate) {
      corporate = corporateOf(this.source.seed, listed, this.isOptioned(listed), this.source.allSessions())
      this.corporates.set(listed.symbol, corporate)
    }
    return corporate
  }

  /** Splits of a security that count at a moment, oldest first: each from the close before its first session. */
  splitsBy(listed: Listed, moment: number): readonly ShareSplit[] {
    const { splits } = this.of(listed)
    if (splits.length === 0) return splits
    const { date } = this.source.nextSession(moment)
    return splits.filter(({ exDate }) => exDate <= date)
  }

  /** The split with which a session begins. */
  splitOn = (listed: Listed, date: string): ShareSplit | undefined =>
    this.of(listed).splits.find(({ exDate }) => exDate === date)

  /** Dividends with an ex-date up to a moment, and splits from the close before theirs. */
  actionsBy(listed: Listed, moment: number): Action[] {
    const sessions = this.source.allSessions()
    const last = sessions[this.source.countBegun(moment) - 1]?.date ?? ''
    const split = this.splitsBy(listed, moment).at(-1)?.exDate ?? ''
    let all = this.actions.get(listed.symbol)
    if (!all) {
      const dates = sessions.map(({ date }) => date)
      all = actionsOf(this.of(listed), dates, this.source.processOf(listed))
      this.actions.set(listed.symbol, all)
    }
    return all.filter(({ kind, exDate }) => exDate <= last || (kind === 'Split' && exDate <= split))
  }

  /** Dividend of a coming session at a price in e4; 0 without one. Companies announce it the evening before. */
  dividendAhead(listed: Listed, date: string, priceE4: number): number {
    const corporate = this.of(listed)
    const row = corporate.payout ? this.source.allSessions().findIndex((one) => one.date === date) : -1
    return row > 0 && isExDate(corporate, row)
      ? Math.round((corporate.payout!.share * priceE4) / 100) / 100
      : 0
  }

  /** Shares of a moment for one share of the market's start. */
  sharesAt(listed: Listed, moment: number): number {
    const { splits, sharesOn } = this.of(listed)
    if (splits.length === 0) return 1
    const { date } = this.source.nextSession(moment)
    return sharesOn(this.source.allSessions().findIndex((session) => session.date === date))
  }

  /** A price of a session in the shares of a moment; both in ten-thousandths. */
  inSharesOf(moment: number, listed: Listed, date: string, priceE4: number): number {
    const ratio = this.splitsBy(listed, moment).reduce(
      (shares, split) => (date < split.exDate ? shares * split.ratio : shares),
      1,
    )
    return ratio === 1 ? priceE4 : onStep(listed, priceE4 / ratio)
  }

  /** Share of the price that dividends take on ex-dates after a moment, up to another. */
  payoutsBetween(listed: Listed, after: number, upTo: number): number {
    const corporate = this.of(listed)
    if (!corporate.payout) return 0
    const sessions = this.source.allSessions()
    let kept = 1
    for (let row = nextExRow(corporate.payout, this.source.countBegun(after)); ; row += QUARTER) {
      if (!sessions[row] || sessions[row].open > upTo) return 1 - kept
      if (isExDate(corporate, row)) kept *= 1 - corporate.payout.share
    }
  }
}
