import { averagePrice, type Book, isOpeningIn, sharesOf, takeReport } from '../book/book'
import { noteTaken } from '../book/lately'
import { factsOf } from '../book/facts'
import { withGates } from '../book/candidate'
import { addSent } from '../book/indexing'
import { orderNeeds } from '../book/orderNeeds'
import { type PriceOf } from '../book/sums'
import { type Standing, standing } from '../book/value'
import { toE4 } from '../market/money'
import { type Security } from '../market/security'
import { localDate, sessionState, type Venue } from '../market/venue'
import { type OrderFacts } from '../orders/orderFacts'
import { type ExecutionReport, type NewOrder } from '../orders/model'

/** A quote as it was last told. */
export interface Quoted {
  at: number
  bid: number
  ask: number
  last: number
}

/** What is known of securities, whatever the moment. */
export interface Listed {
  security: Security
  venue: Venue
  /** What a unit of its currency is worth in the account's. */
  rate: number
}

/**
 * The account that plans trade in, and the prices that they see: one for all of its plans. What one of them wants to send is
 * reserved in it at once, before the next is stepped, until the broker answers.
 */
export interface Shared {
  book: Book
  quotes: Record<string, Quoted>
  /** Wanted and not answered yet, by client order id. */
  pending: Record<string, NewOrder>
  listed: Readonly<Record<string, Listed>>
  /** What the account is valued in: the venue whose dates are the account's. */
  home: Venue
}

/** Takes a report of the broker: what was wanted is in the book now. */
export function takeShared(shared: Shared, report: ExecutionReport): void {
  takeReport(shared.book, report)
  delete shared.pending[report.clOrdId]
}

/** The book as if what is wanted rested already. */
export function withPending({ book, pending }: Shared): Book {
  const wanted = Object.values(pending)
  if (wanted.length === 0) return book
  const working = Object.assign(Object.create(null), book.working) as Book['working']
  for (const order of wanted) addSent(working, order)
  return { ...book, working }
}

/** Prices of the account's securities; what is held and was never quoted is worth what it has cost. */
export const pricesOf =
  ({ book, quotes, listed }: Shared): PriceOf =>
  (symbol) => {
    const rate = listed[symbol]?.rate ?? 1
    const quote = quotes[symbol]
    if (quote) return { bid: toE4(quote.bid), ask: toE4(quote.ask), last: toE4(quote.last), rate }
    const holding = book.holdings[symbol]
    const cost = holding ? toE4(averagePrice(holding)) : 0
    return { bid: cost, ask: cost, last: cost, rate }
  }

/** The figures of the account at a moment, with what is wanted held back. */
export const figuresAt = (shared: Shared, at: number): Standing =>
  standing(withPending(shared), pricesOf(shared), localDate(shared.home, at))

/** What an order would be checked against at a moment: the same that the broker looks at, as far as it is known here. */
export function orderFactsAt(shared: Shared, order: NewOrder, at: number): OrderFacts {
  const book = withPending(shared)
  const { security, venue, rate } = shared.listed[order.symbol]
  const quote = shared.quotes[order.symbol]
  const prices = pricesOf(shared)
  const { buyingPowerE4, freeE4 } = standing(book, prices, localDate(shared.home, at))
  const known = { security, near: [], bid: quote?.bid, ask: quote?.ask, last: quote?.last }
  const { state } = sessionState(venue, at)
  const facts = factsOf(book, order, {
    ...known,
    needs: orderNeeds(book, order, [known], freeE4, prices),
    session: { open: state === 'Open', venue: venue.name, opens: '' },
    rate,
    currency: book.rules.currency,
    buyingPowerE4,
  })
  return withGates(book, order, facts, { at, date: localDate(venue, at), known: false })
}

/** Reserves what a plan wants to send. */
export function reserve(shared: Shared, order: NewOrder, at: number): void {
  const { venue } = shared.listed[order.symbol]
  shared.pending[order.clOrdId] = order
  noteTaken(shared.book, order, isOpeningIn(shared.book, order), at, localDate(venue, at))
}

/** Shares that the account holds of a security. */
export const heldOf = ({ book }: Shared, symbol: string): number => sharesOf(book, symbol)
