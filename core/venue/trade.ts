import { sharesOf } from '../book/book'
import { waitsFor, type Working } from '../book/working'
import { fromE4, priceText, toE4 } from '../market/money'
import { incrementAt } from '../market/increment'
import { standingStatus } from '../orders/states'
import { trailedPrice } from '../orders/levels'
import { commissionE4 } from '../orders/margin'
import { cancelLinked, followEntry, followExit, onWrongSide } from './contingencies'
import { type Desk, orderOf, report, workingNow } from './desk'
import { type Fill, setsOff, type Shown, sweep } from './match'
import { mayTrade } from './mayTrade'
import { cancel } from './orders'
import { shrinkCloses } from './shrink'

/**
 * Shows an order the book of one second, of which `taken` shares are gone: sets off a Stop, and trades as much as there is
 * and as the account may. Gives the shares that it took.
 */
export function meetSecond(desk: Desk, order: Working, shown: Shown, at: number, taken: number): number {
  let meets = order
  if (waitsFor(order) === 'stop') {
    if (!setsOff(order, shown.last)) {
      follow(desk, order, shown.last, at)
      return 0
    }
    setOff(desk, order, at)
    meets = workingNow(desk, order.orderId)!
  }
  const stepE4 = toE4(incrementAt(desk.place.bandsOf(order.symbol), fromE4(shown.last)))
  return meet(desk, meets, sweep(meets, shown, stepE4, taken), at)
}

/** Moves a trailing stop along with a price that is better than those before. */
export function follow(desk: Desk, order: Working, lastE4: number, at: number): void {
  const { trail, side, symbol, orderId, stopE4 } = order
  if (!trail) return
  const stopPx = trailedPrice(trail, side, fromE4(lastE4), desk.place.bandsOf(symbol))
  if (side === 'Buy' ? toE4(stopPx) >= stopE4 : toE4(stopPx) <= stopE4) return
  report(desk, orderId, 'Restated', orderOf(desk, orderId).ordStatus, at, { stopPx })
}

/** Lets an order take fills; one that trades at once or not at all ends with that. Gives the shares taken. */
export function meet(desk: Desk, order: Working, fills: readonly Fill[], at: number): number {
  const { orderId, atOnce } = order
  const whole = atOnce !== 'whole' || fillsWhole(desk, order, fills, at)
  const quantity = whole ? fill(desk, orderId, fills, at) : 0
  if (atOnce !== 'no' && workingNow(desk, orderId))
    cancel(
      desk,
      orderId,
      at,
      atOnce === 'whole'
        ? 'it could not be filled whole at once'
        : 'what could not trade at once is canceled',
    )
  return quantity
}

/** True if fills are all of an order, and the account may take all of them at the worst of their prices. */
function fillsWhole(desk: Desk, order: Working, fills: readonly Fill[], at: number): boolean {
  const quantity = fills.reduce((sum, one) => sum + one.quantity, 0)
  const last = fills.at(-1)
  if (!last || quantity < order.leavesQty) return false
  const priceOf = (symbol: string) => desk.place.pricesOf(symbol, at)
  return (
    mayTrade(desk.book, order, { quantity, priceE4: last.priceE4 }, priceOf, dateOf(desk, order.symbol, at))
      .quantity >= quantity
  )
}

const dateOf = ({ place }: Desk, symbol: string, at: number): string => place.stampOf(at, symbol).tradeDate

export const setOff = (desk: Desk, { orderId }: Working, at: number): void =>
  report(desk, orderId, 'TriggeredOrActivatedBySystem', orderOf(desk, orderId).ordStatus, at, {
    triggered: true,
  })

/** Lets an order take fills, as far as the account may; what it may not is canceled with the reason. Gives the shares taken. */
export function fill(desk: Desk, orderId: string, fills: readonly Fill[], at: number): number {
  const priceOf = (symbol: string) => desk.place.pricesOf(symbol, at)
  let quantity = 0
  for (const one of fills) {
    const working = workingNow(desk, orderId)
    if (!working) break
    const wrong = refusedSide(desk, orderId, fromE4(one.priceE4))
    if (wrong) {
      cancel(desk, orderId, at, wrong)
      break
    }
    const most = mayTrade(desk.book, working, one, priceOf, dateOf(desk, working.symbol, at))
    const part = Math.min(one.quantity, most.quantity)
    quantity += part
    if (part > 0) trade(desk, orderId, { ...one, quantity: part }, at)
    if (part === one.quantity) continue
    // It may have ended with what was traded.
    if (workingNow(desk, orderId)) cancel(desk, orderId, at, most.why)
    break
  }
  return quantity
}

/** Why an entry does not trade at a price where its exits would lie on the wrong side of the fill, if it shall not. */
function refusedSide(desk: Desk, orderId: string, price: number): string | undefined {
  const order = orderOf(desk, orderId)
  if (order.role !== 'Entry' || order.exits?.wrongSide !== 'Refuse') return undefined
  const level = onWrongSide(desk, order, price)
  return level && `${level} would lie on the wrong side of a fill at ${priceText(price)}`
}

function trade(desk: Desk, orderId: string, { quantity, priceE4 }: Fill, at: number): void {
  const order = orderOf(desk, orderId)
  const before = sharesOf(desk.book, order.symbol)
  const cumQty = order.cumQty + quantity
  const leavesQty = order.orderQty - cumQty
  let filledE4 = quantity * priceE4
  for (const { lastQty = 0, lastPx = 0 } of order.chain) filledE4 += lastQty * toE4(lastPx)
  report(desk, orderId, 'Trade', leavesQty === 0 ? 'Filled' : standingStatus({ ...order, cumQty }), at, {
    cumQty,
    leavesQty,
    avgPx: Math.round(filledE4 / cumQty) / 10_000,
    lastQty: quantity,
    lastPx: fromE4(priceE4),
    commission: fromE4(commissionE4(order.symbol, quantity)),
  })
  cancelLinked(desk, order, at)
  if (order.role === 'Entry') followEntry(desk, orderId, quantity, at)
  else followExit(desk, orderId, quantity, at)
  if (Math.abs(sharesOf(desk.book, order.symbol)) < Math.abs(before))
    shrinkCloses(desk, order.symbol, before > 0 ? 'Sell' : 'Buy', at)
}
