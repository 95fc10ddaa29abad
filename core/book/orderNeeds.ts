import { toE4 } from '../market/money'
import { CONTRACT_MULTIPLIER, isOption, underlyingOf } from '../options/osi'
import { type OrderFacts, reckonedPrice } from '../orders/check'
import { type OptionNeeds } from '../orders/orderFacts'
import { directionOf } from '../orders/levels'
import { type NewOrder } from '../orders/model'
import { dealtAt, netE4 } from '../orders/netPrice'
import { type Book } from './book'
import { isWritten, needsOf } from './needs'
import { pendingMoves, writesPending } from './pending'
import { converted, type PriceOf } from './sums'

/** What an order with options in it, or of shares that cover some, needs; undefined where it is neither or no price is known. */
export function orderNeeds(
  book: Book,
  order: NewOrder,
  [known, ...legs]: readonly Pick<OrderFacts, 'security' | 'bid' | 'ask' | 'last'>[],
  freeE4: number,
  priceOf: PriceOf,
): OptionNeeds | undefined {
  const underlying = underlyingOf(order.symbol)
  if (!known.security || legs.some((leg) => !leg.security)) return undefined
  const { side, orderQty } = order
  const entry = order.legs ? 0 : reckonedPrice(order, known)
  if (entry === undefined) return undefined
  const isPlain = !order.legs && !isOption(order.symbol)
  const isCover = () =>
    isWritten(book, underlying) || (side === 'Sell' && writesPending(book.working, underlying))
  if (isPlain && !isCover()) return undefined
  const moves = order.legs
    ? order.legs.map(({ symbol, legSide, legRatioQty }) => ({
        symbol,
        quantity: directionOf(legSide) * legRatioQty * orderQty,
        priceE4: dealtAt(legSide, priceOf(symbol)),
      }))
    : [{ symbol: order.symbol, quantity: directionOf(side) * orderQty, priceE4: toE4(entry) }]
  const needs = needsOf(book, underlying, moves, priceOf, pendingMoves(book.working, underlying))
  let { moneyE4 } = needs
  if (order.legs && order.price !== undefined) {
    // At the market, or at its own net price where that is better.
    const net = netE4(order.legs, ({ symbol, legSide }) => dealtAt(legSide, priceOf(symbol)))
    const spared = Math.max(0, net - toE4(order.price)) * CONTRACT_MULTIPLIER * orderQty
    moneyE4 -= converted(spared, priceOf(underlying))
  }
  const opens = needs.level > needs.levelBefore || moneyE4 > 0
  return {
    moneyE4,
    commissionE4: needs.commissionE4,
    freeE4,
    level: needs.level,
    allowed: book.rules.optionLevel,
    opens,
  }
}
