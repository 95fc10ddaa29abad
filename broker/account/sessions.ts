import { type Book, sharesOf } from '@/core/book/book'
import { splitShares, takeDividend } from '@/core/venue/corporate'
import { type Seat } from '@/core/venue/seat'
import { interestE4, takeBooking } from '@/core/book/bookings'
import { realizedOn, unrealizedCurrencyE4 } from '@/core/book/positions'
import { converted } from '@/core/book/sums'
import { standing } from '@/core/book/value'
import { fromE4, halfEven, toE4 } from '@/core/market/money'
import { type Session } from '@/core/market/venue'
import { type AccountDay, type Booking, type ExpiryNotice } from '@/core/orders/views'
import { CLOSED_BEFORE, closeOut, endContracts, type Expiring, outlook } from '@/core/venue/expiry'
import { type Listed } from '../market/listing'
import { type Market } from '../market/market'
import { type Facts, type Listing } from './facts'
import { type Turn } from './running'

/** What is written down when a session turns. */
export interface Told {
  booking(booking: Booking): void
  /** `at` is the moment at which the day was over. */
  day(day: AccountDay, at: number): void
  /** Called in the morning with what will happen to contracts today. */
  expiring(notices: readonly ExpiryNotice[], at: number): void
}

/** Books what happens to an account besides trades: dividends at the open, splits and interest at the close, the day's figures once every venue has closed. */
export class Sessions {
  constructor(
    private readonly markets: Listing,
    private readonly home: Market,
    private readonly seat: Seat,
    private readonly facts: Facts,
    private readonly told: Told,
  ) {}

  private get book(): Book {
    return this.seat.book
  }

  turned = (market: Market, session: Session, is: Turn): void => {
    const expiring = () => this.expiringOn(market, session)
    if (is === 'open') {
      this.dividends(market, session)
      return this.announce(outlook(this.seat, expiring(), session.open), market, session)
    }
    if (is === 'closing') {
      closeOut(this.seat, expiring(), session.close - CLOSED_BEFORE)
      return
    }
    endContracts(this.seat, expiring(), session.close)
    this.splits(market, session)
    if (market === this.home) this.interest(session)
    if (this.endsDay(session) && (market === this.home || this.concerns(market, session)))
      this.endDay(session)
  }

  /** What the expiry rules need to know about a session of a venue. */
  expiringOn(market: Market, { date, close }: Session): Expiring {
    const next = market.nextSession(close).date
    const listed = (symbol: string) => market.find(symbol)!
    return {
      date,
      isHere: (symbol) => market.find(symbol) !== undefined,
      borrowable: (symbol) => this.facts.borrowableOf(listed(symbol), close - 1000),
      dividend: (symbol, priceE4) => market.shares.dividendAhead(listed(symbol), next, priceE4),
    }
  }

  /** Announces in the morning what will happen to contracts. Silent if there is nothing to announce and nothing stands. */
  private announce(notices: readonly ExpiryNotice[], market: Market, { open }: Session): void {
    const others = this.book.expiring.filter(({ symbol }) => !market.find(symbol))
    const all = [...others, ...notices]
    if (all.length === 0 && this.book.expiring.length === 0) return
    this.book.expiring = all
    this.told.expiring(all, open)
  }

  /** Whether this was the last session of its date at any venue. */
  private endsDay({ date, close }: Session): boolean {
    return !this.markets.all.some((market) => {
      const next = market.nextSession(close)
      return next.date === date
    })
  }

  /** Whether a date needs a row: the home venue traded, or the account was active at another one. */
  private concerns(market: Market, { date }: Session): boolean {
    const isHome = this.home.nextSession(Date.parse(`${date}T00:00:00Z`)).date === date
    return isHome || this.touched(market).length > 0 || this.book.commissionE4[date] !== undefined
  }

  /** Securities of a venue that the account holds, or has orders in. */
  private touched(market: Market): Listed[] {
    const held = Object.values(this.book.holdings).filter(({ quantity }) => quantity !== 0)
    const symbols = new Set([...held.map(({ symbol }) => symbol), ...Object.keys(this.book.working)])
    return [...symbols].flatMap((symbol) => {
      const listed = market.find(symbol)
      return listed && !listed.option ? listed : []
    })
  }

  /** The session that is over was the last of the old shares where a split begins with the next. */
  private splits(market: Market, { close }: Session): void {
    const next = market.nextSession(close).date
    for (const listed of this.touched(market)) {
      const split = market.shares.splitOn(listed, next)
      if (split) splitShares(this.seat, { symbol: listed.symbol, ...split }, close)
    }
  }

  private take(booking: Booking): void {
    takeBooking(this.book, booking)
    this.told.booking(booking)
  }

  /** Who holds on the ex-date receives, who is short pays; in the account's currency. What waits below the market is lowered. */
  private dividends(market: Market, { date, open }: Session): void {
    for (const listed of this.touched(market))
      for (const action of this.markets.actionsOf(listed, open)) {
        if (action.kind !== 'Dividend' || action.exDate !== date) continue
        this.pay(market, listed, action.amount, { date, open })
        takeDividend(this.seat, listed.symbol, action.amount, open)
      }
  }

  private pay(
    market: Market,
    listed: Listed,
    amount: number,
    { date, open }: Pick<Session, 'date' | 'open'>,
  ): void {
    const { symbol } = listed
    const quantity = sharesOf(this.book, symbol)
    if (quantity === 0) return
    const rate = this.facts.rateAt(listed.currency, open)
    const amountE4 = converted(halfEven(quantity * toE4(amount)), { rate })
    this.take({
      ...{ kind: 'Dividend', at: this.facts.stampOf(market)(open), date, symbol },
      amount: fromE4(amountE4),
      text: `${amount} a share of ${Math.abs(quantity)} ${quantity > 0 ? 'held' : 'sold short'}`,
    })
  }

  /** Interest until the next session of the account's own venue. */
  private interest({ date, close }: Session): void {
    const next = this.home.nextSession(close)
    const days = Math.round((next.close - close) / 86_400_000)
    const owedE4 = interestE4(this.book, days)
    if (owedE4 === 0) return
    this.take({
      ...{ kind: 'Interest', at: this.facts.stampOf(this.home)(close), date, amount: fromE4(owedE4) },
      text: `on ${fromE4(-this.book.cashE4)} owed for ${days === 1 ? 'a day' : `${days} days`}`,
    })
  }

  /** Writes the figures of a date once every venue has closed, so that trades at all of them are included. */
  private endDay({ date, close }: Session): void {
    const prices = this.facts.pricesAt(close)
    const { equityE4, unrealizedE4 } = standing(this.book, prices, date)
    const booked = this.book.bookings.filter((one) => one.date === date)
    const day: AccountDay = {
      ...{ date, cash: fromE4(this.book.cashE4), equity: fromE4(equityE4), unrealized: fromE4(unrealizedE4) },
      realized: fromE4(realizedOn(this.book, date)),
      commission: fromE4(this.book.commissionE4[date] ?? 0),
      booked: fromE4(booked.reduce((sum, { amount }) => sum + toE4(amount), 0)),
      currencyGain: fromE4(unrealizedCurrencyE4(this.book, prices)),
      currencyRealized: fromE4(this.book.currencyE4[date] ?? 0),
    }
    this.book.days.push(day)
    this.told.day(day, close)
  }
}
