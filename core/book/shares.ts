import { type Working } from './working'

/** Shares of a security that working orders would close already; a stop and target pair counts once. */
export function promisedShares(working: readonly Working[], side: 'Sell' | 'Buy'): number {
  const pairs = new Map<string, number>()
  for (const order of working) {
    // Exits of a short position rest beside what is bought by hand; each fill shrinks them.
    if (order.pending || order.side !== side || (side === 'Buy' && order.role !== 'Entry')) continue
    pairs.set(order.group, Math.max(pairs.get(order.group) ?? 0, order.leavesQty))
  }
  let sum = 0
  for (const quantity of pairs.values()) sum += quantity
  return sum
}

/** Shares that working orders would sell short. */
export const offeredShort = (working: readonly Working[]): number =>
  working.reduce((sum, order) => (order.side === 'SellShort' ? sum + order.leavesQty : sum), 0)
