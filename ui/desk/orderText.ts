import { decimal, priceText } from '@/core/market/money'
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

/** An order in words: "Buy 124 Limit 48.21". */
export const orderText = (order: Order): string =>
  `${order.side === 'SellShort' ? 'Sell short' : order.side} ${decimal(order.orderQty, 0)} ${kindText(order)}`
