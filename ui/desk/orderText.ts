import { decimal, priceText } from '@/core/market/money'
import { isOption } from '@/core/options/osi'
import { contractText, netText } from '@/core/options/words'
import { type Leg } from '@/core/orders/legs'
import { type Order, type TimeInForce } from '@/core/orders/model'

/** Kind and prices of an order: "Limit 48.21", "StopLimit 47.10, limit 47.00". */
export function kindText({
  ordType,
  stopPx,
  price,
  trail,
  timeInForce,
  expireDate,
}: Pick<Order, 'ordType' | 'stopPx' | 'price' | 'trail' | 'expireDate'> & {
  timeInForce?: TimeInForce
}): string {
  const lasting =
    timeInForce === 'AtTheOpening'
      ? ' at the opening'
      : timeInForce === 'AtTheClose'
        ? ' at the close'
        : expireDate
          ? `, until ${expireDate}`
          : ''
  if (trail) {
    const behind = 'percent' in trail ? `${decimal(trail.percent)} %` : priceText(trail.amount)
    return `${ordType} ${behind} behind${stopPx ? `, now ${priceText(stopPx)}` : ''}${lasting}`
  }
  if (stopPx && price) return `${ordType} ${priceText(stopPx)}, limit ${priceText(price)}${lasting}`
  const level = stopPx ?? price
  return `${level ? `${ordType} ${priceText(level)}` : ordType}${lasting}`
}

/** Legs in words: "write 17 Apr 26 12.00 put, buy 2 17 Apr 26 11.00 put". */
const legsText = (legs: readonly Leg[]): string =>
  legs
    .map(({ symbol, legSide, legRatioQty }) => {
      const side = { Buy: 'buy', Sell: 'sell', SellShort: 'write' }[legSide]
      return `${side} ${legRatioQty > 1 ? `${legRatioQty} ` : ''}${isOption(symbol) ? contractText(symbol) : symbol}`
    })
    .join(', ')

/** What a multi-leg order asks for: "2 together: …, receives 0.30". */
function wholeText({ orderQty, legs, price, role, text }: Order): string {
  if (role === 'Exercise') return text ?? 'ended'
  const net = price === undefined ? 'at the market' : netText(price)
  return `${decimal(orderQty, 0)} together: ${legsText(legs!)}; ${net}`
}

/** An order in words: "Buy 124 Limit 48.21". */
export const orderText = (order: Order): string =>
  order.role === 'Split'
    ? `${order.side === 'Buy' ? 'received' : 'owes'} ${decimal(order.orderQty, 0)} more, ${order.text}`
    : order.legs
      ? wholeText(order)
      : `${order.side === 'SellShort' ? 'Sell short' : order.side} ${decimal(order.orderQty, 0)} ${kindText(order)}`
