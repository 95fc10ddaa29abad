import { halfEven, toE4 } from '../market/money'
import { localDate, sessionState } from '../market/venue'
import { parseTimeframe, timeframeText } from '../market/timeframe'
import { multiplierOf } from '../options/osi'
import { directionOf } from '../orders/levels'
import { type ExecutionReport, isWorking, type NewOrder } from '../orders/model'
import { originOf, planOrderId, sentFor } from '../plans/ids'
import { momentOf } from '../plans/times'
import { HOLDS, UNKNOWN } from '../rules'
import { stampOf } from '../market/moments'
import { type Intent, type PlanEvent } from './events'
import { judge } from './judge'
import { heldOf, reserve, type Shared } from './shared'
import { keyOf, type PlanState, type Prepared, type Watched } from './state'
import { deciding, togetherOf, type Trace } from './verdicts'

/** Ends of trades that are remembered of a security. */
const MOST_ENDED = 20

export interface Outcome {
  traces: Trace[]
  intents: Intent[]
}

/**
 * Steps a plan by one event: changes its state in place, and says what it looked at and what it wants to send. Everything that
 * it knows comes with events or lies in what it is given: the same events give the same, wherever it runs. What it wants is
 * reserved in the shared account before the next plan is stepped. `acts`: false while it only watches, or catches up with the
 * past, so that nothing is wanted.
 */
export function step(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  event: PlanEvent,
  acts: boolean,
): Outcome {
  const out: Outcome = { traces: [], intents: [] }
  turnDays(prepared, state, shared, event.at)
  switch (event.is) {
    case 'report':
      takeReport(state, shared, event.report)
      if (acts) turn(prepared, state, shared, event.report, event.at, out)
      break
    case 'bar':
      takeBar(prepared, state, shared, event, acts, out)
      break
    case 'quote':
    case 'time':
      break
  }
  if (acts) leaveInTime(prepared, state, shared, event.at, out)
  return out
}

/** Counts of the day begin anew with the session date of a venue. */
function turnDays({ venues }: Prepared, state: PlanState, { listed }: Shared, at: number): void {
  for (const venue of venues) {
    const date = localDate(venue, at)
    // Bars of the past that are stepped to catch up turn no day back.
    if (state.dates[venue.mic] >= date) continue
    state.dates[venue.mic] = date
    for (const counts of [state.entries, state.takenE4])
      for (const symbol of Object.keys(counts)) if (listed[symbol].venue === venue) delete counts[symbol]
  }
}

/** Takes what became of the plan's orders, and of exits that are attached to them; reports of others are passed over. */
function takeReport(state: PlanState, shared: Shared, report: ExecutionReport): void {
  if (report.seq <= state.seq) return
  state.seq = report.seq
  if (report.splitRatio !== undefined) return splitHeld(state, report.symbol, report.splitRatio)
  knowAgain(state, shared, report)
  const entryId = report.parentOrderId ?? report.orderId
  const clOrdId = state.orders[report.clOrdId] ? report.clOrdId : state.byOrderId[entryId]
  const own = clOrdId === undefined ? undefined : state.orders[clOrdId]
  if (!own) return
  if (report.parentOrderId === undefined) {
    own.orderId = report.orderId
    state.byOrderId[report.orderId] = clOrdId
    own.works = isWorking(report.ordStatus)
  }
  if (report.execType !== 'Trade') return
  const { symbol, side, lastQty = 0, lastPx = 0, commission = 0 } = report
  const { quantity, costE4 } = state.held[symbol] ?? { quantity: 0, costE4: 0 }
  const moved = directionOf(side) * lastQty
  const worthE4 = halfEven(moved * toE4(lastPx) * multiplierOf(symbol) * (report.settlCurrFxRate ?? 1))
  const closed = Math.sign(moved) === -Math.sign(quantity) ? Math.min(lastQty, Math.abs(quantity)) : 0
  const closedCostE4 = quantity === 0 ? 0 : halfEven((costE4 * closed) / Math.abs(quantity))
  const closedWorthE4 = halfEven((-worthE4 * closed) / lastQty)
  state.held[symbol] = { quantity: quantity + moved, costE4: costE4 - closedCostE4 + worthE4 + closedWorthE4 }
  if (isToday(state, shared, report))
    state.takenE4[symbol] = (state.takenE4[symbol] ?? 0) + closedWorthE4 - closedCostE4 - toE4(commission)
  // The next one of the same bar has another signal.
  if (quantity !== 0 && quantity + moved === 0)
    state.ended[symbol] = [...(state.ended[symbol] ?? []), Date.parse(report.transactTime)].slice(-MOST_ENDED)
}

/** Shares of the plan are split as all of the account's are: more of them, for what they have cost. */
function splitHeld({ held }: PlanState, symbol: string, ratio: number): void {
  if (held[symbol]) held[symbol].quantity *= ratio
}

/** An order of this plan that it does not know of, sent before it was begun anew: by what the order says of itself. */
function knowAgain(state: PlanState, shared: Shared, report: ExecutionReport): void {
  const { clOrdId, symbol, origin, parentOrderId } = report
  const own = sentFor(origin)
  if (own?.planId !== state.planId || parentOrderId !== undefined || state.orders[clOrdId]) return
  state.orders[clOrdId] = { symbol, role: own.role, works: true }
  if (own.role === 'entry' && isToday(state, shared, report))
    state.entries[symbol] = (state.entries[symbol] ?? 0) + 1
}

/** Whether a report is of the session that counts are kept of. */
const isToday = (
  { dates }: PlanState,
  { listed }: Shared,
  { symbol, tradeDate }: Pick<ExecutionReport, 'symbol' | 'tradeDate'>,
): boolean => listed[symbol] !== undefined && dates[listed[symbol].venue.mic] === tradeDate

function takeBar(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  { symbol, every, bar, at }: Extract<PlanEvent, { is: 'bar' }>,
  acts: boolean,
  out: Outcome,
): void {
  prepared.plan.sides.forEach((side, i) => {
    const machine = prepared.machines.get(keyOf(i, symbol))
    if (!machine || timeframeText(parseTimeframe(side.if.every)!) !== every) return
    const watched = (state.watched[keyOf(i, symbol)] ??= {
      ...{ verdict: UNKNOWN, lastEnd: -Infinity, told: '' },
    })
    // A bar that came before is passed over, so that a source may repeat itself.
    if (bar.end <= watched.lastEnd) return
    machine.feed(bar, true)
    const before = watched.verdict
    watched.verdict = machine.value(0)
    const first = watched.lastEnd === -Infinity
    watched.lastEnd = bar.end
    const begins = watched.verdict === HOLDS && before !== HOLDS && !first
    if (begins) watched.began = { time: bar.time, end: bar.end }
    if (acts) lookAt(prepared, state, shared, { side: i, symbol, at, watched, begins }, out)
  })
}

interface Look {
  side: number
  symbol: string
  at: number
  watched: Watched
  begins: boolean
}

/** Judges a security once its bar is complete: a trace where that changed, an intent where the condition begins and all holds. */
function lookAt(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  { side, symbol, at, watched, begins }: Look,
  out: Outcome,
): void {
  const { plan } = prepared
  if (begins && leaveForOther(prepared, state, shared, { side, symbol, at, watched, begins }, out)) return
  const { venue } = shared.listed[symbol]
  const signal = signalOf(prepared, state, shared, side, symbol, watched)
  const date = localDate(venue, at)
  const clOrdId = planOrderId({ planId: plan.id, symbol, date, signal, leg: 0, role: 'entry' })
  const asked = { side, symbol, at, condition: watched.verdict, clOrdId, signal }
  const { findings, order } = judge(prepared, state, shared, asked)
  const together = togetherOf(findings)
  const told = `${together} ${deciding(findings)?.clause ?? ''} ${deciding(findings)?.why ?? ''}`
  const wants = begins && together === 'holds' && order && !state.orders[clOrdId]
  if (told !== watched.told || begins) {
    watched.told = told
    const trace: Trace = { at, planId: plan.id, version: plan.version, side, symbol, findings }
    out.traces.push(wants ? { ...trace, clOrdId } : trace)
  }
  if (!wants) return
  state.entries[symbol] = (state.entries[symbol] ?? 0) + 1
  want(prepared, state, shared, 'entry', order, at, out)
}

/** Closes what is held the other way where the plan says so; true where it did. */
function leaveForOther(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  { side, symbol, at, watched }: Look,
  out: Outcome,
): boolean {
  const { plan } = prepared
  const quantity = state.held[symbol]?.quantity ?? 0
  const way = plan.sides[side].do.open === 'Long' ? 1 : -1
  if (plan.opposite === 'Ignore' || Math.sign(quantity) !== -way) return false
  if (plan.opposite === 'Turn') state.turning[symbol] = side
  return close(
    prepared,
    state,
    shared,
    symbol,
    signalOf(prepared, state, shared, side, symbol, watched),
    at,
    out,
  )
}

/** Opens the other way once what was held is closed, if all clauses hold then. */
function turn(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  { symbol }: ExecutionReport,
  at: number,
  out: Outcome,
): void {
  const side = state.turning[symbol]
  if (side === undefined || (state.held[symbol]?.quantity ?? 0) !== 0) return
  delete state.turning[symbol]
  const watched = state.watched[keyOf(side, symbol)]
  // Only while the condition that turned it still holds.
  if (watched?.verdict !== HOLDS) return
  lookAt(prepared, state, shared, { side, symbol, at, watched, begins: true }, out)
}

/** The signal: the start of the bar in which the condition began, and one more than the plan's trades that ended in it. */
function signalOf(
  { plan }: Prepared,
  { ended }: PlanState,
  { listed }: Shared,
  side: number,
  symbol: string,
  { began, lastEnd }: Watched,
): string {
  const every = parseTimeframe(plan.sides[side].if.every)!
  const { time, end } = began ?? { time: lastEnd, end: lastEnd }
  const before = (ended[symbol] ?? []).filter((at) => at >= time && at <= end).length
  return `${stampOf(every, listed[symbol].venue.zone, time)} ${before + 1}`
}

function want(
  { plan }: Prepared,
  state: PlanState,
  shared: Shared,
  role: Intent['role'],
  order: NewOrder,
  at: number,
  out: Outcome,
): void {
  const { clOrdId, symbol } = order
  state.orders[clOrdId] = { symbol, role, works: true }
  reserve(shared, order, at)
  out.intents.push({ planId: plan.id, version: plan.version, at, role, order })
}

/** Closes what the plan holds once the time of its session has come. */
function leaveInTime(prepared: Prepared, state: PlanState, shared: Shared, at: number, out: Outcome): void {
  for (const symbol of Object.keys(state.held)) {
    const { quantity } = state.held[symbol]
    if (quantity === 0) continue
    const side = prepared.plan.sides.find(
      (one) => one.among.list.includes(symbol) && (one.do.open === 'Long') === quantity > 0,
    )
    if (!side?.then.outAt) continue
    const { venue } = shared.listed[symbol]
    const { state: is, session } = sessionState(venue, at)
    if (is !== 'Open' || at < momentOf(side.then.outAt, session, venue.zone)) continue
    // A trade that begins after that time is closed too.
    const trade = (state.ended[symbol]?.length ?? 0) + 1
    close(prepared, state, shared, symbol, `at its time ${trade}`, at, out)
  }
}

/** Closes what the plan holds of a security, once for each signal; true where that is wanted or was. */
function close(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  symbol: string,
  signal: string,
  at: number,
  out: Outcome,
): boolean {
  const { plan } = prepared
  const { quantity } = state.held[symbol]
  const parts = { planId: plan.id, symbol, date: localDate(shared.listed[symbol].venue, at), leg: 0 }
  const clOrdId = planOrderId({ ...parts, signal, role: 'out' })
  if (state.orders[clOrdId]) return true
  // Never more than the account holds: a hand may have closed some.
  const held = Math.abs(heldOf(shared, symbol))
  if (held === 0) return false
  const order: NewOrder = {
    ...{ clOrdId, symbol, side: quantity > 0 ? 'Sell' : 'Buy', ordType: 'Market', timeInForce: 'Day' },
    orderQty: Math.min(Math.abs(quantity), held),
    positionEffect: 'Close',
    origin: originOf(plan, 'out', signal),
  }
  want(prepared, state, shared, 'out', order, at, out)
  return true
}
