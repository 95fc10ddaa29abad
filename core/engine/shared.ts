import { averagePrice, type Book, isOpeningIn, sharesOf, takeReport } from '../book/book'
import { noteGone, noteTaken } from '../book/lately'
import { factsOf } from '../book/facts'
import { withGates } from '../book/candidate'
import { addSent } from '../book/indexing'
import { orderNeeds } from '../book/orderNeeds'
import { type PriceOf } from '../book/sums'
import { type Standing, standing } from '../book/value'
import { type MarketNow } from '../market/candidate'
import { type Ticked } from '../market/growing'
import { toE4 } from '../market/money'
import { sayOpens } from '../market/moments'
import { localDate, type Venue } from '../market/venue'
import { type OrderFacts } from '../orders/orderFacts'
import { type ExecutionReport, type NewOrder } from '../orders/model'
import { type Plan } from '../plans/document'
import { type EquityBase } from '../plans/entry'
import { clockOf } from './clock'
import { type DayEntries, noteEntry } from './dayEntries'
import { growQuote, type GrowingBars } from './growing'
import { type Listed, type Quoted } from './listed'

/**
 * The account that plans trade in, and the prices that they see: one for all of its plans. What one of them wants to send is
 * reserved in it at once, before the next is stepped, until the broker answers.
 */
export interface Shared {
  book: Book
  quotes: Record<string, Quoted>
  /** Wanted and not answered yet, by client order id. */
  pending: Record<string, NewOrder>
  /** How each of them was noted among what the account has taken lately. */
  noted: Record<string, { opening: boolean; at: number }>
  /** What the account's orders have opened, by security. */
  entries: DayEntries
  /** Money that is kept for those of them with options in it, in e4. */
  keptE4: Record<string, number>
  listed: Readonly<Record<string, Listed>>
  /** Equity that sizes may be a part of, in e4, as far as it was asked for. */
  bases: { startE4?: number; dayE4?: number }
  /** How the market of a venue stands, by MIC, as far as it was asked for. */
  market: Record<string, MarketNow>
  /** Bars that grow, by timeframe: those that any plan looks at before they are complete. */
  growing: Record<string, GrowingBars>
  /** What the account is valued in: the venue whose dates are the account's. */
  home: Venue
  /** What is reckoned of the account, kept until it changes. */
  reckoned?: Reckoned
}

/** What is reckoned of an account, and what of it that was: its figures hold for a second of the market. */
interface Reckoned {
  seq: number
  wanted: Book
  at: number
  figures?: Standing
}

/** Figures of the account are reckoned anew after so long, milliseconds. */
const FIGURES_LAST = 1000

/** An account of which no price is known yet, and in which nothing is wanted. */
export const sharedOf = (
  book: Book,
  listed: Readonly<Record<string, Listed>>,
  home: Venue,
  entries: DayEntries = {},
): Shared => ({
  ...{ book, listed, home, entries },
  quotes: {},
  pending: {},
  noted: {},
  keptE4: {},
  bases: {},
  market: {},
  growing: {},
})

/** Takes a quote, once for all plans: before they are stepped by it. */
export function takeQuoted(
  shared: Shared,
  { symbol, ...quote }: { symbol: string; since?: Ticked['since'] } & Quoted,
): void {
  const { at, bid, ask, last } = quote
  shared.quotes[symbol] = { at, bid, ask, last }
  const listed = shared.listed[symbol]
  if (listed) growQuote(shared.growing, listed, symbol, quote)
}

/** Takes a report of the broker: what was wanted is in the book now. */
export function takeShared(shared: Shared, report: ExecutionReport): void {
  const { book, entries } = shared
  unreserve(shared, report.clOrdId)
  if (report.seq > book.seq) noteEntry(entries, book, report)
  takeReport(book, report)
}

/** What is not wanted any more, or is in the book by now, is reserved no longer. */
export function unreserve(shared: Shared, clOrdId: string): void {
  const { pending, noted, book } = shared
  if (noted[clOrdId]) noteGone(book, pending[clOrdId], noted[clOrdId].opening, noted[clOrdId].at)
  delete noted[clOrdId]
  delete shared.pending[clOrdId]
  delete shared.keptE4[clOrdId]
  delete shared.reckoned
}

function reckonedOf(shared: Shared): Reckoned {
  const { book, reckoned } = shared
  if (reckoned?.seq === book.seq) return reckoned
  return (shared.reckoned = { seq: book.seq, wanted: asIfSent(shared), at: -Infinity })
}

/** The book as if what is wanted rested already. */
function asIfSent({ book, pending, keptE4 }: Shared): Book {
  const wanted = Object.values(pending)
  if (wanted.length === 0) return book
  const working = Object.assign(Object.create(null), book.working) as Book['working']
  for (const order of wanted) addSent(working, order, keptE4[order.clOrdId])
  return { ...book, working }
}

/** The book as if what is wanted rested already. */
export const withPending = (shared: Shared): Book => reckonedOf(shared).wanted

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
export function figuresAt(shared: Shared, at: number): Standing {
  const reckoned = reckonedOf(shared)
  const { figures } = reckoned
  if (figures && Math.abs(at - reckoned.at) < FIGURES_LAST) return figures
  reckoned.at = at
  return (reckoned.figures = standing(reckoned.wanted, pricesOf(shared), clockOf(shared.home).at(at).date))
}

/** Equity that a size is a part of, in e4; NaN where it was not asked for. */
export function baseE4(shared: Shared, { never }: Plan, base: EquityBase, at: number): number {
  if (base === 'Start') return shared.bases.startE4 ?? NaN
  if (base === 'DayStart') return shared.bases.dayE4 ?? NaN
  const { equityE4 } = figuresAt(shared, at)
  return base === 'Share' ? (equityE4 * (never.share ?? NaN)) / 100 : equityE4
}

/** What an order would be checked against at a moment: the same that the broker looks at, as far as it is known here. */
export function orderFactsAt(shared: Shared, order: NewOrder, at: number): OrderFacts {
  const book = withPending(shared)
  const { security, venue, rate } = shared.listed[order.symbol]
  const quote = shared.quotes[order.symbol]
  const prices = pricesOf(shared)
  const { buyingPowerE4, freeE4 } = figuresAt(shared, at)
  const known = { security, near: [], bid: quote?.bid, ask: quote?.ask, last: quote?.last }
  const legs = order.legs?.map(({ symbol }) => legAt(shared, symbol))
  const { state, date, session } = clockOf(venue).at(at)
  const opens = state === 'Open' ? '' : sayOpens(session.open, venue.zone)
  const facts = factsOf(book, order, {
    security,
    near: known.near,
    bid: known.bid,
    ask: known.ask,
    last: known.last,
    legs,
    needs: orderNeeds(book, order, legs ? [known, ...legs] : [known], freeE4, prices),
    session: { open: state === 'Open', venue: venue.name, opens },
    rate,
    currency: book.rules.currency,
    buyingPowerE4,
  })
  return withGates(book, order, facts, { at, date, known: false })
}

/** What is known of one leg of an order. */
function legAt({ listed, quotes }: Shared, symbol: string) {
  const quote = quotes[symbol]
  const [security, near] = [listed[symbol]?.security, [] as string[]]
  return { security, near, bid: quote?.bid, ask: quote?.ask, last: quote?.last }
}

/** Reserves what a plan wants to send; `keptE4` is the money that is kept for it where there are options in it. */
export function reserve(shared: Shared, order: NewOrder, at: number, keptE4 = 0): void {
  const { venue } = shared.listed[order.symbol]
  const before = reckonedOf(shared)
  shared.pending[order.clOrdId] = order
  if (keptE4 > 0) shared.keptE4[order.clOrdId] = keptE4
  const { wanted } = before
  if (wanted === shared.book) delete shared.reckoned
  else {
    // It comes behind what was wanted before.
    addSent(wanted.working, order, keptE4)
    delete before.figures
  }
  const opening = isOpeningIn(shared.book, order)
  noteTaken(shared.book, order, opening, at, localDate(venue, at))
  shared.noted[order.clOrdId] = { opening, at }
}

/** The account as if an order was reserved as well; what it is taken from stays as it is. */
export const withReserved = (shared: Shared, order: NewOrder): Shared => ({
  ...shared,
  pending: { ...shared.pending, [order.clOrdId]: order },
  reckoned: undefined,
})

/** Shares that the account holds of a security. */
export const heldOf = ({ book }: Shared, symbol: string): number => sharesOf(book, symbol)
