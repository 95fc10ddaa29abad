import { type Bars, columnNames, completedBy } from '../market/bars'
import { localDate } from '../market/venue'
import { type ExecutionReport } from '../orders/model'
import { type Plan, type Side } from '../plans/document'
import { type DayView } from '../plans/view'
import { planOrderId } from '../plans/ids'
import { barSource, explain, StepMachine } from '../rules'
import { everyOf, treesOf } from '../plans/texts'
import { compile } from '../rules/exec/compile'
import { barAt, type LiveBar } from '../rules/exec/liveBar'
import { MATE } from '../rules/exec/mate'
import { HOLDS } from '../rules'
import { judge, type Judged } from './judge'
import { type Listed, type Quoted } from './listed'
import { heldOf, type Shared } from './shared'
import { freshState, keyOf, prepare } from './state'
import { step } from './step'

/** What a plan is tried on: the account as it stands, the bars of one security, and its quote, at a moment. */
export interface Tried {
  shared: Shared
  reports: readonly ExecutionReport[]
  /** Those that end later are passed over. */
  bars: Bars
  /** The bar that grew at the moment, which counts where the plan says so. */
  growing?: LiveBar
  /** Of a pair: the bars of the other, and its quote. */
  mate?: { bars: Bars; quote: Quoted }
  quote: Quoted
  at: number
  /** What the trader has said of the day. */
  view?: DayView
  /** Whether the security is among what the side looks at, where that is found. */
  member?: boolean
}

/**
 * Tries a side of a plan on a security at a moment: every clause judged, and the order that it would send. Nothing is sent and
 * nothing kept. Throws RangeError for a plan whose conditions do not check.
 */
export function evidenceOf(plan: Plan, side: number, symbol: string, tried: Tried): Judged {
  const { at, reports } = tried
  const shared: Shared = {
    ...tried.shared,
    growing: {},
    quotes: { ...tried.shared.quotes, [symbol]: tried.quote },
    pending: {},
    keptE4: {},
    reckoned: undefined,
  }
  const universe = plan.sides.map((each) => [
    ...new Set([...('list' in each.among ? each.among.list : []), symbol]),
  ])
  const mateSymbol = mateIn(plan.sides[side], symbol)
  if (mateSymbol !== undefined && tried.mate) shared.quotes[mateSymbol] = tried.mate.quote
  const prepared = prepare(plan, shared.listed, universe)
  const state = freshState(plan)
  step(prepared, state, shared, { is: 'time', at }, false)
  if (tried.view) state.view = tried.view
  for (const report of reports) step(prepared, state, shared, { is: 'report', at, report }, false)
  const { every, side: own, members } = prepared.sides[side]
  const soFar = own.if.bars === 'SoFar'
  const complete = completedBy(tried.bars, at)
  const growing = soFar && tried.growing && tried.growing.time <= at ? tried.growing : undefined
  const bars = growing ? withBar(complete, growing) : complete
  const last = bars.time.length - 1
  const mate = tried.mate && { bars: completedBy(tried.mate.bars, at), next: 0 }
  for (let row = 0; row <= last; row++) {
    const bar = barAt(bars, row)
    for (; mate && mate.next < mate.bars.time.length && mate.bars.end[mate.next] <= bar.end; mate.next++) {
      const beside = barAt(mate.bars, mate.next)
      const event = { is: 'bar' as const, at: beside.end, symbol: mateSymbol!, every, bar: beside }
      step(prepared, state, shared, event, false)
    }
    if (bar.end <= at) step(prepared, state, shared, { is: 'bar', at: bar.end, symbol, every, bar }, false)
    else prepared.followers.get(keyOf(side, symbol))!.memory.feed(bar, false)
  }
  const condition = prepared.followers.get(keyOf(side, symbol))!.memory.value(0)
  const date = localDate(shared.listed[symbol].venue, at)
  const clOrdId = planOrderId({ planId: plan.id, symbol, date, signal: 'tried', leg: 0, role: 'entry' })
  // Among is judged by what the plan itself looks at.
  const { among } = own
  const member =
    'list' in among
      ? among.list.includes(symbol)
      : 'pairs' in among
        ? mateSymbol !== undefined
        : 'positions' in among
          ? heldOf(shared, symbol) !== 0
          : tried.member !== false
  if (!member) members.delete(symbol)
  const judged = judge(prepared, state, shared, { side, symbol, at, condition, clOrdId, signal: 'tried' })
  const { holdings } = prepared.followers.get(keyOf(side, symbol))!
  const about = { ...aboutOf(shared.listed[symbol]), holdings, drawings: plan.drawings?.[symbol] }
  // Of a pair the parts are not looked into.
  const sentence =
    last < 0 || mateSymbol !== undefined
      ? undefined
      : explain(treesOf(own).trees[0], barSource(bars, [], about)).sentence
  const findings = judged.findings.map((one) =>
    one.clause === 'If' && sentence ? { ...one, sentence } : one,
  )
  return { ...judged, findings }
}

/** Bars with one more behind them. */
function withBar(bars: Bars, bar: LiveBar): Bars {
  const n = bars.time.length
  const out = { ...bars }
  for (const name of columnNames(bars)) {
    out[name] = new Float64Array(n + 1)
    out[name].set(bars[name]!)
    out[name][n] = bar[name] ?? NaN
  }
  return out
}

/** The other of a pair that a security is the first of. */
export const mateIn = ({ among }: Side, symbol: string): string | undefined =>
  'pairs' in among ? among.pairs.find(([first]) => first === symbol)?.[1] : undefined

const aboutOf = ({ security: { currency, increments } }: Listed) => ({ currency, increments })

/** Complete bars of a security and, of a pair, of the other. */
export interface PastBars {
  bars: Bars
  mate?: Bars
}

/** Asks the condition of a side at each complete bar. Throws RangeError for one that does not check. */
function* answersOf(
  plan: Plan,
  side: number,
  { bars, mate }: PastBars,
  listed: Listed,
): Generator<{ end: number; holds: boolean }> {
  const own = plan.sides[side]
  const machine = new StepMachine(compile([treesOf(own).trees[0]], everyOf(own)), {
    ...{ zone: listed.venue.zone, holdings: [], drawings: plan.drawings?.[listed.security.symbol] },
    ...aboutOf(listed),
  })
  let next = 0
  for (let row = 0; row < bars.time.length && bars.end[row] !== Infinity; row++) {
    for (; mate && next < mate.time.length && mate.end[next] <= bars.end[row]; next++)
      machine.feed(barAt(mate, next), true, MATE)
    machine.feed(barAt(bars, row), true)
    yield { end: bars.end[row], holds: machine.value(0) === HOLDS }
  }
}

/**
 * The ends of complete bars, newest first, at which the condition of a side began. Throws RangeError for one that does not
 * check.
 */
export function beginningsOf(plan: Plan, side: number, past: PastBars, listed: Listed, most = 8): number[] {
  const out: number[] = []
  let before: boolean | undefined
  for (const { end, holds } of answersOf(plan, side, past, listed)) {
    if (holds && before === false) out.push(end)
    before = holds
  }
  return out.reverse().slice(0, most)
}

/** Whether the condition of a side holds with the last complete bar of a security, so that it would not begin anew. */
export function holdsNow(plan: Plan, side: number, past: PastBars, listed: Listed): boolean {
  let last = false
  for (const { holds } of answersOf(plan, side, past, listed)) last = holds
  return last
}
