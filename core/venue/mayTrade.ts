import { type Book, sharesOf } from '../book/book'
import { isWritten, needsOf } from '../book/needs'
import { freeFor, type PriceOf, standing } from '../book/value'
import { converted } from '../book/sums'
import { findWorking, type Working } from '../book/working'
import { isOption, underlyingOf } from '../options/osi'
import { fromE4, priceText } from '../market/money'
import { directionOf } from '../orders/levels'
import { initialMarginE4, initialShare, openingQuantity } from '../orders/margin'
import { type Fill } from './match'

/**
 * How much of a fill an order may take: a close never more than is held, a short sale nothing while shares are held
 * long, and what opens a position as much as there is margin for at the price of the fill. `why` says what holds back the rest.
 */
export function mayTrade(
  book: Book,
  order: Working,
  fill: Fill,
  priceOf: PriceOf,
  date: string,
): { quantity: number; why: string } {
  const held = sharesOf(book, order.symbol)
  if (order.closes) {
    const most = Math.max(0, order.side === 'Buy' ? -held : held)
    const why = 'nothing is held any more that it would close'
    return isWritten(book, underlyingOf(order.symbol))
      ? within(book, order, { ...fill, quantity: Math.min(fill.quantity, most) }, priceOf, date, why)
      : { quantity: most, why }
  }
  if (order.side === 'SellShort' && held > 0)
    return { quantity: 0, why: `${held} are held long by now, which a short sale would cross` }
  if (isOption(order.symbol)) return within(book, order, fill, priceOf, date)
  const opening = openingQuantity(held, directionOf(order.side) * fill.quantity)
  if (opening === 0) return { quantity: fill.quantity, why: '' }
  const freeE4 = freeFor(book, order, priceOf, date)
  const affordable = Math.floor(
    Math.max(0, freeE4) /
      initialMarginE4(converted(fill.priceE4, priceOf(order.symbol)), initialShare(book.rules)),
  )
  return {
    quantity: fill.quantity - opening + Math.min(opening, affordable),
    why: `the buying power does not reach for more at ${priceText(fromE4(fill.priceE4))}`,
  }
}

/** How much of a fill an account may take by what its options need then. */
function within(
  book: Book,
  { symbol, side, orderId }: Working,
  fill: Fill,
  priceOf: PriceOf,
  date: string,
  closed = '',
): { quantity: number; why: string } {
  const own = findWorking(book.working, symbol, orderId)
  const freeE4 = Math.max(0, standing(book, priceOf, date).freeE4 + (own?.keptE4 ?? 0))
  let { quantity } = fill
  while (quantity > 0) {
    const move = { symbol, quantity: directionOf(side) * quantity, priceE4: fill.priceE4 }
    const { moneyE4, level, levelBefore } = needsOf(book, underlyingOf(symbol), [move], priceOf)
    if (level > book.rules.optionLevel && level > levelBefore)
      return { quantity: 0, why: 'what would be held asks for a higher option level by now' }
    if (moneyE4 <= freeE4) break
    quantity = Math.min(quantity - 1, Math.floor((quantity * freeE4) / moneyE4))
  }
  return {
    quantity,
    why: closed || `what is free does not reach for more at ${priceText(fromE4(fill.priceE4))}`,
  }
}
