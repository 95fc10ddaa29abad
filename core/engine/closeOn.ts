import { type ExecutionReport } from '../orders/model'
import { type PlanPrice } from '../plans/entry'
import { originOf, planOrderId } from '../plans/ids'
import { clockOf } from './clock'
import { pricedBy } from './priced'
import { heldOf } from './shared'
import { valueOf } from './prepare'
import { closerOf, pricedOr } from './unfilled'
import { say, type Stepping, wantOrder } from './want'

/** What the broker did not take back is asked for anew after so long, milliseconds. */
const AGAIN = 60_000

/** Takes back what has waited at its limit long enough; what follows is wanted once the broker has told that it is gone. */
export function endWaitingAt(stepping: Stepping, symbol: string): void {
  const { state, at } = stepping
  for (const id of state.working[symbol] ?? []) {
    const own = state.orders[id]
    if (own.until === undefined || at < own.until || own.left) continue
    if (own.takenBackAt !== undefined && at - own.takenBackAt < AGAIN) continue
    own.takenBackAt = at
    say(stepping, { is: 'cancel', symbol, clOrdId: own.clOrdId ?? id })
  }
}

/** What others hold and a limit did not close is closed on; what the plan holds itself is left on elsewhere. */
export function closeOn(stepping: Stepping, report: ExecutionReport): void {
  const { prepared, state, shared, at } = stepping
  const { symbol, orderId, orderQty, cumQty, side } = report
  const first = state.byOrderId[orderId]
  const own = first === undefined ? undefined : state.orders[first]
  if (first === undefined || !own?.over || (state.held[symbol]?.quantity ?? 0) !== 0) return
  const closer = closerOf(prepared, symbol)
  const left = Math.min(orderQty - cumQty, Math.abs(heldOf(shared, symbol)))
  if (!closer?.deed.unfilled || left <= 0) return
  const { plan, listed } = prepared
  const { venue, security } = listed[symbol]
  const signal = `${first} next`
  const parts = { planId: plan.id, symbol, date: clockOf(venue).at(at).date, signal, leg: 0 }
  const clOrdId = planOrderId({ ...parts, role: 'out' })
  if (state.orders[clOrdId]) return
  const price: PlanPrice = closer.deed.unfilled.next === 'Market' ? 'market' : closer.deed.price
  const measure = (text: string) => valueOf(prepared, closer.side, symbol, text)
  wantOrder(stepping, 'out', {
    ...{ clOrdId, symbol, side, orderQty: left },
    ...pricedOr(pricedBy(price, shared.quotes[symbol], security.increments, measure)),
    ...{ timeInForce: 'Day', positionEffect: 'Close', origin: originOf(plan, 'out', signal) },
  })
}
