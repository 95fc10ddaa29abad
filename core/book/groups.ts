import { fromE4 } from '../market/money'
import { multiplierOf } from '../options/osi'
import { type GroupView } from '../orders/views'
import { type Book } from './book'
import { type PriceOf } from './sums'

interface Held {
  quantity: number
  costE4: number
}

/** What is held of each security by the lots of each group. */
function heldByGroup(book: Book): Map<string, Map<string, Held>> {
  const groups = new Map<string, Map<string, Held>>()
  for (const name in book.groups) groups.set(name, new Map())
  for (const { symbol, lots } of Object.values(book.holdings))
    for (const { group, quantity, priceE4 } of lots) {
      const held = group === undefined ? undefined : groups.get(group)
      if (!held) continue
      const sum = held.get(symbol) ?? { quantity: 0, costE4: 0 }
      sum.quantity += quantity
      sum.costE4 += quantity * priceE4 * multiplierOf(symbol)
      held.set(symbol, sum)
    }
  return groups
}

/** Every group of orders as one line: what is held of it, and its profit, realized and not. */
export function groupsOf(book: Book, priceOf: PriceOf): GroupView[] {
  return [...heldByGroup(book)].map(([group, held]) => {
    const { realizedE4, commissionE4 } = book.groups[group]
    let unrealizedE4 = 0
    const legs = [...held].map(([symbol, { quantity, costE4 }]) => {
      const multiplier = multiplierOf(symbol)
      const lastE4 = priceOf(symbol).last
      const openE4 = quantity * lastE4 * multiplier - costE4
      unrealizedE4 += openE4
      const avgPx = Math.round(costE4 / quantity / multiplier) / 10_000
      return { symbol, quantity, avgPx, last: fromE4(lastE4), unrealized: fromE4(openE4) }
    })
    return {
      ...{ group, legs, unrealized: fromE4(unrealizedE4), realized: fromE4(realizedE4) },
      commission: fromE4(commissionE4),
      profit: fromE4(unrealizedE4 + realizedE4 - commissionE4),
    }
  })
}
