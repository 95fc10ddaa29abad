import { localDate } from '../market/venue'
import { type NewOrder } from '../orders/model'
import { type Seen } from '../plans/seen'
import { originOf, planOrderId } from '../plans/ids'
import { clockOf } from './clock'
import { type Intent, type Paired, type Want } from './events'
import { setWorks } from './reports'
import { heldOf, reserve, type Shared } from './shared'
import { type Miss } from './nearestMiss'
import { type Prepared } from './prepare'
import { type OwnOrder, type PlanState } from './state'
import { leavingAt } from './unfilled'
import { type Note, type Trace } from './verdicts'
import { closingOrder, keptE4, unitsHeld } from './whole'

/** What one event comes to. */
export interface Outcome {
  traces: Trace[]
  intents: Intent[]
  notes: Note[]
  /** A look that came nearer to an order than any before. */
  misses: Miss[]
  /** What the seen book holds anew. */
  seen: { key: string; entry: Seen }[]
}

/** What one event is stepped with. */
export interface Stepping {
  prepared: Prepared
  state: PlanState
  shared: Shared
  at: number
  out: Outcome
}

export function say({ prepared: { plan }, at, out }: Stepping, want: Want): void {
  out.intents.push({ planId: plan.id, version: plan.version, at, ...want })
}

/** Wants to send an order: it is known, and kept back in the account, from now on. */
export function wantOrder(
  stepping: Stepping,
  role: OwnOrder['role'],
  order: NewOrder,
  counted = false,
  paired: Paired = {},
): void {
  const { state, shared, at } = stepping
  const { clOrdId, symbol } = order
  const own: OwnOrder = { symbol, role, works: true, ...(counted ? { counted } : {}) }
  const price = order.stopPx ?? order.price
  if (price !== undefined) own.price = price
  if (order.legs) {
    own.legs = order.legs
    if (role === 'entry') own.unitE4 = Math.round(keptE4(shared, order, at) / order.orderQty)
  }
  stepping.prepared.sums = undefined
  state.orders[clOrdId] = own
  setWorks(state, clOrdId, own, true)
  reserve(shared, order, at, (own.unitE4 ?? 0) * order.orderQty)
  say(stepping, { is: 'send', role, order, ...paired })
}

/** Closes what the plan holds of a security, and of its mate; true where that is wanted or was. */
export function closeBoth(stepping: Stepping, side: number, symbol: string, signal: string): boolean {
  const mate = stepping.prepared.sides[side].mates.get(symbol)
  const other = mate !== undefined && closeHeld(stepping, mate, signal)
  return closeHeld(stepping, symbol, signal) || other
}

const MARKET = { ordType: 'Market' } as const

/** So long after a way out has ended with something left it is tried again, milliseconds. */
const AGAIN = 60_000
const MOST_TIMES = 100

/**
 * Closes what the plan holds of a security; true where that is wanted or was. Once for each signal: where the order ends with
 * something left, another follows it a little later, until nothing is. While the venue is closed it is only noted. `atMarket`: whatever limit the plan leaves at.
 */
export function closeHeld(stepping: Stepping, symbol: string, signal: string, atMarket = false): boolean {
  const { prepared, state, shared, at } = stepping
  const { plan, listed } = prepared
  const { quantity = 0, legs } = state.held[symbol] ?? {}
  if (quantity === 0) return false
  // One way out at a time: what works already closes all of it.
  if (state.working[symbol]?.some((id) => state.orders[id].role === 'out')) return true
  const parts = { planId: plan.id, symbol, date: localDate(listed[symbol].venue, at), leg: 0 }
  const found = freeId(state, parts, signal, at)
  if (!found) return true
  // Never more than the account holds: a hand may have closed some.
  const held = legs ? unitsHeld(shared.book, legs) : Math.abs(heldOf(shared, symbol))
  if (held === 0) return false
  state.leaving[symbol] = signal
  // A bar that ends with the session is judged once the venue has closed, where nothing trades: it is left with the next open.
  if (clockOf(listed[symbol].venue).at(at).state !== 'Open') return true
  const origin = originOf(plan, 'out', found.signal)
  const orderQty = Math.min(Math.abs(quantity), held)
  const order: NewOrder = legs
    ? closingOrder(legs, { clOrdId: found.clOrdId, symbol, orderQty, origin })
    : {
        ...{ clOrdId: found.clOrdId, symbol, side: quantity > 0 ? 'Sell' : 'Buy' },
        ...(atMarket ? MARKET : leavingAt(stepping, symbol, found.waited)),
        ...{ timeInForce: 'Day', orderQty, positionEffect: 'Close', origin },
      }
  wantOrder(stepping, 'out', order)
  return true
}

/**
 * The id of the next order for a signal: the first that is free, or was refused; undefined while the last has only just ended.
 * `waited`: one of those before has waited at its limit in vain.
 */
function freeId(
  { orders }: PlanState,
  parts: Omit<Parameters<typeof planOrderId>[0], 'signal' | 'role'>,
  first: string,
  at: number,
): { clOrdId: string; signal: string; waited: boolean } | undefined {
  let waited = false
  for (let times = 1; times <= MOST_TIMES; times++) {
    const signal = times === 1 ? first : `${first} again ${times}`
    const clOrdId = planOrderId({ ...parts, signal, role: 'out' })
    const before = orders[clOrdId]
    if (!before) return { clOrdId, signal, waited }
    if (before.works || before.endedAt === undefined) return undefined
    waited ||= before.over === true
    if (at - before.endedAt < AGAIN && !before.over) return undefined
    if (before.refused) return { clOrdId, signal, waited }
  }
  return undefined
}
