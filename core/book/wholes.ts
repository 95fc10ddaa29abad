import { toE4 } from '../market/money'
import { type Leg } from '../orders/legs'
import { isWorking, type Order } from '../orders/model'
import { numberOf, type Working, workingOf } from './working'

/** A multi-leg order that may still trade. Amounts in whole ten-thousandths. */
export interface Whole {
  orderId: string
  number: number
  /** Underlying of all its legs. */
  symbol: string
  legs: readonly Leg[]
  leavesQty: number
  /** Net price that it never trades worse than; undefined at the market. */
  limitE4: number | undefined
  atOnce: Working['atOnce']
}

/** Multi-leg orders that may still trade, by their id. */
export type WholeBook = Record<string, Whole>

/** The compact form of a multi-leg order. */
const wholeOf = (order: Order, legs: readonly Leg[]): Whole => ({
  ...{ orderId: order.orderId, number: numberOf(order.orderId), symbol: order.symbol, legs },
  leavesQty: order.leavesQty,
  limitE4: order.price === undefined ? undefined : toE4(order.price),
  atOnce: workingOf(order).atOnce,
})

/** Puts a multi-leg order as it stands now among those that work, or takes it out. */
export function indexWhole(index: WholeBook, order: Order): void {
  if (!order.legs) return
  if (isWorking(order.ordStatus)) index[order.orderId] = wholeOf(order, order.legs)
  else delete index[order.orderId]
}

/**
 * A multi-leg order among those of each of its legs: it promises what its legs sell and buy, and trades with the others or
 * not at all. What is kept for it stands with the first.
 */
export function legsAsWorking(whole: Working, legs: readonly Leg[]): Working[] {
  return legs.map(({ symbol, legSide, legRatioQty }, i) => ({
    ...whole,
    ...{ symbol, side: legSide, role: 'Leg', limitE4: 0, stopE4: 0, pending: true },
    leavesQty: whole.leavesQty * legRatioQty,
    keptE4: i === 0 ? whole.keptE4 : 0,
  }))
}
