import { toE4 } from '../market/money'
import { type Order, type Position } from '../orders/model'
import { type Book, emptyBook } from './book'
import { indexOrder } from './indexing'
import { type AccountRules } from '../orders/accountRules'

/** A book as the broker's answers tell it, for checks before anything is sent: its orders, and what is held. */
export function bookAsTold(orders: readonly Order[], held: readonly Position[], rules: AccountRules): Book {
  const book = emptyBook(0, rules)
  // Answers come newest first; an id that a refused order left free stands for the one after it.
  for (const order of orders.toReversed()) {
    book.orders[order.orderId] = order
    if (order.ordStatus !== 'Rejected' || book.byClOrdId[order.clOrdId] === undefined)
      book.byClOrdId[order.clOrdId] = order.orderId
    if (order.origClOrdId !== undefined) book.byClOrdId[order.origClOrdId] ??= order.orderId
    indexOrder(book.working, order)
  }
  for (const { symbol, quantity, avgPx } of held)
    book.holdings[symbol] = { symbol, quantity, costE4: quantity * toE4(avgPx), realizedE4: {} }
  return book
}
