import { type Book, sharesOf } from '../book/book'
import { freeFor, type PriceOf } from '../book/value'
import { type Working } from '../book/working'
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
  const closes = order.side === 'Sell' || order.role !== 'Entry'
  if (closes)
    return {
      quantity: Math.max(0, order.side === 'Buy' ? -held : held),
      why: 'nothing is held any more that it would close',
    }
  if (order.side === 'SellShort' && held > 0)
    return { quantity: 0, why: `${held} are held long by now, which a short sale would cross` }
  const opening = openingQuantity(held, directionOf(order.side) * fill.quantity)
  if (opening === 0) return { quantity: fill.quantity, why: '' }
  const freeE4 = freeFor(book, order, priceOf, date)
  const affordable = Math.floor(Math.max(0, freeE4) / initialMarginE4(fill.priceE4, initialShare(book.rules)))
  return {
    quantity: fill.quantity - opening + Math.min(opening, affordable),
    why: `the buying power does not reach for more at ${priceText(fromE4(fill.priceE4))}`,
  }
}
