import { contractsHeld } from '../book/needs'
import { type Working } from '../book/working'
import { fromE4, toE4 } from '../market/money'
import { isOption, multiplierOf, underlyingOf } from '../options/osi'
import { pricesOf, type Shared, withPending } from './shared'
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

/**
 * Most that the account may come to hold of a security, in currency units: what it holds, and what its working and just-sent orders
 * would open of it and of its contracts, whoever sent them. Orders of both sides never add up: the larger side counts.
 */
export function boundOf(shared: Shared, underlying: string): number {
  const { working, holdings } = withPending(shared)
  let sum = mayHold(shared, underlying, holdings[underlying]?.quantity ?? 0, working[underlying])
  const contracts = new Set(contractsHeld(shared.book))
  for (const symbol in working) if (isOption(symbol)) contracts.add(symbol)
  for (const symbol of contracts)
    if (underlyingOf(symbol) === underlying)
      sum += mayHold(shared, symbol, holdings[symbol]?.quantity ?? 0, working[symbol])
  return sum
}

function mayHold(shared: Shared, symbol: string, held: number, working: readonly Working[] = []): number {
  let [bought, sold] = [0, 0]
  for (const { side, closes, leavesQty } of working)
    if (!closes) {
      if (side === 'Buy') bought += leavesQty
      else sold += leavesQty
    }
  return worthOf(shared, symbol, Math.max(Math.abs(held), held + bought, sold - held))
}

/** What the plan would lose if it left what it holds at the last prices, in e4 of the account; gains count against it. */
export function openLossE4({ held }: PlanState, shared: Shared): number {
  let lossE4 = 0
  for (const symbol in held) {
    const { quantity, costE4, legs } = held[symbol]
    if (quantity === 0 || legs) continue
    lossE4 += costE4 - Math.sign(quantity) * toE4(worthOf(shared, symbol, quantity))
  }
  return lossE4
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
