import { type Bars, columnNames, completedBy } from '../market/bars'
import { withQuote } from '../market/quotedBars'
import { localDate } from '../market/venue'
import { type ExecutionReport } from '../orders/model'
import { type Plan } from '../plans/document'
import { type Seen } from '../plans/seen'
import { type DayView } from '../plans/view'
import { planOrderId } from '../plans/ids'
import { barSource, explain, inParts, type Node, readsOf, StepMachine } from '../rules'
import { asksOfState } from '../plans/looks'
import { looksAt } from '../plans/putsOff'
import { everyOf, treesOf } from '../plans/texts'
import { compile } from '../rules/exec/compile'
import { barAt, type LiveBar } from '../rules/exec/liveBar'
import { HOLDS } from '../rules'
import { besideAbout, besidesNamed, besidesOf, mateIn } from './besides'
import { broughtOf, broughtSource, feedBrought } from './brought'
import { judge, type Judged } from './judge'
import { type Listed, type Quoted } from './listed'
import { quotedBar, readsQuotes } from './quoted'
import { heldOf, type Shared } from './shared'
import { keyOf, prepare } from './prepare'
import { freshState } from './state'
import { step } from './step'

/** What a plan is tried on: the account as it stands, the bars of one security, and its quote, at a moment. */
export interface Tried {
  shared: Shared
  reports: readonly ExecutionReport[]
  /** Those that end later are passed over. */
  bars: Bars
  /** The bar that grew at the moment, which counts where the plan says so. */
  growing?: LiveBar
  /** Bars of securities that are read beside it, by symbol; of a pair the quote of the other. */
  others?: ReadonlyMap<string, Bars>
  mateQuote?: Quoted
  quote: Quoted
  /** Of contracts, those that a plan opens, where they are not among the quotes that are shared. */
  contracts?: Readonly<Record<string, Quoted>>
  at: number
  /** What the trader has said of the day, and what the plan has seen. */
  view?: DayView
  seen?: Readonly<Record<string, Seen>>
  /** Key of an event that is tried as if it had just come. */
  event?: string
  /** Whether the security is among what the side looks at, where that is found. */
  member?: boolean
}

/** What a try comes to; whether the condition begins at the very moment that is looked at, or began earlier in the bar that grows. */
export interface Evidence extends Judged {
  begins?: 'now' | 'in this bar' | 'as it comes'
}

/**
 * Tries a side of a plan on a security at a moment: every clause judged, and the order that it would send. Nothing is sent and
 * nothing kept. Throws RangeError for a plan whose conditions do not check.
 */
export function evidenceOf(plan: Plan, side: number, symbol: string, tried: Tried): Evidence {
  const { at, reports } = tried
  const shared: Shared = {
    ...tried.shared,
    growing: {},
    quotes: { ...tried.shared.quotes, ...tried.contracts, [symbol]: tried.quote },
    pending: {},
    noted: {},
    keptE4: {},
    reckoned: undefined,
  }
  const universe = plan.sides.map((each) => [
    ...new Set([...('list' in each.among ? each.among.list : []), symbol]),
  ])
  const mateSymbol = mateIn(plan.sides[side], symbol)
  if (mateSymbol !== undefined && tried.mateQuote) shared.quotes[mateSymbol] = tried.mateQuote
  const prepared = prepare(plan, shared.listed, universe)
  const state = freshState(plan)
  step(prepared, state, shared, { is: 'time', at }, false)
  if (tried.view) state.view = tried.view
  // What was seen later was not known then.
  for (const [key, entry] of Object.entries(tried.seen ?? {})) if (entry.at <= at) state.seen[key] = entry
  for (const report of reports) step(prepared, state, shared, { is: 'report', at, report }, false)
  const { every, side: own, members, quoted } = prepared.sides[side]
  const listed = shared.listed[symbol]
  const soFar = own.if.bars === 'SoFar'
  const complete = completedBy(tried.bars, at)
  const growing = soFar && tried.growing && tried.growing.time <= at ? tried.growing : undefined
  const bars = growing ? withBar(complete, growing) : complete
  const last = bars.time.length - 1
  const follower = prepared.followers.get(keyOf(side, symbol))!
  const beside = new Beside(
    [...follower.besides.keys()].flatMap((other) => {
      const those = tried.others?.get(other)
      return those ? [{ of: other, bars: completedBy(those, at) }] : []
    }),
  )
  let before = NaN
  for (let row = 0; row <= last; row++) {
    const bar = barAt(bars, row)
    if (row > 0) before = follower.memory.value(0)
    for (const { of, bar: other } of beside.upTo(Math.min(bar.end, at)))
      step(prepared, state, shared, { is: 'bar', at: other.end, symbol: of, every, bar: other }, false)
    if (bar.end <= at) step(prepared, state, shared, { is: 'bar', at: bar.end, symbol, every, bar }, false)
    else {
      feedBrought(follower.memory, follower.streams, follower.watched?.besideEnds ?? {}, at)
      follower.memory.feed(quoted ? quotedBar(bar, tried.quote, listed, everyOf(own)) : bar, false)
    }
  }
  const condition = follower.memory.value(0)
  const began = condition === HOLDS && before === before && before !== HOLDS
  const now = last >= 0 && (growing !== undefined || looksAt(plan, own, listed.venue, bars.end[last]) === at)
  const date = localDate(shared.listed[symbol].venue, at)
  const clOrdId = planOrderId({ planId: plan.id, symbol, date, signal: 'tried', leg: 0, role: 'entry' })
  // Among is judged by what the plan itself looks at.
  const { among } = own
  const member =
    'list' in among
      ? among.list.includes(symbol)
      : 'pairs' in among
        ? mateSymbol !== undefined
        : 'any' in among
          ? true
          : 'positions' in among && among.positions === 'Account'
            ? heldOf(shared, symbol) !== 0
            : tried.member !== false
  if (!member) members.delete(symbol)
  const { event } = tried
  const judged = judge(prepared, state, shared, {
    ...{ side, symbol, at, condition, clOrdId, signal: 'tried' },
    ...(event === undefined ? {} : { event }),
  })
  const { holdings } = follower
  const about = { ...aboutOf(listed, plan, symbol), holdings }
  const named = new Map([...follower.besides].map(([other, name]) => [name, tried.others?.get(other)]))
  const sources = (name: string) => {
    const those = named.get(name)
    if (those) return barSource(completedBy(those, at))
    return broughtSource(plan, name, everyOf(own), (brought) => completedBy(brought, at))
  }
  const sentence =
    last < 0
      ? undefined
      : inParts(
          explain(
            treesOf(own).trees[0],
            barSource(withQuote(bars, tried.quote), [], { ...about, beside: sources }),
          ),
        )
  const findings = judged.findings.map((one) =>
    one.clause === 'If' && sentence ? { ...one, sentence } : one,
  )
  const begins = asksOfState(plan.when.look)
    ? 'as it comes'
    : began && now
      ? growing
        ? 'in this bar'
        : 'now'
      : undefined
  return { ...judged, findings, ...(begins ? { begins } : {}) }
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

/** Bars of others, given in the order of time as far as they are over. */
export class Beside<Of = string> {
  private readonly streams: { of: Of; bars: Bars; next: number }[]

  constructor(streams: readonly { of: Of; bars: Bars }[]) {
    this.streams = streams.map((one) => ({ ...one, next: 0 }))
  }

  /** Those that are over by a moment and were not given before. */
  *upTo(end: number): Generator<{ of: Of; bar: LiveBar }> {
    for (const stream of this.streams)
      for (; stream.next < stream.bars.time.length && stream.bars.end[stream.next] <= end; stream.next++)
        yield { of: stream.of, bar: barAt(stream.bars, stream.next) }
  }
}

/** What rule text of a plan is told of a security besides its bars and what is held of it. */
function aboutOf({ security, reports }: Listed, { figures, drawings }: Plan, symbol: string) {
  const { currency, increments } = security
  return { currency, increments, reports: figures?.[symbol] ?? reports, drawings: drawings?.[symbol] }
}

/** Complete bars of a security, and of those that are read beside it, by symbol; and its quote now, where it is known. */
export interface PastBars {
  bars: Bars
  others?: ReadonlyMap<string, Bars>
  quote?: Quoted
}

/** A machine of the rule text of a side, and bars that it is fed beside, by the names under which it reads them. */
export function machineOf(
  plan: Plan,
  side: number,
  trees: readonly Node[],
  others: ReadonlyMap<string, Bars> | undefined,
  about: { listed: Readonly<Record<string, Listed>>; symbol: string },
) {
  const { listed, symbol } = about
  const own = plan.sides[side]
  const every = everyOf(own)
  const besides = besidesOf(own, besidesNamed(plan, own), symbol, listed)
  const brought = broughtOf(plan, readsOf(trees, every).symbols, every)
  const { zone } = listed[symbol].venue
  const machine = new StepMachine(compile(trees, every), {
    ...{ zone, holdings: [] },
    ...aboutOf(listed[symbol], plan, symbol),
    besideOf: besideAbout(besides, listed, brought),
  })
  const beside = new Beside([
    ...[...besides].flatMap(([other, name]) => {
      const bars = others?.get(other)
      return bars ? [{ of: name, bars }] : []
    }),
    ...Array.from(brought, ([of, bars]) => ({ of, bars })),
  ])
  return { machine, beside }
}

/** Asks the condition of a side at each complete bar. Throws RangeError for one that does not check. */
function* answersOf(
  plan: Plan,
  side: number,
  { bars, others, quote }: PastBars,
  listed: Readonly<Record<string, Listed>>,
  symbol: string,
  growing = false,
): Generator<{ end: number; holds: boolean }> {
  const [rule] = treesOf(plan.sides[side]).trees
  const counts = growing && plan.sides[side].if.bars === 'SoFar' && plan.when.look !== 'Bar'
  const { machine, beside } = machineOf(plan, side, [rule], others, { listed, symbol })
  const quoted = readsQuotes(readsOf([rule], bars.every))
  for (let row = 0; row < bars.time.length; row++) {
    const bar = barAt(bars, row)
    const over = bar.end !== Infinity
    if (!over && !counts) return
    for (const { of, bar: other } of beside.upTo(bar.end)) machine.feed(other, other.end !== Infinity, of)
    machine.feed(quoted ? quotedBar(bar, quote, listed[symbol], bars.every) : bar, over)
    yield { end: bar.end, holds: machine.value(0) === HOLDS }
  }
}

/**
 * The ends of complete bars, newest first, at which the condition of a side began. Throws RangeError for one that does not
 * check.
 */
export function beginningsOf(
  plan: Plan,
  side: number,
  past: PastBars,
  listed: Readonly<Record<string, Listed>>,
  symbol: string,
  most = 8,
): number[] {
  const out: number[] = []
  let before: boolean | undefined
  for (const { end, holds } of answersOf(plan, side, past, listed, symbol)) {
    if (holds && before === false) out.push(end)
    before = holds
  }
  return out.reverse().slice(0, most)
}

/** How often the condition of a side held on some bars, and whether it does on the last, so that it would not begin anew. */
export interface HeldOver {
  asked: number
  held: number
  /** With the last complete bar; with the one that grows, if there is one and it counts. */
  now: boolean
}

/** Asks the condition of a side at each bar of a security. Throws RangeError for one that does not check. */
export function heldOver(
  plan: Plan,
  side: number,
  past: PastBars,
  listed: Readonly<Record<string, Listed>>,
  symbol: string,
): HeldOver {
  const out: HeldOver = { asked: 0, held: 0, now: false }
  for (const { holds } of answersOf(plan, side, past, listed, symbol, true)) {
    out.asked++
    if (holds) out.held++
    out.now = holds
  }
  return out
}
