import { type Prices } from '../book/sums'
import { toE4 } from '../market/money'
import { type Trail } from '../orders/exits'
import { waitsFor, type Working } from '../book/working'

/** What a venue's book shows of a security at a second: prices in whole ten-thousandths, sizes in shares. */
export interface Shown extends Prices {
  bidSize: number
  askSize: number
}

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
  order: Pick<Working, 'side' | 'leavesQty' | 'limitE4'>,
  shown: Shown,
  stepE4: number,
  taken = 0,
): Fill[] {
  const buying = order.side === 'Buy'
  const limitE4 = order.limitE4 > 0 ? order.limitE4 : buying ? Infinity : 0
  const fills: Fill[] = []
  let left = order.leavesQty
  let gone = taken
  for (let level = 0; level < LEVELS && left > 0; level++) {
    const priceE4 = buying ? shown.ask + level * stepE4 : shown.bid - level * stepE4
    if (buying ? priceE4 > limitE4 : priceE4 < limitE4 || priceE4 <= 0) break
    const size = Math.round((buying ? shown.askSize : shown.bidSize) * (1 + level / 2))
    const free = Math.max(0, size - gone)
    gone = Math.max(0, gone - size)
    const quantity = Math.min(left, free)
    if (quantity > 0) fills.push({ quantity, priceE4 })
    left -= quantity
  }
  return fills
}

/** True if a Stop order is set off by a last trade. */
export const setsOff = (order: Pick<Working, 'side' | 'stopE4'>, lastE4: number): boolean =>
  order.side === 'Buy' ? lastE4 >= order.stopE4 : lastE4 <= order.stopE4

/** True if a bar from `low` to `high`, with the book half a percent around it, might touch a resting order. */
export function mayTouch(
  order: Pick<Working, 'side' | 'limitE4' | 'stopE4' | 'triggered' | 'atOnce' | 'trail' | 'auction'>,
  { high, low }: { high: number; low: number },
): boolean {
  if (order.auction !== 'no') return false
  const waits = waitsFor(order)
  if (waits === 'stop' && order.trail) {
    // It may be set off, or be drawn along.
    const best = order.side === 'Buy' ? low : high
    if (Math.abs(best - order.stopE4) >= trailE4(order.trail, best)) return true
  }
  if (waits === 'market' || order.atOnce !== 'no') return true
  const levelE4 = waits === 'stop' ? order.stopE4 : order.limitE4
  const room = Math.round(high * 0.005)
  if (levelE4 >= low - room && levelE4 <= high + room) return true
  if (waits === 'stop') return setsOff(order, order.side === 'Buy' ? high : low)
  return order.side === 'Buy' ? levelE4 > low : levelE4 < high
}

/** How far a trailing stop stays behind a price, in e4, before it is put on a tick. */
const trailE4 = (trail: Trail, priceE4: number): number =>
  'amount' in trail ? toE4(trail.amount) : (priceE4 * trail.percent) / 100
