import { isWorking, type NewOrder, type Order } from '../orders/model'
import { carrySums } from './sums'
import { numberOf, placeOf, workingAsSent, type WorkingBook, workingOf } from './working'

/** Puts an order as it stands now into the index, or takes out one that can trade no more. */
export function indexOrder(index: WorkingBook, order: Order): void {
  const there = index[order.symbol] ?? []
  const at = placeOf(there, numberOf(order.orderId))
  const known = there[at]?.orderId === order.orderId
  if (isWorking(order.ordStatus)) {
    const one = workingOf(order)
    const after = there.toSpliced(at, known ? 1 : 0, one)
    if (at === there.length) carrySums(there, after, one)
    index[order.symbol] = after
  } else if (known && there.length === 1) delete index[order.symbol]
  else if (known) index[order.symbol] = there.toSpliced(at, 1)
}

/** Puts an order that would be sent behind those that rest: for checks of what is sent after it. */
export function addSent(index: WorkingBook, order: NewOrder): void {
  const there = index[order.symbol] ?? []
  const one = workingAsSent(order)
  const after = [...there, one]
  carrySums(there, after, one)
  index[order.symbol] = after
}
