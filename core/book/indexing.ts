import { isWorking, type NewOrder, type Order } from '../orders/model'
import { carrySums } from './sums'
import { legsAsWorking } from './wholes'
import { placeOf, type Working, workingAsSent, type WorkingBook, workingOf } from './working'

/** Puts an order as it stands now into the index, or takes out one that can trade no more. */
export function indexOrder(index: WorkingBook, order: Order): void {
  const works = isWorking(order.ordStatus)
  for (const one of order.legs ? legsAsWorking(workingOf(order), order.legs) : [workingOf(order)])
    indexOne(index, one, works)
}

function indexOne(index: WorkingBook, one: Working, works: boolean): void {
  const there = index[one.symbol] ?? []
  const at = placeOf(there, one.number)
  const known = there[at]?.orderId === one.orderId
  if (works) {
    const after = there.toSpliced(at, known ? 1 : 0, one)
    if (at === there.length) carrySums(there, after, one)
    index[one.symbol] = after
  } else if (known && there.length === 1) delete index[one.symbol]
  else if (known) index[one.symbol] = there.toSpliced(at, 1)
}

/**
 * Puts an order that would be sent behind those that rest: for checks of what is sent after it. `keptE4`: money that is kept
 * for it, where there are options in it.
 */
export function addSent(index: WorkingBook, order: NewOrder, keptE4 = 0): void {
  const whole = workingAsSent(order, keptE4)
  for (const one of order.legs ? legsAsWorking(whole, order.legs) : [whole]) {
    const there = index[one.symbol] ?? []
    const after = [...there, one]
    carrySums(there, after, one)
    index[one.symbol] = after
  }
}
