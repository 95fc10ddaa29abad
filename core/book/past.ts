import { isWorking, type Order } from '../orders/model'
import { type Book } from './book'

/**
 * Takes the orders out of a book that are over and of earlier days, so that it does not grow with the past; entries whose
 * exits still work stay. Their client order ids stay taken, but for those of refused ones.
 */
export function forgetPast(book: Book, today: string): void {
  const { orders, attached, linked, waiting, byClOrdId } = book
  const isOver = (order: Order | undefined) =>
    !order || (!isWorking(order.ordStatus) && order.tradeDate < today)
  for (const orderId in orders) {
    const order = orders[orderId]
    if (!isOver(order) || (attached[orderId] ?? []).some((id) => !isOver(orders[id]))) continue
    if (order.ordStatus === 'Rejected' && byClOrdId[order.clOrdId] === orderId)
      delete byClOrdId[order.clOrdId]
    delete orders[orderId]
    delete attached[orderId]
    delete waiting[orderId]
  }
  for (const [link, ids] of Object.entries(linked)) {
    const left = ids.filter((id) => orders[id])
    if (left.length > 0) linked[link] = left
    else delete linked[link]
  }
}
