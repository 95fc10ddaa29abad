import { type Book, standingUnder } from '../book/book'
import { type WorkingBook } from '../book/working'
import { fromE4, toE4 } from '../market/money'
import { type Finding } from '../orders/findings'
import {
  hasLimit,
  hasStop,
  isRequested,
  isWorking,
  type NewOrder,
  type Order,
  type OrderChange,
} from '../orders/model'
import { type Seat, exitsOf, report } from './seat'

/** Why an order cannot be changed, before anything is checked. */
export type NotReplaceable =
  | { why: 'not working' }
  | { why: 'waits for its entry' }
  | { why: 'asked already' }
  | { why: 'set off already' }
  | { why: 'quantity follows its entry' }
  | { why: 'filled beyond'; cumQty: number }
  | { why: 'no such price'; field: 'price' | 'stopPx' }
  | { why: 'price not above nought' }

/** What stands in the way of a change; undefined where nothing does. */
export function notReplaceable(order: Order, change: OrderChange): NotReplaceable | undefined {
  if (!isWorking(order.ordStatus)) return { why: 'not working' }
  if (order.ordStatus === 'PendingNew') return { why: 'waits for its entry' }
  if (isRequested(order.ordStatus)) return { why: 'asked already' }
  if (change.price !== undefined && !hasLimit(order.ordType)) return { why: 'no such price', field: 'price' }
  if (change.stopPx !== undefined && !hasStop(order.ordType)) return { why: 'no such price', field: 'stopPx' }
  if (change.price !== undefined && change.price <= 0 && !order.legs) return { why: 'price not above nought' }
  if (change.stopPx !== undefined && order.triggered) return { why: 'set off already' }
  if (change.orderQty !== undefined) {
    if (order.role !== 'Entry') return { why: 'quantity follows its entry' }
    if (change.orderQty <= order.cumQty) return { why: 'filled beyond', cumQty: order.cumQty }
  }
  return undefined
}

/** What is left of an order after a change, as it would be sent: this is what the change is checked as. */
export function asChanged(order: Order, change: OrderChange): NewOrder {
  const { symbol, side, legs, ordType, exits, trail } = order
  const timeInForce = change.timeInForce ?? order.timeInForce
  return {
    ...{ clOrdId: change.clOrdId, symbol, side, legs, ordType, exits, trail },
    orderQty: (change.orderQty ?? order.orderQty) - order.cumQty,
    price: change.price ?? limitWith(order, change),
    stopPx: change.stopPx ?? order.stopPx,
    timeInForce,
    // One that lasts otherwise now has no date of its own any more.
    expireDate: timeInForce === 'GoodTillDate' ? order.expireDate : undefined,
  }
}

/** The limit of an order with a change; that of an exit goes along with its stop. */
function limitWith({ role, ordType, price, stopPx }: Order, change: OrderChange): number | undefined {
  const goesAlong = role === 'Stop' && ordType === 'StopLimit' && change.stopPx !== undefined
  if (!goesAlong || price === undefined || stopPx === undefined) return price
  return fromE4(Math.max(1, toE4(price) + toE4(change.stopPx!) - toE4(stopPx)))
}

/** The working orders without one, which is checked anew. */
export function workingWithout({ working }: Book, { orderId, symbol }: Order): WorkingBook {
  const others = (working[symbol] ?? []).filter((one) => one.orderId !== orderId)
  return Object.assign(Object.create(null) as WorkingBook, working, { [symbol]: others })
}

/** Checks that concern a change: an exit sells what its entry has bought, whatever else rests on it. */
export const concerns = ({ role }: Order, { code }: Finding): boolean =>
  role === 'Entry' || code === 'client-order-id' || code === 'tick' || code === 'market-open'

/** Changes a working order, under a new client order id; the one before stands for it as well. `kept` is the money that options in it keep from then on. */
export function replace(seat: Seat, order: Order, change: OrderChange, at: number, kept?: number): Order {
  const changed = asChanged(order, change)
  const ordStatus = order.cumQty > 0 ? 'PartiallyFilled' : 'New'
  report(seat, order.orderId, 'Replaced', ordStatus, at, {
    asked: undefined,
    ...(order.asked ? {} : { clOrdId: change.clOrdId, origClOrdId: order.clOrdId }),
    ...{ orderQty: order.cumQty + changed.orderQty, leavesQty: changed.orderQty },
    ...{ price: changed.price, stopPx: changed.stopPx, timeInForce: changed.timeInForce },
    expireDate: changed.expireDate,
    kept,
  })
  // Exits that still wait are as many as their entry may become; those at work follow what is filled.
  for (const exit of change.orderQty === undefined ? [] : exitsOf(seat, order.orderId))
    if (exit.ordStatus === 'PendingNew')
      report(seat, exit.orderId, 'Restated', 'PendingNew', at, {
        orderQty: change.orderQty,
        leavesQty: change.orderQty,
      })
  return standingUnder(seat.book, change.clOrdId)!
}

/** Takes the wish to change an order, which is done later unless it ends before; its new id stands for it at once. */
export function askReplace(seat: Seat, order: Order, change: OrderChange, at: number): Order {
  report(seat, order.orderId, 'PendingReplace', 'PendingReplace', at, {
    ...{ clOrdId: change.clOrdId, origClOrdId: order.clOrdId, asked: change },
  })
  return seat.book.orders[order.orderId]
}

/** Leaves an order as it is, whose change was asked for and is refused by now. */
export function refuseReplace(
  seat: Seat,
  { orderId, origClOrdId, cumQty }: Order,
  at: number,
  why: string,
): void {
  report(seat, orderId, 'Restated', cumQty > 0 ? 'PartiallyFilled' : 'New', at, {
    ...{ clOrdId: origClOrdId, origClOrdId: undefined, asked: undefined },
    text: `the change was refused: ${why}`,
  })
}
