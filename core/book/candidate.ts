import { type Candidate, type MarketNow, UNKNOWN_MARKET } from '../market/candidate'
import { dayNumber } from '../market/figures'
import { fromE4 } from '../market/money'
import { isOption, multiplierOf } from '../options/osi'
import { boundsOf, firstExpiry } from '../options/payoff'
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
  {
    at,
    date,
    known,
    market = UNKNOWN_MARKET,
    exits = true,
    daysToReport = NaN,
  }: {
    at: number
    date: string
    known: boolean
    market?: MarketNow
    /** False where nothing asks what lies between the entry and its exits: that is not reckoned then. */
    exits?: boolean
    /** To the next report of the company; unknown where left out. */
    daysToReport?: number
  },
): Candidate {
  const today = lately.date === date ? lately : noneLately()
  // One that is known already is not the same as itself.
  const since = known ? undefined : today.same[sameKey(order)]
  const own = order.legs ? wholeFigures(order, facts) : figures(order, facts, exits)
  // Written out: an object that is put together of others costs more than all that is reckoned for it.
  return {
    'order quantity': order.orderQty,
    'order value': own['order value'],
    'price away': own['price away'],
    'quoted spread': own['quoted spread'],
    'quoted middle': own['quoted middle'],
    'order loss': own['order loss'],
    'net credit': own['net credit'],
    'return on risk': own['return on risk'],
    'days to expiry': daysToExpiry(order, date),
    'entries today': Math.max(0, (today.entries[order.symbol] ?? 0) - (known ? 1 : 0)),
    'orders this minute': countInMinute(lately, at),
    'minutes since same': since === undefined ? Infinity : (at - since) / 60_000,
    breadth: market.breadth,
    'slow breadth': market['slow breadth'],
    'advancing share': market['advancing share'],
    'market lean': market['market lean'],
    'days to report': daysToReport,
  }
}

type Figures = Pick<
  Candidate,
  | 'order value'
  | 'price away'
  | 'quoted spread'
  | 'quoted middle'
  | 'order loss'
  | 'net credit'
  | 'return on risk'
>

function daysToExpiry({ symbol, legs }: NewOrder, date: string): number {
  if (!legs && !isOption(symbol)) return NaN
  const expiry = firstExpiry(legs ? legs.map((leg) => leg.symbol) : [symbol])
  return expiry === undefined ? NaN : dayNumber(expiry) - dayNumber(date)
}

const apart = (bid = NaN, ask = NaN): number => (100 * (ask - bid)) / ((ask + bid) / 2)

function figures(order: NewOrder, facts: OrderFacts, exits: boolean): Figures {
  const { last = NaN, bid, ask, rate = 1 } = facts
  const entry = reckonedPrice(order, facts) ?? NaN
  const worth = multiplierOf(order.symbol) * rate
  const typed = order.price ?? order.stopPx
  const moved = exits ? movedTo(order, facts, entry) : NOTHING_KNOWN
  const loss = facts.security?.option && order.side === 'Buy' ? order.orderQty * entry : moved.stop
  return {
    'order value': order.orderQty * entry * worth,
    'price away': typed === undefined ? 0 : Math.abs(100 * (typed / last - 1)),
    'quoted spread': apart(bid, ask),
    'quoted middle': bid === undefined || ask === undefined ? NaN : (bid + ask) / 2,
    // What is lost between entry and stop; all of it of a bought contract.
    'order loss': loss * worth,
    'net credit': NaN,
    // What is gained at the targets, in percent of what is lost at the stops.
    'return on risk': (100 * moved.target) / loss,
  }
}

const NOTHING_KNOWN = { stop: NaN, target: NaN }

/** What lies between entry and the exits of each kind, in the price's unit; NaN where a part has none. */
function movedTo(
  order: NewOrder,
  { security }: Pick<OrderFacts, 'security'>,
  entry: number,
): { stop: number; target: number } {
  const parts = order.exits ? partsOf(order.exits) : []
  if (parts.length === 0 || !security) return { stop: NaN, target: NaN }
  const quantities = shareOut(parts, order.orderQty, security.lot)
  const multiplier = multiplierOf(order.symbol)
  let [lost, gained] = [0, 0]
  parts.forEach((part, i) => {
    const { stop = NaN, target = NaN } = exitPrices(part, {
      ...{ side: order.side, reference: entry, bands: security.increments },
      quantity: quantities[i] * multiplier,
    })
    lost += quantities[i] * Math.abs(entry - stop)
    gained += quantities[i] * Math.abs(entry - target)
  })
  return { stop: lost, target: gained }
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
  // Bought at the asks of what is bought and the bids of what is sold; or at its own price where that is better.
  const net = order.price === undefined ? ask : Math.min(order.price, ask)
  const bounds = Number.isNaN(ask) ? undefined : boundsOf(order.legs!, net)
  return {
    'order value': value * rate,
    'price away': order.price === undefined ? 0 : Math.abs((100 * (order.price - middle)) / middle),
    'quoted spread': Math.abs((100 * (ask - bid)) / middle),
    'quoted middle': middle,
    'order loss': needs ? Math.max(0, fromE4(needs.moneyE4)) : NaN,
    'net credit': 0 - net,
    'return on risk':
      bounds && Number.isFinite(bounds.gain + bounds.loss) ? (100 * bounds.gain) / bounds.loss : NaN,
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
