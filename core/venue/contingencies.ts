import { orderIdOf } from '../book/working'
import { closingSide, exitPrices } from '../orders/levels'
import { multiplierOf } from '../options/osi'
import { isWorking, type NewOrder } from '../orders/model'
import { type Desk, exitsOf, orderOf, report } from './desk'

/** Takes down the exits of an entry, which wait until something of it is filled. */
export function attachExits(desk: Desk, entryId: string, entry: NewOrder, at: number): void {
  const both = entry.exits!.stop && entry.exits!.target
  for (const role of ['Stop', 'Target'] as const) {
    const level = role === 'Stop' ? entry.exits!.stop : entry.exits!.target
    if (!level) continue
    const trail = 'trail' in level ? level.trail : undefined
    report(desk, undefined, 'PendingNew', 'PendingNew', at, {
      orderId: orderIdOf(desk.book.count + 1),
      clOrdId: `${entry.clOrdId}/${role.toLowerCase()}`,
      symbol: entry.symbol,
      side: closingSide(entry.side),
      orderQty: entry.orderQty,
      ordType: role === 'Target' ? 'Limit' : trail ? 'TrailingStop' : 'Stop',
      trail,
      timeInForce: 'GoodTillCancel',
      role,
      parentOrderId: entryId,
      contingencyType: both ? 'OneCancelsTheOther' : undefined,
      cumQty: 0,
      leavesQty: entry.orderQty,
      avgPx: 0,
      text: 'waits for its entry',
    })
  }
}

/** Once an entry can fill no more: exits of one that never filled are canceled with it. */
export function releaseExits(desk: Desk, entryId: string, at: number): void {
  if (orderOf(desk, entryId).cumQty > 0) return
  for (const exit of exitsOf(desk, entryId)) {
    if (exit.ordStatus === 'PendingNew')
      report(desk, exit.orderId, 'Canceled', 'Canceled', at, {
        leavesQty: 0,
        text: 'its entry was not filled',
      })
  }
}

/** Puts an entry's exits to work for what is filled, `quantity` of it just now, measured from its average price; one that was moved stays where it is. */
export function followEntry(desk: Desk, entryId: string, quantity: number, at: number): void {
  const entry = orderOf(desk, entryId)
  const prices = exitPrices(entry.exits ?? {}, {
    ...{ side: entry.side, reference: entry.avgPx, quantity: entry.orderQty * multiplierOf(entry.symbol) },
    bands: desk.place.bandsOf(entry.symbol),
  })
  for (const exit of exitsOf(desk, entryId)) {
    if (!isWorking(exit.ordStatus)) continue
    const role = exit.role as 'Stop' | 'Target'
    const price = role === 'Stop' ? prices.stop : prices.target
    // One that was moved by hand, or has followed the market already, stays where it is.
    const moved = exit.origClOrdId !== undefined || (exit.trail && exit.ordStatus !== 'PendingNew')
    // What was closed by hand meanwhile needs no exit any more.
    const orderQty = exit.ordStatus === 'PendingNew' ? entry.cumQty : exit.orderQty + quantity
    const change = {
      ...(moved ? {} : role === 'Stop' ? { stopPx: price } : { price }),
      orderQty,
      leavesQty: orderQty - exit.cumQty,
      text: exit.contingencyType ? `cancels with the ${role === 'Stop' ? 'target' : 'stop'}` : undefined,
    }
    if (exit.ordStatus === 'PendingNew') report(desk, exit.orderId, 'New', 'New', at, change)
    else report(desk, exit.orderId, 'Restated', exit.ordStatus, at, change)
  }
}

/** After an exit has traded: its entry takes no more, and the other exit shrinks with it or ends. */
export function followExit(desk: Desk, exitId: string, quantity: number, at: number): void {
  const exit = orderOf(desk, exitId)
  const entry = orderOf(desk, exit.parentOrderId!)
  if (isWorking(entry.ordStatus))
    report(desk, entry.orderId, 'Canceled', 'Canceled', at, { leavesQty: 0, text: 'its exit has traded' })
  for (const other of exitsOf(desk, entry.orderId)) {
    if (other.orderId === exitId || !isWorking(other.ordStatus)) continue
    const orderQty = other.orderQty - quantity
    if (orderQty <= other.cumQty)
      report(desk, other.orderId, 'Canceled', 'Canceled', at, {
        leavesQty: 0,
        text: `the ${exit.role.toLowerCase()} was filled`,
      })
    else
      report(desk, other.orderId, 'Restated', other.ordStatus, at, {
        orderQty,
        leavesQty: orderQty - other.cumQty,
      })
  }
}
