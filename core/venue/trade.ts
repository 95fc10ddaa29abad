import { sharesOf } from '../book/book'
import { waitsFor, type Working } from '../book/working'
import { fromE4, priceText, toE4 } from '../market/money'
import { incrementAt } from '../market/increment'
import { standingStatus } from '../orders/states'
import { trailedPrice } from '../orders/levels'
import { commissionE4 } from '../orders/margin'
import { cancelLinked, followEntry, followExit, onWrongSide } from './contingencies'
import { type Seat, orderOf, report, workingNow } from './seat'
import { type Fill, setsOff, type Shown, sweep } from './match'
import { mayTrade } from './mayTrade'
import { cancel } from './orders'
import { shrinkCloses } from './shrink'

/**
 * Shows an order the book of one second, of which `taken` shares are gone: sets off a Stop, and trades as much as there is
 * and as the account may. Gives the shares that it took.
 */
export function meetSecond(seat: Seat, order: Working, shown: Shown, at: number, taken: number): number {
  let meets = order
  if (waitsFor(order) === 'stop') {
    if (!setsOff(order, shown.last)) {
      follow(seat, order, shown.last, at)
      return 0
    }
    setOff(seat, order, at)
    meets = workingNow(seat, order.orderId)!
  }
  const stepE4 = toE4(incrementAt(seat.place.bandsOf(order.symbol), fromE4(shown.last)))
  return meet(seat, meets, sweep(meets, shown, stepE4, taken), at)
}

/** Moves a trailing stop along with a price that is better than those before. */
export function follow(seat: Seat, order: Working, lastE4: number, at: number): void {
  const { trail, side, symbol, orderId, stopE4 } = order
  if (!trail) return
  const stopPx = trailedPrice(trail, side, fromE4(lastE4), seat.place.bandsOf(symbol))
  if (side === 'Buy' ? toE4(stopPx) >= stopE4 : toE4(stopPx) <= stopE4) return
  report(seat, orderId, 'Restated', orderOf(seat, orderId).ordStatus, at, { stopPx })
}

/** Lets an order take fills; one that trades at once or not at all ends with that. Gives the shares taken. */
export function meet(seat: Seat, order: Working, fills: readonly Fill[], at: number): number {
  const { orderId, atOnce } = order
  const whole = atOnce !== 'whole' || fillsWhole(seat, order, fills, at)
  const quantity = whole ? fill(seat, orderId, fills, at) : 0
  if (atOnce !== 'no' && workingNow(seat, orderId))
    cancel(
      seat,
      orderId,
      at,
      atOnce === 'whole'
        ? 'it could not be filled whole at once'
        : 'what could not trade at once is canceled',
    )
  return quantity
}

/** True if fills are all of an order, and the account may take all of them at the worst of their prices. */
function fillsWhole(seat: Seat, order: Working, fills: readonly Fill[], at: number): boolean {
  const quantity = fills.reduce((sum, one) => sum + one.quantity, 0)
  const last = fills.at(-1)
  if (!last || quantity < order.leavesQty) return false
  const priceOf = (symbol: string) => seat.place.pricesOf(symbol, at)
  return (
    mayTrade(seat.book, order, { quantity, priceE4: last.priceE4 }, priceOf, dateOf(seat, order.symbol, at))
      .quantity >= quantity
  )
}

const dateOf = ({ place }: Seat, symbol: string, at: number): string => place.stampOf(at, symbol).tradeDate

export const setOff = (seat: Seat, { orderId }: Working, at: number): void =>
  report(seat, orderId, 'TriggeredOrActivatedBySystem', orderOf(seat, orderId).ordStatus, at, {
    triggered: true,
  })

/** Lets an order take fills, as far as the account may; what it may not is canceled with the reason. Gives the shares taken. */
export function fill(seat: Seat, orderId: string, fills: readonly Fill[], at: number): number {
  const priceOf = (symbol: string) => seat.place.pricesOf(symbol, at)
  let quantity = 0
  for (const one of fills) {
    const working = workingNow(seat, orderId)
    if (!working) break
    const wrong = refusedSide(seat, orderId, fromE4(one.priceE4))
    if (wrong) {
      cancel(seat, orderId, at, wrong)
      break
    }
    const most = mayTrade(seat.book, working, one, priceOf, dateOf(seat, working.symbol, at))
    const part = Math.min(one.quantity, most.quantity)
    quantity += part
    if (part > 0) trade(seat, orderId, { ...one, quantity: part }, at)
    if (part === one.quantity) continue
    // It may have ended with what was traded.
    if (workingNow(seat, orderId)) cancel(seat, orderId, at, most.why)
    break
  }
  return quantity
}

/** Why an entry does not trade at a price where its exits would lie on the wrong side of the fill, if it shall not. */
function refusedSide(seat: Seat, orderId: string, price: number): string | undefined {
  const order = orderOf(seat, orderId)
  if (order.role !== 'Entry' || order.exits?.wrongSide !== 'Refuse') return undefined
  const level = onWrongSide(seat, order, price)
  return level && `${level} would lie on the wrong side of a fill at ${priceText(price)}`
}

function trade(seat: Seat, orderId: string, { quantity, priceE4 }: Fill, at: number): void {
  const order = orderOf(seat, orderId)
  const before = sharesOf(seat.book, order.symbol)
  const cumQty = order.cumQty + quantity
  const leavesQty = order.orderQty - cumQty
  let filledE4 = quantity * priceE4
  for (const { lastQty = 0, lastPx = 0 } of order.chain) filledE4 += lastQty * toE4(lastPx)
  report(seat, orderId, 'Trade', leavesQty === 0 ? 'Filled' : standingStatus({ ...order, cumQty }), at, {
    cumQty,
    leavesQty,
    avgPx: Math.round(filledE4 / cumQty) / 10_000,
    lastQty: quantity,
    lastPx: fromE4(priceE4),
    commission: fromE4(commissionE4(order.symbol, quantity)),
  })
  cancelLinked(seat, order, at)
  if (order.role === 'Entry') followEntry(seat, orderId, quantity, at)
  else followExit(seat, orderId, quantity, at)
  if (Math.abs(sharesOf(seat.book, order.symbol)) < Math.abs(before))
    shrinkCloses(seat, order.symbol, before > 0 ? 'Sell' : 'Buy', at)
}
