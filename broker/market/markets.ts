import { type Action, adjustedBy, factorsOf } from '@/core/market/adjust'
import { type Bars } from '@/core/market/bars'
import { type Report } from '@/core/market/figures'
import { chance, seedOf } from '@/core/market/chance'
import { type Timeframe } from '@/core/market/timeframe'
import { SKERRY, BRACKWATER, type Session, sessionsBetween } from '@/core/market/venue'
import { splitFactor } from './actions'
import { atOnce } from '../gently'
import { type BarsAsk, type Series } from './asks'
import { History } from './history'
import { grownListing, type Listed, LISTING, NORTHERN_LISTING } from './listing'
import { Market } from './market'
import { type Quote } from './quote'
import { rateOn } from './rates'
import { reportsOf } from './reports'

/** All venues of the stand-in world. Orders go to the home market; the others can be looked at. */
export class Markets {
  readonly all: readonly Market[]
  readonly listing: readonly Listed[]
  private readonly histories = new Map<string, History>()
  private readonly reports = new Map<string, Report[]>()

  /** `securities` is how many are listed in all; those that are named where it is less. */
  constructor(
    private readonly seed: string,
    firstDate: string,
    lastDate: string,
    securities = 0,
  ) {
    const north = grownListing(SKERRY, NORTHERN_LISTING, Math.round(securities / 8), [])
    const home = grownListing(BRACKWATER, LISTING, securities - north.length, north)
    this.all = [
      new Market(BRACKWATER, home, seed, firstDate, lastDate),
      new Market(SKERRY, north, `${seed} north`, firstDate, lastDate),
    ]
    for (const market of this.all) this.histories.set(market.venue.mic, new History(market))
    this.listing = [...home, ...north].sort((a, b) => (a.symbol < b.symbol ? -1 : 1))
  }

  get home(): Market {
    return this.all[0]
  }

  find(symbol: string): Listed | undefined {
    for (const market of this.all) {
      const listed = market.find(symbol)
      if (listed) return listed
    }
    return undefined
  }

  /** The session of any venue that is under way. */
  sessionAt(moment: number): Session | undefined {
    for (const market of this.all) {
      const session = market.sessionAt(moment)
      if (session) return session
    }
    return undefined
  }

  /** The session that is under way at any venue, or opens next. */
  nextSession(moment: number): Session {
    const next = this.all.map((market) => market.nextSession(moment))
    return next.reduce((first, one) => (one.open < first.open ? one : first))
  }

  of = (listed: Listed): Market => this.all.find((market) => market.venue.mic === listed.venue)!

  reach(moment: number): void {
    for (const market of this.all) market.reach(moment)
  }

  quoteAt = (listed: Listed, moment: number): Quote => this.of(listed).quoteAt(listed, moment)

  /** Dividends with an ex-date up to a moment, and splits from the close before theirs. */
  actionsOf = (listed: Listed, now: number): Action[] => this.of(listed).shares.actionsBy(listed, now)

  /** Units of one currency for a unit of another, of the home market's session before a date. */
  rateBefore(from: string, to: string, date: string): number {
    const day = (away: number) =>
      new Date(Date.parse(`${date}T00:00:00Z`) + away * 86_400_000).toISOString().slice(0, 10)
    return rateOn(this.seed, from, to, sessionsBetween(this.home.venue, day(-15), day(-1)).at(-1)!.date)
  }

  /**
   * Shares of a security that can be borrowed on a session date, to be sold short; undefined where it is easy. One stock in
   * eight is hard to borrow: how many there are changes from day to day, some days none.
   */
  borrowableOf({ symbol, kind, usualVolume }: Listed, date: string): number | undefined {
    if (kind !== 'Stock' || seedOf(this.seed, symbol, 'borrow') % 8 !== 0) return undefined
    const luck = chance(seedOf(this.seed, symbol, date, 'borrow'))
    return luck.uniform() < 0.2 ? 0 : Math.round((usualVolume * 0.004 * luck.uniform()) / 100) * 100
  }

  /** What the company had reported by a moment. */
  reportsOf(listed: Listed, now: number): Report[] {
    let all = this.reports.get(listed.symbol)
    if (!all || (all.at(-1)?.known ?? Infinity) < now) {
      const market = this.of(listed)
      all = reportsOf(this.seed, listed, market.allSessions(), market.processOf(listed))
      this.reports.set(listed.symbol, all)
    }
    const known = all.filter((report) => report.known <= now)
    const shares = this.of(listed).shares.sharesAt(listed, now)
    return shares === 1 ? known : known.map((report) => inSharesOf(report, shares))
  }

  /** Works out ahead what the first question of each venue would have to wait for, in steps. */
  *warm(now: number): Generator<void, void> {
    for (const { listing } of this.all) {
      const first = listing.find((listed) => listed.kind === 'Stock')
      if (!first) continue
      this.of(first).dailyOf(first)
      yield
      this.actionsOf(first, now)
      yield
    }
  }

  /** Bars of a security as of a moment, by default made comparable over splits. */
  bars(listed: Listed, every: Timeframe, now: number, ask: BarsAsk): Bars {
    return atOnce(this.barsSteps(listed, every, now, ask)).bars
  }

  /** The same in steps of a session each, and whether there are more bars in what was asked for. */
  *barsSteps(listed: Listed, every: Timeframe, now: number, ask: BarsAsk): Generator<void, Series> {
    const how = ask.prices ?? 'over-splits'
    const history = this.histories.get(listed.venue)!
    const factors = this.of(listed).shares.splitsBy(listed, now).map(splitFactor)
    if (how === 'as-traded') return yield* history.bars(listed, every, now, ask)
    if (how === 'over-splits-and-dividends' && !listed.option) {
      // From all days, since minutes of one session do not hold the closes that the factors are made of.
      const dividends = this.actionsOf(listed, now).filter(({ kind }) => kind === 'Dividend')
      factors.push(...factorsOf(history.daily(listed, now, true), dividends, how))
    }
    return yield* history.bars(listed, every, now, ask, (bars) => adjustedBy(bars, factors))
  }
}

/** A company report restated for `ratio` shares for each share at the market's start. */
function inSharesOf(report: Report, ratio: number): Report {
  const { sharesOutstanding: shares, float, eps } = report
  return {
    ...report,
    ...(shares === undefined ? {} : { sharesOutstanding: shares * ratio }),
    ...(float === undefined ? {} : { float: float * ratio }),
    ...(eps === undefined ? {} : { eps: Math.round((100 * eps) / ratio) / 100 }),
  }
}
