import { type Book } from '@/core/book/book'
import { interestE4, takeBooking } from '@/core/book/bookings'
import { realizedOn } from '@/core/book/positions'
import { converted } from '@/core/book/sums'
import { standing } from '@/core/book/value'
import { fromE4, halfEven, toE4 } from '@/core/market/money'
import { type Session } from '@/core/market/venue'
import { type AccountDay, type Booking } from '@/core/orders/views'
import { type Market } from '../market/market'
import { type Facts, type Listing } from './facts'

/** What is written down when a session turns. */
export interface Told {
  booking(booking: Booking): void
  day(day: AccountDay): void
}

/** What a session brings an account besides trades: dividends at its open, interest and the day's figures at its close. */
export class Sessions {
  constructor(
    private readonly markets: Listing,
    private readonly home: Market,
    private readonly book: Book,
    private readonly facts: Facts,
    private readonly told: Told,
  ) {}

  turned = (market: Market, session: Session, is: 'open' | 'closed'): void => {
    if (is === 'open') this.dividends(market, session)
    else if (market === this.home) this.close(session)
  }

  private take(booking: Booking): void {
    takeBooking(this.book, booking)
    this.told.booking(booking)
  }

  /** Who holds on the ex-date receives, who is short pays; in the account's currency. */
  private dividends(market: Market, { date, open }: Session): void {
    for (const { symbol, quantity } of Object.values(this.book.holdings)) {
      const listed = quantity === 0 ? undefined : market.find(symbol)
      if (!listed || listed.option) continue
      for (const action of this.markets.actionsOf(listed, open)) {
        if (action.kind !== 'Dividend' || action.exDate !== date) continue
        const rate = this.facts.rateAt(listed.currency, open)
        const amountE4 = converted(halfEven(quantity * toE4(action.amount)), { rate })
        this.take({
          ...{ kind: 'Dividend', at: this.facts.stampOf(market)(open), date, symbol },
          amount: fromE4(amountE4),
          text: `${action.amount} a share of ${Math.abs(quantity)} ${quantity > 0 ? 'held' : 'sold short'}`,
        })
      }
    }
  }

  private close({ date, close }: Session): void {
    const next = this.home.nextSession(close)
    const days = Math.round((next.close - close) / 86_400_000)
    const owedE4 = interestE4(this.book, days)
    const at = this.facts.stampOf(this.home)(close)
    if (owedE4 !== 0)
      this.take({
        ...{ kind: 'Interest', at, date, amount: fromE4(owedE4) },
        text: `on ${fromE4(-this.book.cashE4)} owed for ${days === 1 ? 'a day' : `${days} days`}`,
      })
    const { equityE4, unrealizedE4 } = standing(this.book, this.facts.pricesAt(close), date)
    const booked = this.book.bookings.filter((one) => one.date === date)
    const day: AccountDay = {
      ...{ date, cash: fromE4(this.book.cashE4), equity: fromE4(equityE4), unrealized: fromE4(unrealizedE4) },
      realized: fromE4(realizedOn(this.book, date)),
      commission: fromE4(this.book.commissionE4[date] ?? 0),
      booked: fromE4(booked.reduce((sum, { amount }) => sum + toE4(amount), 0)),
    }
    this.book.days.push(day)
    this.told.day(day)
  }
}
