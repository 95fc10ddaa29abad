import { type NewOrder } from '../orders/model'
import { type Became, type Seen, seenKey } from '../plans/seen'
import { HOLDS } from '../rules'
import { clockOf } from './clock'
import { judge } from './judge'
import { planOrderId } from '../plans/ids'
import { type Ask } from './state'
import { togetherOf, type Trace } from './verdicts'
import { say, type Stepping, wantOrder } from './want'

const MINUTE = 60_000

/** An order for which every clause holds. */
export interface Placed {
  side: number
  symbol: string
  signal: string
  order: NewOrder
  mate?: NewOrder
  /** Key of the event that led to it. */
  event?: string
}

/** Wants to send an order; where the plan says so, the trader is asked first. */
export function place(stepping: Stepping, placed: Placed): void {
  const { prepared, state, at } = stepping
  const { side, symbol, signal, order, mate, event } = placed
  const { ask } = prepared.sides[side].side
  if (!ask) return send(stepping, placed)
  const until = at + ask.minutes * MINUTE
  state.asks[order.clOrdId] = { side, symbol, signal, until, ...(event === undefined ? {} : { event }) }
  say(stepping, { is: 'ask', order, until, ...(mate ? { mate } : {}) })
}

function send(stepping: Stepping, { side, symbol, order, mate, event }: Placed): void {
  const { prepared, state } = stepping
  const role = 'close' in prepared.sides[side].side.do ? 'out' : 'entry'
  prepared.sums = undefined
  if (role === 'entry') state.entries[symbol] = (state.entries[symbol] ?? 0) + 1
  if (event !== undefined) noteSeen(stepping, event, symbol, 'Ordered')
  wantOrder(stepping, role, order, role === 'entry', mate ? { mate } : {})
  if (event !== undefined) state.orders[order.clOrdId].event = event
  if (!mate) return
  wantOrder(stepping, 'entry', mate, false, { mateOf: order.clOrdId })
  state.orders[mate.clOrdId].second = true
}

/** Notes in the seen book what became of an event. */
export function noteSeen(
  { prepared: { plan }, state, at, out }: Stepping,
  key: string,
  symbol: string,
  became: Became,
  text?: string,
): void {
  if (!plan.seen) return
  const under = seenKey(plan.seen, { key, symbol })
  const { waits: _waits, ...before } = state.seen[under] ?? {}
  const entry: Seen = { ...before, symbol, at, became, ...(text === undefined ? {} : { text }) }
  if (became === 'Seen') entry.waits = true
  state.seen[under] = entry
  out.seen.push({ key: under, entry })
}

/** The trader's answer: all clauses are judged once more, since prices have moved; what is declined is not sent. */
export function takeAnswer(stepping: Stepping, clOrdId: string, yes: boolean): void {
  const { prepared, state, shared, at, out } = stepping
  const ask = state.asks[clOrdId]
  if (!ask) return
  delete state.asks[clOrdId]
  if (!yes || at > ask.until) return decline(stepping, clOrdId, ask, yes ? 'not answered' : 'declined')
  out.notes.push({ symbol: ask.symbol, why: 'approved', clOrdId })
  const { side, symbol, signal, event } = ask
  const { findings, order, mate } = judge(prepared, state, shared, {
    ...{ side, symbol, at, clOrdId, signal, event },
    condition: HOLDS,
  })
  const sends = togetherOf(findings) === 'holds' && order
  const { id, version } = prepared.plan
  const trace: Trace = { at, planId: id, version, side, symbol, findings }
  out.traces.push(sends ? { ...trace, clOrdId } : trace)
  if (sends) send(stepping, { side, symbol, signal, order, mate, event })
}

/** What nobody has answered in time is not sent. */
export function endAsks(stepping: Stepping): void {
  const { asks } = stepping.state
  for (const clOrdId in asks)
    if (stepping.at > asks[clOrdId].until) {
      const ask = asks[clOrdId]
      delete asks[clOrdId]
      decline(stepping, clOrdId, ask, 'not answered')
    }
}

function decline(stepping: Stepping, clOrdId: string, ask: Ask, why: 'declined' | 'not answered'): void {
  stepping.out.notes.push({ symbol: ask.symbol, why, clOrdId })
  if (ask.event !== undefined) noteSeen(stepping, ask.event, ask.symbol, 'Declined')
}

/** The client order id of a signal. */
export function idOfSignal({ prepared, at }: Stepping, side: number, symbol: string, signal: string): string {
  const role = 'close' in prepared.sides[side].side.do ? 'out' : 'entry'
  const { date } = clockOf(prepared.listed[symbol].venue).at(at)
  return planOrderId({ planId: prepared.plan.id, symbol, date, signal, leg: 0, role })
}
