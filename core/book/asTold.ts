import { toE4 } from '../market/money'
import { multiplierOf } from '../options/osi'
import { type Order } from '../orders/model'
import { type Account, type Position } from '../orders/views'
import { noteTaken } from './lately'
import { ALL, type Book, emptyBook, isOpeningIn } from './book'
import { indexOrder } from './indexing'

/** A book as the broker's answers tell it, for checks before anything is sent: its orders, and what is held. */
export function bookAsTold(
  orders: readonly Order[],
  held: readonly Position[],
  { rules, stoodDown, gates }: Pick<Account, 'rules' | 'stoodDown' | 'gates'>,
): Book {
  const book = emptyBook(0, rules)
  book.gates = gates
  for (const one of stoodDown) book.stoodDown[one.symbol ?? ALL] = one
  // Answers come newest first; an id that a refused order left free stands for the one after it.
  for (const order of orders.toReversed()) {
    book.orders[order.orderId] = order
    if (order.ordStatus !== 'Rejected' || book.byClOrdId[order.clOrdId] === undefined)
      book.byClOrdId[order.clOrdId] = order.orderId
    if (order.origClOrdId !== undefined) book.byClOrdId[order.origClOrdId] ??= order.orderId
    indexOrder(book.working, order)
    if (order.role === 'Entry' && order.ordStatus !== 'Rejected')
      noteTaken(book, order, isOpeningIn(book, order), Date.parse(order.enteredTime), order.tradeDate)
  }
  for (const { symbol, quantity, avgPx } of held)
    book.holdings[symbol] = {
      symbol,
      quantity,
      costE4: quantity * toE4(avgPx) * multiplierOf(symbol),
      lots: [],
      realizedE4: {},
    }
  return book
}
