import { type OrderFacts } from '../orders/check'
import { type NewOrder } from '../orders/model'
import { ALL, type Book, sharesOf, standingUnder } from './book'
import { promisedIn } from './sums'
import { type WorkingBook } from './working'

/** What is known of the market and of the account's figures when an order is checked. */
export type Known = Pick<
  OrderFacts,
  'security' | 'near' | 'bid' | 'ask' | 'last' | 'session' | 'currency' | 'buyingPowerE4' | 'expiry'
>

/**
 * What an order is checked against in an account as it stands. The one place where that is put together: for the
 * broker's check and for the rows of a sheet, which are checked as if those before them rested (`working`).
 */
export function factsOf(
  book: Book,
  order: Pick<NewOrder, 'symbol' | 'side' | 'clOrdId' | 'lot'>,
  known: Known,
  working: WorkingBook = book.working,
): OrderFacts {
  const { sold, bought, short } = promisedIn(working[order.symbol] ?? [])
  return {
    ...known,
    lots: order.lot === undefined ? [] : (book.holdings[order.symbol]?.lots ?? []).map(({ id }) => id),
    mayShort: book.rules.short,
    stoodDown: ALL in book.stoodDown ? 'account' : order.symbol in book.stoodDown ? 'security' : undefined,
    clOrdIdTaken: standingUnder(book, order.clOrdId) !== undefined,
    sharesHeld: sharesOf(book, order.symbol),
    promised: order.side === 'Sell' ? sold : bought,
    offeredShort: short,
  }
}
