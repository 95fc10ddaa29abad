import { type Broker } from '@/client'
import { closingOrder, unitsIn } from '@/core/engine/whole'
import { type Leg } from '@/core/orders/legs'
import { isWorking, type NewOrder, type Order } from '@/core/orders/model'
import { sentFor } from '@/core/plans/ids'
import { underlyingOf } from '@/core/options/osi'

/** From what the account, or a part of it, stands down. */
export type Scope = { all: true } | { symbol: string } | { plan: string; name: string; place: Place }

/** Where a plan runs: in this browser, or by the command line on this machine. */
export type Place = 'browser' | 'command line'

/** One word for a choice. */
export const scopeKey = (scope: Scope): string =>
  'all' in scope ? 'all' : 'symbol' in scope ? `symbol ${scope.symbol}` : `plan ${scope.plan}`

export const scopeText = (scope: Scope): string =>
  'all' in scope
    ? 'everything'
    : 'symbol' in scope
      ? `${scope.symbol} alone`
      : `the plan ${scope.name} alone${scope.place === 'browser' ? '' : ' (command line)'}`

/** Whether an order is of what is stood down from. */
export function isOf(scope: Scope, { symbol, origin }: Pick<Order, 'symbol' | 'origin'>): boolean {
  if ('all' in scope) return true
  return 'symbol' in scope
    ? symbol === scope.symbol || underlyingOf(symbol) === scope.symbol
    : sentFor(origin)?.planId === scope.plan
}

/** What standing down from a plan came to. */
interface Done {
  canceled: string[]
  closing: string[]
  left: string[]
}

/**
 * Takes back the entries of a plan that is stopped, and closes what it held where that is wanted; what could not be done is told
 * with its reason.
 */
export async function endPlanAt(
  broker: Broker,
  planId: string,
  held: Readonly<Record<string, number>>,
): Promise<Done> {
  const done: Done = { canceled: [], closing: [], left: [] }
  const attempt = async (what: string, act: () => Promise<unknown>, list: string[]) => {
    try {
      await act()
      list.push(what)
    } catch (error) {
      done.left.push(`${what}: ${(error as Error).message}`)
    }
  }
  for (const { clOrdId, origin, ordStatus } of await broker.orders('working')) {
    const own = sentFor(origin)
    if (own?.planId === planId && own.role === 'entry' && isWorking(ordStatus))
      await attempt(clOrdId, () => broker.cancel(clOrdId), done.canceled)
  }
  const legsOf = await legsOpened(broker, planId, Object.keys(held))
  const there = new Map(
    legsOf.size > 0 ? (await broker.positions()).map((one) => [one.symbol, one.quantity]) : [],
  )
  for (const [symbol, quantity] of Object.entries(held)) {
    const clOrdId = `stand-down-${planId.slice(0, 20)}-${symbol}-${Date.now()}`
    const legs = legsOf.get(symbol)
    const units = legs
      ? Math.min(
          Math.abs(quantity),
          unitsIn((one) => there.get(one) ?? 0, legs),
        )
      : 0
    const order: NewOrder = legs
      ? closingOrder(legs, { clOrdId, symbol, orderQty: units, origin: undefined })
      : {
          ...{ clOrdId, symbol, side: quantity > 0 ? 'Sell' : 'Buy', orderQty: Math.abs(quantity) },
          ...{ ordType: 'Market', timeInForce: 'Day', positionEffect: 'Close' },
        }
    if (legs && units === 0) done.left.push(`${symbol}: its contracts are not held any more.`)
    else await attempt(clOrdId, () => broker.send({ ...order, text: 'stand down' }), done.closing)
  }
  return done
}

/** Contracts that a plan opened together, by the security that they are of: as its last filled entry has them. */
async function legsOpened(
  broker: Broker,
  planId: string,
  symbols: readonly string[],
): Promise<Map<string, readonly Leg[]>> {
  const out = new Map<string, readonly Leg[]>()
  if (symbols.length === 0) return out
  for (const { symbol, legs, cumQty, origin } of await broker.orders('all')) {
    const own = sentFor(origin)
    if (own?.planId === planId && own.role === 'entry' && legs && cumQty > 0) out.set(symbol, legs)
  }
  return out
}
