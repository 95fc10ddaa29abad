import { decimal, priceText } from '@/core/market/money'
import { type Order } from '@/core/orders/model'

/** Kind and prices of an order: "Limit 48.21", "StopLimit 47.10, limit 47.00". */
export function kindText({ ordType, stopPx, price }: Pick<Order, 'ordType' | 'stopPx' | 'price'>): string {
  if (stopPx && price) return `${ordType} ${priceText(stopPx)}, limit ${priceText(price)}`
  const level = stopPx ?? price
  return level ? `${ordType} ${priceText(level)}` : ordType
}

/** An order in words: "Buy 124 Limit 48.21". */
export const orderText = (order: Order): string =>
  `${order.side === 'SellShort' ? 'Sell short' : order.side} ${decimal(order.orderQty, 0)} ${kindText(order)}`
