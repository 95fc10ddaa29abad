import { type Book, sharesOf } from '../book/book'
import { isWritten } from '../book/needs'
import { freeFor, type PriceOf } from '../book/value'
import { converted } from '../book/sums'
import { findWorking, type Working } from '../book/working'
import { isOption, underlyingOf } from '../options/osi'
import { fromE4, priceText } from '../market/money'
import { directionOf } from '../orders/levels'
import { commissionE4, initialMarginE4, initialShare, openingQuantity } from '../orders/margin'
import { affordable } from './afford'
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
    if (!isWritten(book, underlyingOf(order.symbol))) return { quantity: most, why }
    // It must not uncover what is written.
    const quantity = Math.min(fill.quantity, most)
    const may = byNeeds(book, order, { ...fill, quantity }, priceOf, date)
    return may.quantity < quantity ? may : { quantity, why }
  }
  if (order.side === 'SellShort' && held > 0)
    return { quantity: 0, why: `${held} are held long by now, which a short sale would cross` }
  if (isOption(order.symbol)) return byNeeds(book, order, fill, priceOf, date)
  const opening = openingQuantity(held, directionOf(order.side) * fill.quantity)
  if (opening === 0) return { quantity: fill.quantity, why: '' }
  const freeE4 = freeFor(book, order, priceOf, date)
  const eachE4 =
    initialMarginE4(converted(fill.priceE4, priceOf(order.symbol)), initialShare(book.rules)) +
    commissionE4(order.symbol, 1)
  const affordable = Math.floor(Math.max(0, freeE4) / eachE4)
  return {
    quantity: fill.quantity - opening + Math.min(opening, affordable),
    why: `the buying power does not reach for more at ${priceText(fromE4(fill.priceE4))}`,
  }
}

/** The same by what options need then: of contracts, and of shares that cover some. */
function byNeeds(
  book: Book,
  { symbol, side, orderId }: Working,
  { quantity, priceE4 }: Fill,
  priceOf: PriceOf,
  date: string,
): { quantity: number; why: string } {
  const keptE4 = findWorking(book.working, symbol, orderId)?.keptE4 ?? 0
  const movesOf = (count: number) => [{ symbol, quantity: directionOf(side) * count, priceE4 }]
  return affordable(book, { underlying: underlyingOf(symbol), quantity, movesOf, keptE4 }, priceOf, date)
}
