import { fromE4, halfEven } from '../market/money'
import { multiplierOf } from '../options/osi'
import { type GroupView } from '../orders/views'
import { type Book } from './book'
import { converted, type PriceOf } from './sums'

interface Held {
  quantity: number
  /** A share's price times the quantity, in its own currency. */
  paidE4: number
  costE4: number
}

/** What is held of each security by the lots of each group. */
function heldByGroup(book: Book): Map<string, Map<string, Held>> {
  const groups = new Map<string, Map<string, Held>>()
  for (const name in book.groups) groups.set(name, new Map())
  for (const { symbol, lots } of Object.values(book.holdings))
    for (const { group, quantity, priceE4, rate = 1 } of lots) {
      const held = group === undefined ? undefined : groups.get(group)
      if (!held) continue
      const sum = held.get(symbol) ?? { quantity: 0, paidE4: 0, costE4: 0 }
      sum.quantity += quantity
      sum.paidE4 += quantity * priceE4
      sum.costE4 += halfEven(quantity * priceE4 * multiplierOf(symbol) * rate)
      held.set(symbol, sum)
    }
  return groups
}

/** Every group of orders as one line: what is held of it, and its profit, realized and not. */
export function groupsOf(book: Book, priceOf: PriceOf): GroupView[] {
  return [...heldByGroup(book)].map(([group, held]) => {
    const { realizedE4, commissionE4 } = book.groups[group]
    let unrealizedE4 = 0
    const legs = [...held].map(([symbol, { quantity, paidE4, costE4 }]) => {
      const prices = priceOf(symbol)
      const lastE4 = prices.last
      const openE4 = converted(quantity * lastE4 * multiplierOf(symbol), prices) - costE4
      unrealizedE4 += openE4
      const avgPx = Math.round(paidE4 / quantity) / 10_000
      return { symbol, quantity, avgPx, last: fromE4(lastE4), unrealized: fromE4(openE4) }
    })
    return {
      ...{ group, legs, unrealized: fromE4(unrealizedE4), realized: fromE4(realizedE4) },
      commission: fromE4(commissionE4),
      profit: fromE4(unrealizedE4 + realizedE4 - commissionE4),
    }
  })
}
