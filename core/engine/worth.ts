import { contractsHeld } from '../book/needs'
import { fromE4 } from '../market/money'
import { multiplierOf, underlyingOf } from '../options/osi'
import { pricesOf, type Shared } from './shared'
import { type Prepared } from './prepare'
import { type PlanState } from './state'

/** What an account and a plan have in securities, as limits are measured. */

/** What holdings and what is wanted of a security are worth, in currency units of the account. */
export function worthOf(shared: Shared, symbol: string, quantity: number): number {
  if (quantity === 0) return 0
  // What was never quoted is worth what it has cost.
  const last = shared.quotes[symbol]?.last ?? (fromE4(pricesOf(shared)(symbol).last) || NaN)
  return Math.abs(quantity) * last * multiplierOf(symbol) * (shared.listed[symbol]?.rate ?? 1)
}

/** What contracts of an underlying that the account holds are worth. */
export function contractsOf(shared: Shared, underlying: string): number {
  let sum = 0
  for (const symbol of contractsHeld(shared.book))
    if (underlyingOf(symbol) === underlying)
      sum += worthOf(shared, symbol, shared.book.holdings[symbol].quantity)
  return sum
}

/** What the plan holds, and what of its entries is still to be filled. */
function exposureOf({ held, working, orders }: PlanState, shared: Shared): number {
  let sum = 0
  for (const symbol in held) {
    const { quantity, unitE4 } = held[symbol]
    sum += unitE4 === undefined ? worthOf(shared, symbol, quantity) : fromE4(unitE4 * quantity)
  }
  for (const symbol in working)
    for (const id of working[symbol]) {
      if (orders[id].role !== 'entry') continue
      const { orderId, unitE4 } = orders[id]
      const left =
        orderId === undefined ? shared.pending[id]?.orderQty : shared.book.orders[orderId]?.leavesQty
      sum += unitE4 === undefined ? worthOf(shared, symbol, left ?? 0) : fromE4(unitE4 * (left ?? 0))
    }
  return sum
}

/** Sums over all that the plan holds hold for so long while nothing of it changes, milliseconds. */
const SUMS_LAST = 1000

/** Sums over everything of the plan, so that one more look costs the same however much it holds. */
export function sumsOf(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  at: number,
): NonNullable<Prepared['sums']> {
  const { sums } = prepared
  if (sums && Math.abs(at - sums.at) < SUMS_LAST) return sums
  let [entries, takenE4] = [0, 0]
  for (const symbol in state.entries) entries += state.entries[symbol]
  for (const symbol in state.takenE4) takenE4 += state.takenE4[symbol]
  return (prepared.sums = { at, exposure: exposureOf(state, shared), entries, takenE4 })
}
