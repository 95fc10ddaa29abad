import { localDate } from '../market/venue'
import { stampOf } from '../market/moments'
import { planOrderId } from '../plans/ids'
import { type When } from '../plans/document'
import { everyOf } from '../plans/texts'
import { FAILS, HOLDS } from '../rules'
import { leavesAlone } from './byHand'
import { TOLD } from './fired'
import { clockOf, type WhenWhy } from './clock'
import { ifFinding, judge, whenFinding } from './judge'
import { type Follower, keyOf, type Prepared, type PreparedSide, valueOf } from './prepare'
import { type PlanState, type Watched } from './state'
import { type ClauseFinding, deciding, togetherOf, type Trace } from './verdicts'
import { idOfSignal, place } from './placing'
import { type LookMissed, nearer } from './nearestMiss'
import { pricedBy } from './priced'
import { closeBoth, say, type Stepping } from './want'

/** A side looking at a security. */
export interface Look {
  side: number
  symbol: string
  watched: Watched
  /** Whether its condition begins now. */
  begins: boolean
  /** Whether a bar has just been completed: everything is judged then, whatever it comes to. */
  full: boolean
}

/** Looks at a security: a trace where its verdict changed, an order where the condition begins and all holds. */
export function lookAt(stepping: Stepping, look: Look): void {
  const { prepared, state, shared, at, out } = stepping
  const { side, symbol, watched, begins } = look
  watched.looks = (watched.looks ?? 0) + 1
  state.looks = (state.looks ?? 0) + 1
  if (begins && leaveForOther(stepping, look)) return
  keepResting(stepping, look)
  const stands = begins || standsStill(prepared, look, shared.quotes[symbol]?.last)
  watched.stands = stands
  if (!stands && quickly(stepping, look)) return
  const { plan } = prepared
  const signal = signalOf(prepared, state, side, symbol, watched)
  const clOrdId = idOfSignal(stepping, side, symbol, signal)
  const condition = stands ? HOLDS : watched.verdict
  const { findings, order, mate } = judge(prepared, state, shared, {
    side,
    symbol,
    at,
    condition,
    clOrdId,
    signal,
  })
  const together = togetherOf(findings)
  const decides = deciding(findings)
  const told = `${together} ${decides?.clause ?? ''} ${decides?.why ?? ''}`
  const isAsked = state.orders[clOrdId] !== undefined || state.asks[clOrdId] !== undefined
  const wants = stands && together === 'holds' && order && !isAsked
  const tells = stands && together === 'holds' && 'tell' in prepared.sides[side].side.do
  if (told !== watched.told || begins || wants) {
    watched.told = told
    const { id: planId, version } = plan
    const trace: Trace = { at, planId, version, side, symbol, findings, looks: counted(watched) }
    out.traces.push(wants ? { ...trace, clOrdId } : trace)
  }
  if (tells) return tell(stepping, look)
  if (!wants) return noteMiss(stepping, { symbol, at, findings, began: stands })
  watched.stands = false
  place(stepping, { side, symbol, signal, order, mate })
}

/** Keeps the nearest of the looks that came to nothing, and says when another is nearer. */
export function noteMiss({ state, out }: Stepping, look: LookMissed): void {
  const miss = nearer(state.miss, look)
  if (!miss || miss === state.miss) return
  state.miss = miss
  out.misses.push(miss)
}

/** Tells the trader, and counts it as an entry: what is to come once is told once, also by a plan that is begun anew. */
function tell({ state, shared, at, out }: Stepping, { symbol, watched }: Look): void {
  watched.stands = false
  state.entries[symbol] = (state.entries[symbol] ?? 0) + 1
  const key = `${TOLD}${symbol} ${at}`
  const entry = { symbol, at, became: 'Filled' as const, text: 'you were told' }
  state.seen[key] = entry
  out.seen.push({ key, entry })
  out.notes.push({ symbol, why: 'told', at, last: shared.quotes[symbol]?.last ?? NaN })
}

/**
 * Looks at time and condition alone: where one of them decides, the other clauses need not be judged, and a trace says so once.
 * True where that is all. While a condition goes on, its clauses are judged when a bar is complete.
 */
function quickly({ prepared, at, out }: Stepping, { side, symbol, watched, full }: Look): boolean {
  const { listed, plan, sides } = prepared
  const when = clockOf(listed[symbol].venue).whenAt(plan.when, at)
  const { verdict } = watched
  if (when === 'in time' && verdict === HOLDS) return !full
  const told = quietly(when, verdict)
  if (told === watched.told) return true
  watched.told = told
  const first = whenFinding(plan.when, when)
  const findings: ClauseFinding[] =
    when === 'in time' ? [first, ifFinding(sides[side].side, verdict)] : [first]
  const { id: planId, version } = plan
  out.traces.push({ at, planId, version, side, symbol, findings, looks: counted(watched) })
  return true
}

/** Looks since the last trace, which are counted anew. */
function counted(watched: Watched): number {
  const { looks = 1 } = watched
  watched.looks = 0
  return looks
}

/** How a verdict of time and condition alone is noted. */
const quietly = (when: WhenWhy, verdict: number): string =>
  when === 'in time' ? IF[verdict === FAILS ? 'fails' : 'unknown'] : LATE[when]

/** Whether a look between bars would say nothing new: most do, and are not begun. */
export function isQuiet({ clock, watched }: Follower, when: When, at: number): boolean {
  const { verdict, told, stands } = watched!
  if (stands) return false
  const why = clock.whenAt(when, at)
  return why === 'in time' && verdict === HOLDS ? true : told === quietly(why, verdict)
}

const IF = { fails: 'fails If condition', unknown: 'unknown If condition' }
const LATE = {
  closed: 'fails When closed',
  weekday: 'fails When weekday',
  'month day': 'fails When month day',
  'too early': 'fails When too early',
  'too late': 'fails When too late',
}

/** Whether a signal that other clauses kept from an order stands still. */
function standsStill({ sides }: Prepared, { side, watched }: Look, last = NaN): boolean {
  const { lasts } = sides[side].side.if
  const { began, stands } = watched
  if (!lasts || !began || !stands) return false
  if (lasts.bars !== undefined && began.bars > lasts.bars) return false
  return lasts.percent === undefined || Math.abs(100 * (last / began.price - 1)) <= lasts.percent
}

/** Closes what is held the other way where the plan says so; true where it did. */
function leaveForOther(stepping: Stepping, { side, symbol, watched }: Look): boolean {
  const { prepared, state } = stepping
  const { plan } = prepared
  const deed = plan.sides[side].do
  const quantity = state.held[symbol]?.quantity ?? 0
  if (!('open' in deed) || plan.opposite === 'Ignore' || leavesAlone(prepared, state, symbol)) return false
  const way = deed.open === 'Long' ? 1 : -1
  if (Math.sign(quantity) !== -way) return false
  if (plan.opposite === 'Turn') state.turning[symbol] = side
  return closeBoth(stepping, side, symbol, signalOf(prepared, state, side, symbol, watched))
}

/** Opens the other way once what was held is closed, if all clauses hold then. */
export function turn(stepping: Stepping, symbol: string): void {
  const { state } = stepping
  const side = state.turning[symbol]
  if (side === undefined || (state.held[symbol]?.quantity ?? 0) !== 0) return
  const mate = stepping.prepared.sides[side].mates.get(symbol)
  if (mate !== undefined && (state.held[mate]?.quantity ?? 0) !== 0) return
  delete state.turning[symbol]
  const watched = state.watched[keyOf(side, symbol)]
  // Only while the condition that turned it still holds.
  if (watched?.verdict !== HOLDS) return
  lookAt(stepping, { side, symbol, watched, begins: true, full: true })
}

/** An entry that rests is taken back once its clauses hold no more, and follows its measure where it shall. */
export function keepResting(stepping: Stepping, { side, symbol, watched }: Look): void {
  const { prepared, state, shared, at } = stepping
  const deed = prepared.sides[side].side.do
  if (!('open' in deed) || !deed.rests || leavesAlone(prepared, state, symbol)) return
  for (const id of state.working[symbol] ?? []) {
    const own = state.orders[id]
    if (own.role !== 'entry' || own.asked === 'gone' || own.left) continue
    const clock = clockOf(prepared.listed[symbol].venue)
    const { until, follows } = deed.rests
    const when = clock.whenAt(prepared.plan.when, at)
    const over = until !== undefined && at >= clock.momentOf(until, at)
    const { hours = {} } = prepared.plan.never
    const outside = [when, clock.whenAt(hours, at)].some((is) => is !== 'in time' && is !== 'closed')
    if (over || watched.verdict === FAILS || outside) {
      own.asked = 'gone'
      own.wished = true
      say(stepping, { is: 'cancel', symbol, clOrdId: own.clOrdId ?? id })
    } else if (follows) {
      const bands = prepared.listed[symbol].security.increments
      const now = pricedBy(deed.price, shared.quotes[symbol], bands, (text) =>
        valueOf(prepared, side, symbol, text),
      )
      if ('unknown' in now) continue
      const price = now.stopPx ?? now.price
      if (price === undefined || price === (own.asked ?? own.price)) continue
      own.asked = price
      const date = localDate(prepared.listed[symbol].venue, at)
      const parts = { planId: prepared.plan.id, symbol, date, leg: 0, role: 'move' as const }
      const clOrdId = planOrderId({ ...parts, signal: `${own.clOrdId ?? id} ${price}` })
      const moved = now.stopPx === undefined ? { price } : { stopPx: price }
      say(stepping, { is: 'replace', symbol, clOrdId: own.clOrdId ?? id, change: { clOrdId, ...moved } })
    }
  }
}

/** The signal: the start of the bar in which the condition began, and one more than the plan's trades that ended in it. */
export function signalOf(
  { sides, listed }: Prepared,
  { ended }: PlanState,
  at: number,
  symbol: string,
  { began, lastEnd }: Watched,
): string {
  const { time, end } = began ?? { time: lastEnd, end: lastEnd }
  const before = (ended[symbol] ?? []).filter((moment) => moment >= time && moment <= end).length
  return `${stampIn(sides[at], listed[symbol].venue.zone, time)} ${before + 1}`
}

/** The last bar of a side and zone that was written out: most securities begin in the same, and dates are dear. */
const written = new WeakMap<PreparedSide, { zone: string; time: number; stamp: string }>()

function stampIn(side: PreparedSide, zone: string, time: number): string {
  const last = written.get(side)
  if (last?.time === time && last.zone === zone) return last.stamp
  const stamp = stampOf(everyOf(side.side), zone, time)
  written.set(side, { zone, time, stamp })
  return stamp
}
