import { type Bars } from '../market/bars'
import { localDate } from '../market/venue'
import { parseTimeframe, timeframeText } from '../market/timeframe'
import { type ExecutionReport } from '../orders/model'
import { type Plan } from '../plans/document'
import { planOrderId } from '../plans/ids'
import { barAt } from '../rules/exec/liveBar'
import { judge, type Judged } from './judge'
import { type Quoted, type Shared } from './shared'
import { freshState, keyOf, prepare } from './state'
import { step } from './step'

/** What a plan is tried on: the account as it stands, the bars of one security that are complete, and its quote. */
export interface Tried {
  shared: Shared
  reports: readonly ExecutionReport[]
  bars: Bars
  quote: Quoted
  at: number
}

/**
 * Tries a side of a plan on a security as it stands: every clause judged, and the order that it would send. Nothing is sent and
 * nothing kept. Throws RangeError for a plan whose conditions do not check.
 */
export function evidenceOf(plan: Plan, side: number, symbol: string, tried: Tried): Judged {
  const { bars, at, reports } = tried
  const one = { ...plan, sides: plan.sides.map((each) => ({ ...each, among: { list: [symbol] } })) }
  const shared: Shared = {
    ...tried.shared,
    quotes: { ...tried.shared.quotes, [symbol]: tried.quote },
    pending: {},
  }
  const prepared = prepare(one, shared.listed)
  const state = freshState(plan)
  step(prepared, state, shared, { is: 'time', at }, false)
  for (const report of reports) step(prepared, state, shared, { is: 'report', at, report }, false)
  const every = timeframeText(parseTimeframe(plan.sides[side].if.every)!)
  for (let row = 0; row < bars.time.length; row++) {
    const bar = barAt(bars, row)
    if (bar.end <= at) step(prepared, state, shared, { is: 'bar', at: bar.end, symbol, every, bar }, false)
  }
  const condition = state.watched[keyOf(side, symbol)]?.verdict ?? NaN
  const date = localDate(shared.listed[symbol].venue, at)
  const clOrdId = planOrderId({ planId: plan.id, symbol, date, signal: 'tried', leg: 0, role: 'entry' })
  // Among is judged by the plan's own list.
  return judge({ ...prepared, plan }, state, shared, {
    side,
    symbol,
    at,
    condition,
    clOrdId,
    signal: 'tried',
  })
}
