import { type IncrementBand, incrementAt } from '@/core/market/increment'
import { fromE4, toE4 } from '@/core/market/money'
import { localDate, type Session, type Venue } from '@/core/market/venue'
import { chance, seedOf } from '@/core/market/chance'
import { europeanValue } from '@/core/options/blackScholes'
import { type Contract, CONTRACT_MULTIPLIER, osiOf, parseOsi } from '@/core/options/osi'
import { type Listed } from './listing'
import { type DailyColumns } from './daily'
import { type Quote } from './quote'
import { type ShareCounts } from './shareCounts'

const DAY = 86_400_000
const YEAR = 365 * DAY

/** Steps of option prices (common practice of US venues). */
const INCREMENTS: IncrementBand[] = [
  { from: 0, step: 0.01 },
  { from: 3, step: 0.05 },
]

/** Steps between strikes, by the price of the underlying. */
const STRIKES: IncrementBand[] = [
  { from: 0, step: 1 },
  { from: 25, step: 2.5 },
  { from: 100, step: 5 },
  { from: 200, step: 10 },
]

/** A contract is listed so long before it ends: those of the third Friday of a month, and of the other Fridays. */
const LISTED_FOR = { monthly: 182, weekly: 35 }

/** Strikes reach so far beyond the closes since a contract was listed. */
const REACH = { below: 0.75, above: 1.3 }

/** Companies and funds that trade less, in shares a session, have no options. */
const LEAST_VOLUME = 150_000

/** What money costs a year. */
const RATE = 0.03

/** What a chain asks of its market. */
interface Underlyings {
  venue: Venue
  seed: string
  find(symbol: string): Listed | undefined
  allSessions(): readonly Session[]
  nextSession(moment: number): Session
  sessionsBegunBy(moment: number): readonly Session[]
  dailyOf(listed: Listed): DailyColumns
  shares: Pick<ShareCounts, 'payoutsBetween'>
}

const dateOf = (moment: number): string => new Date(moment).toISOString().slice(0, 10)
const midnight = (date: string): number => Date.parse(`${date}T00:00:00Z`)

/**
 * The stand-in chain of a market: which option contracts there are at a moment, and what is bid and asked for them. Both
 * are functions of the seed and the moment, as everything of the market is. Quotes lie about the value by Black and
 * Scholes on the underlying's middle price less the dividends to come, at a volatility of the underlying's own with a plain
 * smile; never below what exercise would bring.
 */
export class Chains {
  private readonly contracts = new Map<string, Listed>()
  private readonly reaches = new Map<string, { low: number; high: number }>()
  /** Last session of contracts by the Friday of their week. */
  private readonly weeks = new Map<number, Session>()

  constructor(private readonly market: Underlyings) {}

  static has = ({ kind, usualVolume }: Listed): boolean =>
    (kind === 'Stock' || kind === 'Fund') && usualVolume >= LEAST_VOLUME

  /** The contract that a symbol names, whether it is listed at the moment or not; undefined where there never is one. */
  find(symbol: string): Listed | undefined {
    const kept = this.contracts.get(symbol)
    if (kept) return kept
    const contract = parseOsi(symbol)
    const underlying = contract && this.market.find(contract.underlyingSymbol)
    if (!contract || !underlying || !Chains.has(underlying)) return undefined
    if (osiOf(contract) !== symbol) return undefined
    if (toE4(contract.strikePrice) % toE4(incrementAt(STRIKES, contract.strikePrice)) !== 0) return undefined
    if (this.sessionOfExpiry(contract.maturityDate)?.date !== contract.maturityDate) return undefined
    const listed = listedOf(contract, underlying)
    if (this.contracts.size > 40_000) this.contracts.clear()
    this.contracts.set(symbol, listed)
    return listed
  }

  /** The last session of contracts that end in the week of a date: Friday, or the last one before it. */
  private sessionOfExpiry(date: string): Session | undefined {
    const friday = fridayOf(midnight(date))
    const known = this.weeks.get(friday)
    if (known) return known
    const until = this.market.nextSession(friday - 4 * DAY)
    const week = this.market
      .allSessions()
      .filter((one) => one.date >= until.date && one.date <= dateOf(friday))
    const last = week.at(-1)
    if (last && this.market.allSessions().at(-1)!.date > dateOf(friday)) this.weeks.set(friday, last)
    return last
  }

  /** Whether a contract can be traded at a moment: listed already, not over, its strike within reach. */
  isListed(listed: Listed, now: number): boolean {
    const { maturityDate, strikePrice, underlyingSymbol } = listed.option!
    const today = localDate(this.market.venue, now)
    const since = listedSince(maturityDate)
    if (maturityDate < today || since > today) return false
    if (now >= this.endOf(maturityDate)) return false
    const reach = this.reachOf(this.market.find(underlyingSymbol)!, since, now)
    return toE4(strikePrice) >= reach.low && toE4(strikePrice) <= reach.high
  }

  /** Sessions in which a contract could be traded, of those that have begun by a moment; oldest first. */
  sessionsOf(listed: Listed, now: number): readonly Session[] {
    const { maturityDate } = listed.option!
    const since = listedSince(maturityDate)
    const begun = this.market.sessionsBegunBy(now)
    let first = begun.length
    while (first > 0 && begun[first - 1].date >= since) first--
    // Strikes come within reach with the closes, and never leave it.
    while (first < begun.length && !this.isListed(listed, begun[first].open)) first++
    let end = begun.length
    while (end > first && begun[end - 1].date > maturityDate) end--
    return begun.slice(first, end)
  }

  /** Lowest and highest strike of contracts that were listed on a date, as of a moment; in e4. */
  private reachOf(underlying: Listed, since: string, now: number): { low: number; high: number } {
    const begun = this.market.sessionsBegunBy(now)
    const key = `${underlying.symbol} ${since} ${begun.length}`
    let reach = this.reaches.get(key)
    if (reach) return reach
    const { close } = this.market.dailyOf(underlying)
    // The session under way has no close yet.
    let [row, low, high] = [begun.length - 2, Infinity, 0]
    do {
      low = Math.min(low, close[row])
      high = Math.max(high, close[row])
      row--
    } while (row >= 0 && begun[row].date >= since)
    reach = { low: low * REACH.below, high: high * REACH.above }
    if (this.reaches.size > 50_000) this.reaches.clear()
    this.reaches.set(key, reach)
    return reach
  }

  /** Dates on which contracts end that are listed at a moment, soonest first. */
  expiries(now: number): string[] {
    const today = localDate(this.market.venue, now)
    const out: string[] = []
    for (let friday = fridayOf(midnight(today)); ; friday += 7 * DAY) {
      if (friday - midnight(today) > LISTED_FOR.monthly * DAY) return out
      const date = this.sessionOfExpiry(dateOf(friday))?.date
      if (date !== undefined && date >= today && listedSince(date) <= today) out.push(date)
    }
  }

  /** Every contract of an underlying at a moment: by expiry, then strike, the call before the put. */
  chainOf(underlying: Listed, now: number): Listed[] {
    if (!Chains.has(underlying)) return []
    return this.expiries(now).flatMap((date) =>
      now < this.endOf(date) ? this.contractsOf(underlying, date, now) : [],
    )
  }

  /** Contracts of an underlying that have ended, from a date on; in the same order, in steps of an expiry each. */
  *endedOf(underlying: Listed, now: number, from: string): Generator<void, Listed[]> {
    const out: Listed[] = []
    if (!Chains.has(underlying)) return out
    for (const { date, close } of this.market.sessionsBegunBy(now)) {
      if (date < from || close > now || this.sessionOfExpiry(date)?.date !== date) continue
      out.push(...this.contractsOf(underlying, date, close))
      yield
    }
    return out
  }

  /** Contracts that can be traded in a session, each with its share of the trading: most near the price and near expiry. */
  drawsOf(underlying: Listed, session: Session): { symbol: string; weight: number }[] {
    const begun = this.market.sessionsBegunBy(session.open)
    const priceE4 = this.market.dailyOf(underlying).close[begun.length - 2]
    if (priceE4 === undefined) return []
    return this.chainOf(underlying, session.open).map(({ symbol, option }) => {
      const { strikePrice, maturityDate, putOrCall } = option!
      const days = Math.max(1, (midnight(maturityDate) - midnight(session.date)) / DAY)
      const away = Math.log(toE4(strikePrice) / priceE4) / Math.sqrt(days / 365)
      // Most buyers of options buy them out of the money (common practice).
      const out = putOrCall === 'Call' ? away > 0 : away < 0
      return { symbol, weight: Math.exp(-((away / 0.45) ** 2)) / Math.sqrt(days) / (out ? 1 : 1.6) }
    })
  }

  private contractsOf(underlying: Listed, maturityDate: string, now: number): Listed[] {
    const reach = this.reachOf(underlying, listedSince(maturityDate), now)
    return strikesBetween(fromE4(reach.low), fromE4(reach.high)).flatMap((strikePrice) =>
      (['Call', 'Put'] as const).flatMap((putOrCall) => {
        const { symbol } = underlying
        return this.find(osiOf({ underlyingSymbol: symbol, maturityDate, putOrCall, strikePrice })) ?? []
      }),
    )
  }

  /**
   * Bid and ask of a contract at a second, from the quote of its underlying. `last` is the middle on a step: the price at which
   * it would trade in that second.
   */
  quoteAt(listed: Listed, of: Quote): Quote {
    const value = this.valueAt(listed, (of.bid + of.ask) / 2, of.at)
    const luck = chance(seedOf(this.market.seed, listed.symbol, of.at, 'option quote'))
    const half = Math.max(stepAt(value), value * (0.008 + 0.01 * luck.uniform()))
    const bid = Math.max(0, onStep(value - half, Math.floor))
    const ask = Math.max(bid + stepAt(bid), onStep(value + half, Math.ceil))
    const size = () => 5 + luck.below(60)
    return {
      symbol: listed.symbol,
      at: of.at,
      bid,
      bidSize: bid > 0 ? size() : 0,
      ask,
      askSize: size(),
      last: Math.max(stepAt(0), onStep((bid + ask) / 2, Math.round)),
    }
  }

  /** Lowest and highest value of a contract while its underlying lies within a bar, with room for the spread; in e4. */
  rangeIn(listed: Listed, bar: { high: number; low: number }, at: number): { high: number; low: number } {
    const [bottom, top] = [bar.low * 0.997, bar.high * 1.003]
    const values = [at, at + 60_000].flatMap((when) =>
      [bottom, top].map((price) => this.valueAt(listed, price, when)),
    )
    return { low: Math.max(0, Math.min(...values) * 0.96 - 1_000), high: Math.max(...values) * 1.04 + 1_000 }
  }

  /** The close on which contracts of a date end. */
  endOf = (maturityDate: string): number => this.sessionOfExpiry(maturityDate)!.close

  /**
   * Value of a contract at a price of its underlying, in e4, not rounded. Dividends until expiry are taken off the price first,
   * each as a share of today's price, since nobody knows a later one.
   */
  private valueAt(listed: Listed, priceE4: number, at: number): number {
    const { call, strike, underlying, base, end } = this.termsOf(listed)
    const years = Math.max(0, end - at) / YEAR
    const away = Math.log(strike / priceE4) / (base * Math.sqrt(Math.max(years, 1 / 52)))
    const volatility = base * Math.min(1.6, Math.max(0.8, 1 - 0.05 * away + 0.02 * away * away))
    const price = priceE4 * (1 - this.market.shares.payoutsBetween(underlying, at, end))
    const value = europeanValue({ call, price, strike, years, rate: RATE, volatility })
    return Math.max(value, (call ? 1 : -1) * (priceE4 - strike), 0)
  }

  /** The terms of each contract, kept because they are needed for every quote. */
  private readonly terms = new WeakMap<Listed, Terms>()

  private termsOf(listed: Listed): Terms {
    let terms = this.terms.get(listed)
    if (!terms) {
      const { putOrCall, strikePrice, maturityDate, underlyingSymbol } = listed.option!
      const underlying = this.market.find(underlyingSymbol)!
      const { beta, ownVolatility, kind } = underlying
      const daily = ownVolatility ** 2 + (beta * 0.007) ** 2
      terms = {
        ...{ call: putOrCall === 'Call', strike: toE4(strikePrice), underlying },
        base: Math.sqrt(252 * daily) * (kind === 'Fund' ? 1.05 : 1.1),
        end: this.endOf(maturityDate),
      }
      this.terms.set(listed, terms)
    }
    return terms
  }
}

/** Of a contract: its strike in e4, the volatility a year at the money, and its end. */
interface Terms {
  call: boolean
  strike: number
  underlying: Listed
  base: number
  end: number
}

/** The step of option prices at a price, both in e4. */
const stepAt = (priceE4: number): number => toE4(incrementAt(INCREMENTS, priceE4 / 10_000))

/** A price on its own step, both in e4. */
function onStep(priceE4: number, round: (x: number) => number): number {
  const step = stepAt(priceE4)
  return round(priceE4 / step) * step
}

/** Midnight (UTC) of the Friday of the week in which a midnight lies, Saturdays and Sundays being of the week that follows. */
function fridayOf(day: number): number {
  const weekday = new Date(day).getUTCDay()
  return day + ((5 - weekday + 7) % 7) * DAY
}

function isThirdFriday(day: number): boolean {
  const date = new Date(day).getUTCDate()
  return date >= 15 && date <= 21
}

/** The day from which on a contract is listed. */
function listedSince(maturityDate: string): string {
  const friday = fridayOf(midnight(maturityDate))
  return dateOf(friday - (isThirdFriday(friday) ? LISTED_FOR.monthly : LISTED_FOR.weekly) * DAY)
}

/** Strikes between two prices, lowest first. */
function strikesBetween(low: number, high: number): number[] {
  const out: number[] = []
  for (let strike = 1; strike <= high;) {
    if (strike >= low) out.push(strike)
    const step = incrementAt(STRIKES, strike)
    strike = (Math.floor(strike / step + 1e-9) + 1) * step
  }
  return out
}

function listedOf(contract: Contract, underlying: Listed): Listed {
  const { putOrCall, maturityDate, strikePrice } = contract
  return {
    ...underlying,
    symbol: osiOf(contract),
    name: `${underlying.symbol} ${maturityDate} ${strikePrice} ${putOrCall.toLowerCase()}`,
    kind: 'Option',
    lot: 1,
    increments: INCREMENTS,
    indices: [],
    orderable: true,
    option: {
      ...contract,
      exerciseStyle: 'American',
      contractMultiplier: CONTRACT_MULTIPLIER,
      securityStatus: 'Active',
    },
  }
}
