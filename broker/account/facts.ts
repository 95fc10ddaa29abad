import { DateTime } from 'luxon'
import { type Book } from '@/core/book/book'
import { withGates } from '@/core/book/candidate'
import { factsOf } from '@/core/book/facts'
import { orderNeeds } from '@/core/book/orderNeeds'
import { standing } from '@/core/book/value'
import { fromE4, toE4 } from '@/core/market/money'
import { sayOpens, stamper } from '@/core/market/moments'
import { sessionAtOrAfter, sessionsBetween, sessionState } from '@/core/market/venue'
import { isOption, multiplierOf, parseOsi, underlyingOf } from '@/core/options/osi'
import { type OrderFacts, reckonedPrice } from '@/core/orders/check'
import { MOST_QUANTITY, type NewOrder, type SentOrder } from '@/core/orders/model'
import { commissionE4 } from '@/core/orders/margin'
import { nearest } from '@/core/rules/near'
import { type Listed } from '../market/listing'
import { type Market } from '../market/market'
import { type Markets } from '../market/markets'
import { type Quote } from '../market/quote'

/** What an account asks of the market. */
export type Listing = Pick<
  Markets,
  'all' | 'home' | 'find' | 'of' | 'listing' | 'borrowableOf' | 'rateBefore' | 'actionsOf'
>

/** What a world lays over its market. */
export interface Overlay {
  /** Whether trading in a security is halted at a moment. */
  isHalted(symbol: string, at: number): boolean
  /** Shares that the other accounts have sold short, working orders included. */
  borrowedByOthers(symbol: string): number
}
export const NO_OVERLAY: Overlay = { isHalted: () => false, borrowedByOthers: () => 0 }

/** What is known of the market, and with it of an account, when an order is checked. */
export class Facts {
  constructor(
    private readonly markets: Listing,
    /** The account's own venue. */
    private readonly market: Market,
    private readonly overlay: Overlay,
  ) {}

  private readonly stamps = new Map<Market, (at: number) => string>()

  /** Writes moments as reports of a venue have them: with its offset. */
  stampOf(market: Market): (at: number) => string {
    let stamp = this.stamps.get(market)
    if (!stamp) this.stamps.set(market, (stamp = stamper({ count: 1, unit: 'min' }, market.venue.zone)))
    return stamp
  }

  /** Whether nothing is traded of a security at a moment; of a contract neither while its underlying is halted. */
  isHalted = (symbol: string, at: number): boolean => this.overlay.isHalted(underlyingOf(symbol), at)

  /** What was asked of the market at the last moment that was asked about: many orders come within a second. */
  private asked = {
    now: NaN,
    quotes: new Map<string, Quote>(),
    sessions: new Map<Market, OrderFacts['session']>(),
  }

  private askedAt(now: number) {
    if (this.asked.now !== now) this.asked = { now, quotes: new Map(), sessions: new Map() }
    return this.asked
  }

  /** Prices of any security of the account at a moment, each looked up once. */
  pricesAt = (now: number) => (symbol: string) => this.quoteOf(this.markets.find(symbol)!, now)

  quoteOf(listed: Listed, now: number): Quote {
    const { quotes } = this.askedAt(now)
    let quote = quotes.get(listed.symbol)
    if (!quote) {
      quote = this.markets.of(listed).quoteAt(listed, now)
      const rate = this.rateAt(listed.currency, now)
      if (rate !== 1) quote = { ...quote, rate }
      quotes.set(listed.symbol, quote)
    }
    return quote
  }

  private lastRate = { currency: '', date: '', rate: 1 }

  /** What a unit of a currency is worth in the account's: the rate of the session before. */
  rateAt(currency: string, now: number): number {
    const { venue } = this.market
    if (currency === venue.currency) return 1
    const date = this.stampOf(this.market)(now).slice(0, 10)
    if (this.lastRate.date !== date || this.lastRate.currency !== currency)
      this.lastRate = { currency, date, rate: this.markets.rateBefore(currency, venue.currency, date) }
    return this.lastRate.rate
  }

  private sessionOf(market: Market, now: number): OrderFacts['session'] {
    const { sessions } = this.askedAt(now)
    let facts = sessions.get(market)
    if (!facts) {
      const { state, session } = sessionState(market.venue, now)
      const opens = sayOpens(session.open, market.venue.zone)
      sessions.set(market, (facts = { open: state === 'Open', venue: market.venue.name, opens }))
    }
    return facts
  }

  /** What an order would be checked against now; `known` where it was taken already. */
  factsFor(book: Book, order: NewOrder, now: number, known = false): OrderFacts {
    const facts = this.plainFacts(book, order, now)
    if (book.gates.length === 0) return facts
    const security = this.markets.find(order.symbol)
    const date = security ? this.stampOf(this.markets.of(security))(now).slice(0, 10) : ''
    return withGates(book, order, facts, { at: now, date, known })
  }

  private plainFacts(book: Book, order: NewOrder, now: number): OrderFacts {
    const known = this.knownOf(order.symbol, now)
    const market = known.security ? this.markets.of(known.security) : this.market
    const { buyingPowerE4, freeE4 } = standing(
      book,
      this.pricesAt(now),
      this.stampOf(this.market)(now).slice(0, 10),
    )
    const legs = order.legs?.map(({ symbol }) => {
      const leg = this.knownOf(symbol, now)
      return { ...leg, borrowable: this.borrowableOf(leg.security, now) }
    })
    const near = known.near.length > 0 || known.security ? known.near : this.like(order.symbol)
    const { security, bid, ask, last } = known
    return factsOf(book, order, {
      security,
      near,
      bid,
      ask,
      last,
      legs,
      needs: orderNeeds(book, order, [known, ...(legs ?? [])], freeE4, this.pricesAt(now)),
      borrowable: order.side === 'SellShort' ? this.borrowableOf(security, now) : undefined,
      session: this.sessionOf(market, now),
      halted: this.isHalted(order.symbol, now),
      rate: security ? this.rateAt(security.currency, now) : 1,
      currency: book.rules.currency,
      buyingPowerE4,
      expiry:
        order.timeInForce === 'GoodTillDate' ? { last: this.lastSession(market, order, now) } : undefined,
    })
  }

  /** Shares that this account may borrow in all today: what the venue lends, less what other accounts have borrowed. */
  borrowableOf(security: Listed | undefined, now: number): number | undefined {
    if (!security) return undefined
    const { date } = this.markets.of(security).sessionsBegunBy(now).at(-1)!
    const all = this.markets.borrowableOf(security, date)
    return all === undefined ? undefined : Math.max(0, all - this.overlay.borrowedByOthers(security.symbol))
  }

  /** What is known of a security at a moment; nothing of a contract that is not listed then. */
  knownOf(symbol: string, now: number) {
    const found = this.markets.find(symbol)
    const security = found && this.markets.of(found).isListed(found, now) ? found : undefined
    const quote = security && this.quoteOf(security, now)
    return {
      security,
      near: security ? [] : this.like(symbol),
      bid: quote && fromE4(quote.bid),
      ask: quote && fromE4(quote.ask),
      last: quote && fromE4(quote.last),
    }
  }

  /** Date of the last session of a GoodTillDate order; undefined where that has passed. */
  lastSession(
    { venue }: Market,
    { expireDate, expireSessions }: Pick<NewOrder, 'expireDate' | 'expireSessions'>,
    now: number,
  ): string | undefined {
    const first = sessionAtOrAfter(venue, now).date
    if (expireSessions === undefined) {
      if (expireDate === undefined || expireDate < first) return undefined
      return sessionsBetween(venue, first, expireDate).at(-1)?.date
    }
    // So many sessions lie within less than twice as many days, and a fortnight for holidays.
    const until = DateTime.fromISO(first)
      .plus({ days: expireSessions * 2 + 14 })
      .toISODate()!
    return sessionsBetween(venue, first, until)[expireSessions - 1]?.date
  }

  private lastSettling: { traded: string; settles: string; market?: Market } = { traded: '', settles: '' }

  /** The session of a venue after a moment's, on which what was traded then is settled (T+1, SEC Rule 15c6-1). */
  settles(at: number, market: Market): string {
    const traded = this.stampOf(market)(at).slice(0, 10)
    if (this.lastSettling.traded !== traded || this.lastSettling.market !== market) {
      const from = DateTime.fromISO(traded, { zone: 'utc' })
      const [after, until] = [from.plus({ days: 1 }), from.plus({ days: 15 })].map((day) => day.toISODate()!)
      this.lastSettling = { traded, market, settles: sessionsBetween(market.venue, after, until)[0].date }
    }
    return this.lastSettling.settles
  }

  private like(symbol: string): string[] {
    if (isOption(symbol)) return this.likeContract(symbol)
    const known = this.markets.listing.map((listed) => listed.symbol.toLowerCase())
    return nearest(symbol, known).map((found) => found.toUpperCase())
  }

  /** Contracts of the chain whose expiry or strike lies nearest to one that is not listed. */
  private likeContract(symbol: string): string[] {
    const contract = parseOsi(symbol)
    const underlying = contract && this.markets.find(contract.underlyingSymbol)
    if (!contract || !underlying) return []
    const away = ({ option }: Listed) =>
      Math.abs(Date.parse(option!.maturityDate) - Date.parse(contract.maturityDate)) / 8.64e7 +
      (1000 * Math.abs(option!.strikePrice - contract.strikePrice)) / contract.strikePrice
    return this.markets
      .of(underlying)
      .chains.chainOf(underlying, this.asked.now)
      .filter(({ option }) => option!.putOrCall === contract.putOrCall)
      .sort((a, b) => away(a) - away(b))
      .slice(0, 2)
      .map((one) => one.symbol)
  }

  /** An order as it is sent with the quantity that its money comes to, in whole lots; 0 where it buys none. */
  sized(sent: SentOrder, now: number): NewOrder {
    if (sent.orderQty !== undefined) return sent as NewOrder
    const { security, ...quote } = this.knownOf(sent.symbol, now)
    const price = security && reckonedPrice({ ...sent }, { ...quote, security })
    if (!security || price === undefined) return { ...sent, orderQty: 0 }
    const rate = this.rateAt(security.currency, now)
    const { lot } = security
    const lotCost = toE4(price) * multiplierOf(sent.symbol) * lot * rate + commissionE4(sent.symbol, lot)
    const lots = Math.min(toE4(sent.cashOrderQty!) / lotCost, MOST_QUANTITY / lot)
    return { ...sent, orderQty: Math.floor(lots) * lot }
  }
}
