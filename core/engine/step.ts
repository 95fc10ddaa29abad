import { asksOfState, minutesOf } from '../plans/looks'
import { HOLDS, UNKNOWN } from '../rules'
import { isOption, underlyingOf } from '../options/osi'
import { type ExecutionReport } from '../orders/model'
import { type LiveBar } from '../rules/exec/liveBar'
import { type PlanEvent } from './events'
import { handKey } from './byHand'
import { actNow, goOn } from './begun'
import { goOnByCalendar, takeCalendar } from './calendar'
import { endWaiting, takeDated, takePoints } from './candidates'
import { clockOf } from './clock'
import { closeOn, endWaitingAt } from './closeOn'
import { leaveAlone, watchHeld, withdraw } from './leave'
import { isQuiet, lookAt, turn } from './look'
import { lookAtPutOff, putOff } from './nextSession'
import { quotedBar } from './quoted'
import { takeBrought, tried } from './tried'
import { endAsks, noteSeen, takeAnswer } from './placing'
import { noteRefusal } from './refusals'
import { setWorks, takeReport } from './reports'
import { type Shared, unreserve } from './shared'
import {
  type Follower,
  followersOn,
  heldFollower,
  join,
  type Prepared,
  type PreparedReading,
} from './prepare'
import { type Held, type PlanState, type Watched } from './state'
import { type Outcome, type Stepping } from './want'

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
  const out = spare ?? { traces: [], intents: [], notes: [], misses: [], seen: [] }
  spare = undefined
  apply({ prepared, state, shared, at: event.at, out }, event, acts)
  // Most events come to nothing: what is empty is given again.
  const { traces, intents, notes, misses, seen } = out
  if (traces.length + intents.length + notes.length + misses.length + seen.length === 0) spare = out
  return out
}

/** An outcome that came to nothing, for the next event. */
let spare: Outcome | undefined

function apply(stepping: Stepping, event: PlanEvent, acts: boolean): void {
  const { prepared, state, shared, out } = stepping
  turnDays(stepping)
  // What the broker, or the trader, says may change what is held.
  if (event.is !== 'quote' && event.is !== 'bar') prepared.sums = undefined
  switch (event.is) {
    case 'report': {
      // Of contracts the book is of what they are of.
      const key = handKey(underlyingOf(event.report.symbol))
      const before = state.seen[key]
      const note = takeReport(prepared, state, shared, event.report, acts)
      if (state.seen[key] !== before) out.seen.push({ key, entry: state.seen[key] })
      if (!acts) break
      if (note) out.notes.push(note)
      if (note && 'does' in note && note.does === 'LetGo') withdraw(stepping, note.symbol)
      noteFilled(stepping, event.report)
      turn(stepping, event.report.symbol)
      watchHeld(stepping, event.report.symbol)
      closeOn(stepping, event.report)
      const gone = pairedAlone(stepping, event.report)
      if (gone !== undefined) leaveAlone(stepping, gone)
      break
    }
    case 'refused':
      takeRefused(stepping, event.clOrdId, event.text)
      break
    case 'bar':
      takeBar(stepping, event, acts)
      if (acts) endWaitingAt(stepping, event.symbol)
      break
    case 'quote':
      if (acts) takeQuote(stepping, event.symbol)
      break
    case 'time':
      takeCalendar(stepping, acts)
      if (!acts) break
      for (const symbol of Object.keys(state.held)) watchHeld(stepping, symbol)
      for (const symbol in state.working) endWaitingAt(stepping, symbol)
      endAsks(stepping)
      endWaiting(stepping)
      break
    case 'dated':
      if (acts) takeDated(stepping, event)
      break
    case 'points':
      takePoints(stepping, event)
      break
    case 'answer':
      takeAnswer(stepping, event.clOrdId, event.yes)
      break
    case 'view':
      state.view = event.view
      break
    case 'seen':
      Object.assign(state.seen, event.book)
      break
    case 'universe':
      join(prepared, event.side, event.symbols)
      break
    case 'act now':
      if (acts) actNow(stepping, event.since, event)
      break
    case 'go on':
      if (acts) goOn(stepping, event.since, event.symbols)
      if (acts && !event.symbols) goOnByCalendar(stepping, event.since)
      break
  }
}

/** Counts of the day begin anew with the session date of a venue. */
function turnDays({ prepared, state, at }: Stepping): void {
  const { venues, listed } = prepared
  // Days only turn forward: a moment of before turns none.
  if (at < prepared.sameUntil) return
  let until = Infinity
  for (const venue of venues) {
    const { state: is, session } = clockOf(venue).at(at)
    until = Math.min(until, is === 'Open' ? session.close : at)
  }
  prepared.sameUntil = until
  for (const venue of venues) {
    const { mic } = venue
    const { date } = clockOf(venue).at(at)
    // Bars of the past that are stepped to catch up turn no day back.
    if (state.dates[mic] >= date) continue
    prepared.sums = undefined
    state.dates[mic] = date
    for (const counts of [state.entries, state.takenE4])
      for (const symbol of Object.keys(counts)) if (listed[symbol].venue === venue) delete counts[symbol]
  }
}

/** Every field is there from the start, so that all of them are of one shape: they are read at every quote. */
const freshWatched = (): Watched => ({
  verdict: UNKNOWN,
  lastEnd: -Infinity,
  lookedAt: -Infinity,
  looks: 0,
  told: '',
  puts: undefined,
  stands: false,
  began: undefined,
  besideEnds: undefined,
  waits: undefined,
  missed: undefined,
})

/** Takes a complete bar, and looks. */
function takeBar(
  stepping: Stepping,
  { symbol, every, bar }: Extract<PlanEvent, { is: 'bar' }>,
  acts: boolean,
): void {
  const { prepared } = stepping
  for (const follower of followersOn(prepared, symbol, every)) {
    const watched = watchedOf(stepping, follower)
    // A bar that came before is passed over, so that a source may repeat itself.
    if (bar.end <= watched.lastEnd) continue
    // Bars beside it are there before anything is asked; one that never comes is passed over by the next of its own.
    if (lacks(follower, watched, bar.end)) {
      const { waits } = watched
      watched.waits = bar
      if (!waits) continue
      completeBar(stepping, follower, waits, acts)
      continue
    }
    completeBar(stepping, follower, bar, acts)
  }
  for (const side of prepared.sides) {
    takeBeside(stepping, side, symbol, every, bar, acts)
    if (side.held) takeBeside(stepping, side.held, symbol, every, bar, acts)
  }
  if (acts) watchHeld(stepping, symbol)
}

const watchedOf = ({ state }: Stepping, follower: Follower): Watched =>
  (follower.watched ??= state.watched[follower.key] ??= freshWatched())

/** Whether a bar of a security that is read beside another is still to come. */
function lacks({ awaited }: Follower, { besideEnds }: Watched, end: number): boolean {
  for (const name of awaited) if (!((besideEnds?.[name] ?? -Infinity) >= end)) return true
  return false
}

/** A bar is fed to all who read it beside their own; who has waited for it is asked now. */
function takeBeside(
  stepping: Stepping,
  reading: PreparedReading,
  symbol: string,
  every: string,
  bar: LiveBar,
  acts: boolean,
): void {
  const all = reading.every === every ? reading.readers.get(symbol) : undefined
  for (const follower of all ?? []) {
    const name = follower.besides.get(symbol)!
    const watched = watchedOf(stepping, follower)
    const ends = (watched.besideEnds ??= {})
    if (bar.end <= (ends[name] ?? -Infinity)) continue
    follower.memory.feed(bar, true, name)
    ends[name] = bar.end
    const { waits } = watched
    if (!waits || lacks(follower, watched, waits.end)) continue
    watched.waits = undefined
    completeBar(stepping, follower, waits, acts)
  }
}

/** A bar of a follower's security is complete: it is fed, and what follows of it done. */
function completeBar(stepping: Stepping, follower: Follower, bar: LiveBar, acts: boolean): void {
  const { prepared, shared, state } = stepping
  const { symbol, side, reading } = follower
  const watched = follower.watched!
  if (bar.end <= watched.lastEnd) return
  const quote = reading.quoted ? shared.quotes[symbol] : undefined
  const { every } = reading.graph.frames[0]
  takeBrought(follower, bar.end)
  follower.memory.feed(reading.quoted ? quotedBar(bar, quote, prepared.listed[symbol], every) : bar, true)
  const own = prepared.sides[side]
  const isFirst = watched.lastEnd === -Infinity
  watched.lastEnd = bar.end
  if (reading === own) askedAtBar(stepping, follower, bar, isFirst, acts)
  // While something is held it is watched on the bars that Then names, where it names some.
  const watches = own.held ? reading === own.held : true
  if (watches) watched.missed = acts ? undefined : { time: bar.time, end: bar.end }
  if (acts && watches && state.held[symbol]?.side === side) watchHeld(stepping, symbol, bar)
}

/** The condition of a side is asked at a complete bar, and it looks. */
function askedAtBar(
  stepping: Stepping,
  follower: Follower,
  bar: LiveBar,
  isFirst: boolean,
  acts: boolean,
): void {
  const { prepared, shared, at } = stepping
  const { symbol, side, memory, reading } = follower
  const watched = follower.watched!
  // Every price of it was compared as it came.
  if (acts && reading.pathed && reading.ticks) return
  const before = watched.verdict
  watched.verdict = memory.value(0)
  const begins = noteBeginning(watched, before, isFirst, bar, shared.quotes[symbol]?.last ?? bar.close)
  if (!begins && watched.began && watched.began.time < bar.time) watched.began.bars++
  if (watched.began?.time === bar.time) watched.began.end = bar.end
  if (!acts || !prepared.sides[side].members.has(symbol) || asksOfState(prepared.plan.when.look)) return
  watched.lookedAt = at
  if (putOff(stepping, follower, begins)) return
  lookAt(stepping, { side, symbol, watched, begins, full: true })
}

/** Notes where a condition begins; true where it does. */
function noteBeginning(
  watched: Watched,
  before: number,
  first: boolean,
  { time, end }: Pick<LiveBar, 'time' | 'end'>,
  price: number,
): boolean {
  const begins = watched.verdict === HOLDS && before !== HOLDS && !first
  if (begins) watched.began = { time, end, price, bars: 0 }
  return begins
}

/** Looks between bars, where a side does: at each quote, or when its minutes are over; the growing bar is tried where it counts. */
function takeQuote(stepping: Stepping, symbol: string): void {
  const { prepared, state, shared, at } = stepping
  const minutes = minutesOf(prepared.plan.when.look)
  lookAtPutOff(stepping, symbol)
  for (let i = 0; i < prepared.sides.length; i++) {
    const one = prepared.sides[i]
    const follower = one.ticks ? one.members.get(symbol) : undefined
    const watched = follower?.watched
    if (!watched || watched.lastEnd === -Infinity) continue
    if (minutes !== undefined && at - watched.lookedAt < minutes * 60_000) continue
    let begins = false
    if (one.side.if.bars === 'SoFar') {
      const growing = tried(stepping, follower)
      if (!growing) continue
      const before = one.pathed ? UNKNOWN : watched.verdict
      watched.verdict = follower.memory.value(0)
      // What a growing bar has come to before it was looked at for the first time began before, too.
      const first = watched.lookedAt === -Infinity && !one.pathed
      begins = noteBeginning(watched, before, first, growing, shared.quotes[symbol].last)
    }
    watched.lookedAt = at
    const rests = 'rests' in one.side.do && one.side.do.rests !== undefined
    if (!begins && !rests && isQuiet(follower, prepared.plan.when, at)) {
      watched.looks!++
      state.looks = (state.looks ?? 0) + 1
      continue
    }
    lookAt(stepping, { side: i, symbol, watched, begins, full: false })
  }
  // A contract is one of several legs of what is held of its underlying.
  const of = isOption(symbol) ? underlyingOf(symbol) : undefined
  if (of !== undefined && state.held[of]?.legs) watchHeld(stepping, of)
  const held = state.held[symbol]
  if (held && held.quantity !== 0) watchHeld(stepping, symbol, heldTick(stepping, symbol, held))
}

/** The growing bar of its own that what is held of a security is watched on; undefined where it is watched at complete ones. */
function heldTick(stepping: Stepping, symbol: string, { side }: Held): LiveBar | undefined {
  const { prepared, shared } = stepping
  const one = prepared.sides[side]
  if (!one.held) return one.ticks ? shared.growing[one.every]?.bars.get(symbol) : undefined
  const follower = one.held.ticks ? heldFollower(prepared, side, symbol) : undefined
  return follower?.watched && follower.watched.lastEnd !== -Infinity ? tried(stepping, follower) : undefined
}

/** An event whose order has traded is filled. */
function noteFilled(stepping: Stepping, { clOrdId, execType, symbol }: ExecutionReport): void {
  const event = execType === 'Trade' ? stepping.state.orders[clOrdId]?.event : undefined
  if (event !== undefined) noteSeen(stepping, event, symbol, 'Filled')
}

/** An order that the broker has refused works no more, and was no entry; of a pair the other is not left alone. */
function takeRefused(stepping: Stepping, clOrdId: string, text = 'the broker refused it'): void {
  const { prepared, state, shared, at } = stepping
  unreserve(shared, clOrdId)
  const own = state.orders[clOrdId]
  if (!own || own.orderId !== undefined) return
  setWorks(state, clOrdId, own, false)
  own.refused = true
  own.endedAt = stepping.at
  if (own.counted) {
    own.counted = false
    state.entries[own.symbol] = Math.max(0, (state.entries[own.symbol] ?? 0) - 1)
  }
  if (own.role !== 'entry') return
  noteRefusal(prepared, state, own.symbol, at, text)
  leaveAlone(stepping, own.symbol)
}

/** Whether one of a pair is there alone by now: its mate has ended with nothing of it held. */
function pairedAlone(
  { prepared, state }: Stepping,
  { symbol, parentOrderId }: ExecutionReport,
): string | undefined {
  if (parentOrderId !== undefined) return undefined
  for (const { mates } of prepared.sides) {
    const mate = mates.get(symbol)
    if (mate === undefined) continue
    for (const [one, other] of [
      [symbol, mate],
      [mate, symbol],
    ]) {
      const isGone = !state.working[one] && (state.held[one]?.quantity ?? 0) === 0
      const isThere = (state.held[other]?.quantity ?? 0) !== 0 || state.working[other] !== undefined
      if (isGone && isThere && state.bySymbol[other]) return one
    }
  }
  return undefined
}
