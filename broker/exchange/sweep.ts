import { type Order } from '@/core/orders/model'
import { toE4 } from '@/core/market/money'
import { type Quote } from '../market/market'

/** A part of an order that trades: shares at a price in ten-thousandths. */
export interface Fill {
  quantity: number
  priceE4: number
}

const LEVELS = 5

/**
 * What an order takes from the book at a second: the displayed size at the best price, then each step beyond
 * it half as much again, five levels deep, never past its limit. `taken` shares of the best levels are gone
 * already. What is not filled waits for the next second.
 */
export function sweep(
  order: Pick<Order, 'side' | 'leavesQty' | 'ordType' | 'price'>,
  quote: Quote,
  stepE4: number,
  taken = 0,
): Fill[] {
  const buying = order.side === 'Buy'
  const limitE4 = order.ordType === 'Limit' ? toE4(order.price!) : buying ? Infinity : 0
  const fills: Fill[] = []
  let left = order.leavesQty
  let gone = taken
  for (let level = 0; level < LEVELS && left > 0; level++) {
    const priceE4 = buying ? quote.ask + level * stepE4 : quote.bid - level * stepE4
    if (buying ? priceE4 > limitE4 : priceE4 < limitE4 || priceE4 <= 0) break
    const shown = Math.round((buying ? quote.askSize : quote.bidSize) * (1 + level / 2))
    const free = Math.max(0, shown - gone)
    gone = Math.max(0, gone - shown)
    const quantity = Math.min(left, free)
    if (quantity > 0) fills.push({ quantity, priceE4 })
    left -= quantity
  }
  return fills
}

/** True if a Stop order is set off by a last trade. */
export const setsOff = (order: Pick<Order, 'side' | 'stopPx'>, lastE4: number): boolean =>
  order.side === 'Buy' ? lastE4 >= toE4(order.stopPx!) : lastE4 <= toE4(order.stopPx!)

/** True if a bar from `low` to `high`, with the book half a percent around it, might touch a resting order. */
export function mayTouch(
  order: Pick<Order, 'side' | 'ordType' | 'price' | 'stopPx' | 'triggered'>,
  bar: { high: number; low: number },
): boolean {
  if (order.ordType === 'Market' || order.triggered) return true
  const room = Math.round(bar.high * 0.005)
  const priceE4 = toE4((order.ordType === 'Limit' ? order.price : order.stopPx)!)
  return priceE4 >= bar.low - room && priceE4 <= bar.high + room
    ? true
    : order.ordType === 'Limit'
      ? order.side === 'Buy'
        ? priceE4 > bar.low
        : priceE4 < bar.high
      : setsOff(order, order.side === 'Buy' ? bar.high : bar.low)
}
