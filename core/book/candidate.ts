import { type Candidate } from '../market/candidate'
import { fromE4 } from '../market/money'
import { multiplierOf } from '../options/osi'
import { type OrderFacts, reckonedPrice } from '../orders/check'
import { partsOf, shareOut } from '../orders/exits'
import { gateFindings } from '../orders/gates'
import { exitPrices } from '../orders/levels'
import { type NewOrder } from '../orders/model'
import { type Book, isOpeningIn } from './book'
import { countInMinute, noneLately, sameKey } from './lately'

/** An order as gates ask about it, at a moment of a session; `known` where it was taken already. Amounts in the account's currency. */
export function candidateOf(
  { lately }: Pick<Book, 'lately'>,
  order: NewOrder,
  facts: OrderFacts,
  { at, date, known }: { at: number; date: string; known: boolean },
): Candidate {
  const today = lately.date === date ? lately : noneLately()
  // One that is known already is not the same as itself.
  const since = known ? undefined : today.same[sameKey(order)]
  return {
    ...(order.legs ? wholeFigures(order, facts) : figures(order, facts)),
    'order quantity': order.orderQty,
    'entries today': Math.max(0, (today.entries[order.symbol] ?? 0) - (known ? 1 : 0)),
    'orders this minute': countInMinute(lately, at),
    'minutes since same': since === undefined ? Infinity : (at - since) / 60_000,
  }
}

type Figures = Pick<Candidate, 'order value' | 'price away' | 'quoted spread' | 'order loss'>

const apart = (bid = NaN, ask = NaN): number => (100 * (ask - bid)) / ((ask + bid) / 2)

function figures(order: NewOrder, facts: OrderFacts): Figures {
  const { last = NaN, bid, ask, rate = 1 } = facts
  const entry = reckonedPrice(order, facts) ?? NaN
  const worth = multiplierOf(order.symbol) * rate
  const typed = order.price ?? order.stopPx
  return {
    'order value': order.orderQty * entry * worth,
    'price away': typed === undefined ? 0 : Math.abs(100 * (typed / last - 1)),
    'quoted spread': apart(bid, ask),
    'order loss': lossOf(order, facts, entry) * worth,
  }
}

/** What is lost between entry and stop, in the price's unit; all of it of a bought contract. */
function lossOf(order: NewOrder, { security }: OrderFacts, entry: number): number {
  if (security?.option && order.side === 'Buy') return order.orderQty * entry
  const parts = order.exits ? partsOf(order.exits) : []
  if (parts.length === 0 || !security) return NaN
  const quantities = shareOut(parts, order.orderQty, security.lot)
  return parts.reduce((sum, part, i) => {
    const terms = { side: order.side, reference: entry, bands: security.increments }
    const { stop = NaN } = exitPrices(part, {
      ...terms,
      quantity: quantities[i] * multiplierOf(order.symbol),
    })
    return sum + quantities[i] * Math.abs(entry - stop)
  }, 0)
}

function wholeFigures(order: NewOrder, { legs: known = [], needs, rate = 1 }: OrderFacts): Figures {
  let [value, bid, ask] = [0, 0, 0]
  order.legs!.forEach(({ symbol, legSide, legRatioQty }, i) => {
    const leg = known[i] ?? {}
    const [low, high] = [leg.bid ?? NaN, leg.ask ?? NaN]
    const units = legRatioQty * (multiplierOf(symbol) / 100)
    value += order.orderQty * legRatioQty * multiplierOf(symbol) * (legSide === 'Buy' ? high : low)
    bid += units * (legSide === 'Buy' ? low : -high)
    ask += units * (legSide === 'Buy' ? high : -low)
  })
  const middle = (bid + ask) / 2
  return {
    'order value': value * rate,
    'price away': order.price === undefined ? 0 : Math.abs((100 * (order.price - middle)) / middle),
    'quoted spread': Math.abs((100 * (ask - bid)) / middle),
    'order loss': needs ? Math.max(0, fromE4(needs.moneyE4)) : NaN,
  }
}

/** Facts with what the gates of the account find of an order; those that open nothing they do not ask about. */
export function withGates(
  book: Book,
  order: NewOrder,
  facts: OrderFacts,
  about: { at: number; date: string; known: boolean },
): OrderFacts {
  if (book.gates.length === 0 || !facts.security || !isOpeningIn(book, order)) return facts
  return {
    ...facts,
    gates: gateFindings(book.gates, candidateOf(book, order, facts, about), facts.currency),
  }
}
