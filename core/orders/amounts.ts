import { fromE4, toE4 } from '../market/money'
import { type Drafted } from './draft'

/** Sum of amounts in currency units, added in whole ten-thousandths. */
export const sum = (amounts: Iterable<number>): number => {
  let e4 = 0
  for (const amount of amounts) e4 += toE4(amount)
  return fromE4(e4)
}

/** Profit of a position since the session began: what is open and what was closed, in currency units. */
export const profitOf = (position: { unrealized: number; realizedToday: number }): number =>
  sum([position.unrealized, position.realizedToday])

/** What an order comes to at what it was filled at, or at its own price; 0 where neither is known. */
export const costOf = (order: {
  orderQty: number
  avgPx?: number
  price?: number
  stopPx?: number
}): number => fromE4(order.orderQty * toE4(order.avgPx || order.price || order.stopPx || 0))

/** What several drafts take, sales left out, in currency units. */
export const totalCost = (drafts: Iterable<Drafted>): number => {
  const costs: number[] = []
  for (const { order, cost } of drafts) if (order.side !== 'Sell') costs.push(cost)
  return sum(costs)
}
