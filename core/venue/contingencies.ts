import { orderIdOf } from '../book/working'
import { closingSide, directionOf, exitPrices, stopLimitPrice } from '../orders/levels'
import { partsOf, shareOut } from '../orders/exits'
import { priceText } from '../market/money'
import { multiplierOf } from '../options/osi'
import { isWorking, type NewOrder, type Order } from '../orders/model'
import { type Seat, exitsOf, orderOf, report } from './seat'

/** Takes down the exits of an entry, which wait until something of it is filled. */
export function attachExits(seat: Seat, entryId: string, entry: NewOrder, at: number): void {
  const { stopLimit, timeInForce = 'GoodTillCancel' } = entry.exits!
  const parts = partsOf(entry.exits!)
  const quantities = shareOut(parts, entry.orderQty, seat.place.lotOf(entry.symbol))
  parts.forEach((levels, i) => {
    for (const role of ['Stop', 'Target'] as const) {
      const level = role === 'Stop' ? levels.stop : levels.target
      if (!level || quantities[i] === 0) continue
      const trail = 'trail' in level ? level.trail : undefined
      report(seat, undefined, 'PendingNew', 'PendingNew', at, {
        orderId: orderIdOf(seat.book.count + 1),
        clOrdId: `${entry.clOrdId}/${role.toLowerCase()}${i > 0 ? i + 1 : ''}`,
        symbol: entry.symbol,
        side: closingSide(entry.side),
        orderQty: quantities[i],
        ordType: role === 'Target' ? 'Limit' : trail ? 'TrailingStop' : stopLimit ? 'StopLimit' : 'Stop',
        trail,
        timeInForce,
        role,
        parentOrderId: entryId,
        part: parts.length > 1 ? i + 1 : undefined,
        group: entry.group,
        contingencyType: levels.stop && levels.target ? 'OneCancelsTheOther' : undefined,
        cumQty: 0,
        leavesQty: quantities[i],
        avgPx: 0,
        text: 'waits for its entry',
      })
    }
  })
}

/** Of linked orders the first that trades ends the others. */
export function cancelLinked(seat: Seat, { orderId, clOrdId, clOrdLinkId }: Order, at: number): void {
  if (clOrdLinkId === undefined) return
  for (const id of seat.book.linked[clOrdLinkId])
    if (id !== orderId && isWorking(orderOf(seat, id)?.ordStatus ?? 'Canceled'))
      report(seat, id, 'Canceled', 'Canceled', at, { leavesQty: 0, text: `${clOrdId} has traded instead` })
}

/** A level of an entry's exits that would lie on the wrong side of a fill at a price, in words; undefined where none does. */
export function onWrongSide(seat: Seat, entry: Order, price: number): string | undefined {
  const bands = seat.place.bandsOf(entry.symbol)
  const up = directionOf(entry.side)
  for (const part of entry.exits ? partsOf(entry.exits) : []) {
    const { stop, target } = exitPrices(part, {
      ...{ side: entry.side, reference: price, bands },
      quantity: entry.orderQty * multiplierOf(entry.symbol),
    })
    if (stop !== undefined && up * (stop - price) >= 0) return `the stop at ${priceText(stop)}`
    if (target !== undefined && up * (target - price) <= 0) return `the target at ${priceText(target)}`
  }
  return undefined
}

/** Puts an entry's exits to work for what is filled, `quantity` of it just now, measured from its average price; one that was moved stays where it is. */
export function followEntry(seat: Seat, entryId: string, quantity: number, at: number): void {
  const entry = orderOf(seat, entryId)
  const lot = seat.place.lotOf(entry.symbol)
  const bands = seat.place.bandsOf(entry.symbol)
  const parts = entry.exits ? partsOf(entry.exits) : []
  const [whole, now, before] = [entry.orderQty, entry.cumQty, entry.cumQty - quantity].map((sum) =>
    shareOut(parts, sum, lot),
  )
  const prices = parts.map((part, i) =>
    exitPrices(part, {
      ...{ side: entry.side, reference: entry.avgPx, bands },
      quantity: whole[i] * multiplierOf(entry.symbol),
    }),
  )
  const wrong = onWrongSide(seat, entry, entry.avgPx)
  for (const exit of exitsOf(seat, entryId)) {
    if (!isWorking(exit.ordStatus)) continue
    const i = (exit.part ?? 1) - 1
    const role = exit.role as 'Stop' | 'Target'
    const price = role === 'Stop' ? prices[i].stop : prices[i].target
    // One that was moved by hand, or has followed the market already, stays where it is.
    const moved = exit.origClOrdId !== undefined || (exit.trail && exit.ordStatus !== 'PendingNew')
    // What was closed by hand meanwhile needs no exit any more.
    const orderQty = exit.ordStatus === 'PendingNew' ? now[i] : exit.orderQty + now[i] - before[i]
    // Too little is filled for a lot of this part.
    if (orderQty === 0) continue
    const limit =
      exit.ordType === 'StopLimit' && price !== undefined
        ? { price: stopLimitPrice(entry.exits!.stopLimit!, exit.side, price, bands) }
        : {}
    const change = {
      ...(moved ? {} : role === 'Stop' ? { stopPx: price, ...limit } : { price }),
      orderQty,
      leavesQty: orderQty - exit.cumQty,
      text: wrong
        ? `${wrong} lies on the wrong side of the fill: it leaves at once`
        : exit.contingencyType
          ? `cancels with the ${role === 'Stop' ? 'target' : 'stop'}`
          : undefined,
    }
    if (exit.ordStatus === 'PendingNew') report(seat, exit.orderId, 'New', 'New', at, change)
    else report(seat, exit.orderId, 'Restated', exit.ordStatus, at, change)
  }
}

/** After an exit has traded: its entry takes no more, and the other exit shrinks with it or ends. */
export function followExit(seat: Seat, exitId: string, quantity: number, at: number): void {
  const exit = orderOf(seat, exitId)
  const entry = orderOf(seat, exit.parentOrderId!)
  if (isWorking(entry.ordStatus))
    report(seat, entry.orderId, 'Canceled', 'Canceled', at, { leavesQty: 0, text: 'its exit has traded' })
  for (const other of exitsOf(seat, entry.orderId)) {
    if (other.orderId === exitId || other.part !== exit.part || !isWorking(other.ordStatus)) continue
    const orderQty = other.orderQty - quantity
    if (orderQty <= other.cumQty)
      report(seat, other.orderId, 'Canceled', 'Canceled', at, {
        leavesQty: 0,
        text: `the ${exit.role.toLowerCase()} was filled`,
      })
    else
      report(seat, other.orderId, 'Restated', other.ordStatus, at, {
        orderQty,
        leavesQty: orderQty - other.cumQty,
      })
  }
}
