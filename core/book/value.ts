import { directionOf, likelyPrice } from '../orders/levels'
import { buyingPowerE4, initialMarginE4, openingQuantity } from '../orders/margin'
import { type Book } from './book'
import { type Working, type WorkingBook } from './working'

/** Prices of a security at a moment, in whole ten-thousandths. */
export interface Prices {
  bid: number
  ask: number
  last: number
}

export type PriceOf = (symbol: string) => Prices

/** An account's figures at a moment, in whole ten-thousandths. */
export interface Standing {
  equityE4: number
  marginE4: number
  reservedE4: number
  buyingPowerE4: number
  unrealizedE4: number
}

/** Values an account: equity, margin held, and what may still be bought. */
export function standing(book: Book, priceOf: PriceOf): Standing {
  const { valueE4, marginE4, costE4 } = held(book, priceOf)
  const equityE4 = book.cashE4 + valueE4
  const reservedE4 = reserved(book, book.working, priceOf)
  return {
    equityE4,
    marginE4,
    reservedE4,
    buyingPowerE4: buyingPowerE4(equityE4, marginE4, reservedE4),
    unrealizedE4: valueE4 - costE4,
  }
}

function held(book: Book, priceOf: PriceOf) {
  let [valueE4, marginE4, costE4] = [0, 0, 0]
  for (const symbol in book.holdings) {
    const holding = book.holdings[symbol]
    if (holding.quantity === 0) continue
    const worthE4 = holding.quantity * priceOf(symbol).last
    valueE4 += worthE4
    marginE4 += initialMarginE4(worthE4)
    costE4 += holding.costE4
  }
  return { valueE4, marginE4, costE4 }
}

const likelyE4 = (order: Working, { bid, ask }: Prices): number =>
  likelyPrice(order.side, order.ordType, order.levelE4, order.side === 'Buy' ? ask : bid)

/** What was reckoned last for a list of working orders, and from what. */
const reckoned = new WeakMap<readonly Working[], { held: number; prices: Prices; sum: number }>()

/**
 * Margin kept back for working entries, each by the part of it that would open something: what one of them closes,
 * the next cannot. One of them may be left out.
 */
export function reserved(book: Book, working: WorkingBook, priceOf: PriceOf, without?: Working): number {
  let sum = 0
  for (const symbol in working) {
    const orders = working[symbol]
    const quantity = book.holdings[symbol]?.quantity ?? 0
    const prices = priceOf(symbol)
    if (without?.symbol === symbol) {
      sum += reservedIn(orders, quantity, prices, without)
      continue
    }
    let last = reckoned.get(orders)
    if (last?.held !== quantity || last.prices.bid !== prices.bid || last.prices.ask !== prices.ask)
      reckoned.set(
        orders,
        (last = { held: quantity, prices, sum: reservedIn(orders, quantity, prices, undefined) }),
      )
    sum += last.sum
  }
  return sum
}

function reservedIn(
  orders: readonly Working[],
  quantity: number,
  prices: Prices,
  without: Working | undefined,
): number {
  let [sum, left] = [0, quantity]
  for (const order of orders) {
    if (order.role !== 'Entry' || order.side === 'Sell' || order.orderId === without?.orderId) continue
    const signed = directionOf(order.side) * order.leavesQty
    const opening = openingQuantity(left, signed)
    if (left !== 0 && Math.sign(left) !== Math.sign(signed))
      left += Math.sign(signed) * (order.leavesQty - opening)
    sum += initialMarginE4(opening * likelyE4(order, prices))
  }
  return sum
}

/** What is free of the equity for a working order, its own reserve left out, in e4. */
export function freeFor(book: Book, order: Working, priceOf: PriceOf): number {
  const { valueE4, marginE4 } = held(book, priceOf)
  return book.cashE4 + valueE4 - marginE4 - reserved(book, book.working, priceOf, order)
}
