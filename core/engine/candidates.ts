import { eventsAt, looksAtEvents } from '../plans/looks'
import { wrongPoints } from '../plans/score'
import { blockedBy } from '../plans/seen'
import { type PlanEvent } from './events'
import { clockOf } from './clock'
import { forTheOpening, judge } from './judge'
import { noteMiss } from './look'
import { isQuoted } from './nextSession'
import { idOfSignal, noteSeen, place } from './placing'
import { valueOf } from './prepare'
import { type CandidateEvent } from './state'
import { type ClauseFinding, deciding, togetherOf } from './verdicts'
import { type Stepping } from './want'

const MINUTE = 60_000

/**
 * An event has come: every side that looks at events judges it, unless the seen book holds it already. One that comes while the plan
 * may not enter is kept, and judged when it may.
 */
export function takeDated(
  stepping: Stepping,
  { key, symbol, text, at }: Extract<PlanEvent, { is: 'dated' }>,
): void {
  const { prepared, state } = stepping
  const { plan } = prepared
  if (!looksAtEvents(plan.when.look)) return
  // Asked once for all sides: what one of them notes of this event keeps none of the others from it.
  const before = plan.seen && blockedBy(plan.seen, state.seen, { key, symbol, at })
  const tell = (side: number, finding: ClauseFinding) =>
    stepping.out.traces.push({
      ...{ at: stepping.at, planId: plan.id, version: plan.version, side, symbol, event: key },
      findings: [finding],
    })
  if (!prepared.sides.some(({ members }) => members.has(symbol))) {
    const why = prepared.listed[symbol] ? 'not listed' : 'unknown'
    return void tell(0, { clause: 'Among', why, symbol, verdict: 'fails' })
  }
  prepared.sides.forEach((one, side) => {
    if (!one.members.has(symbol)) return
    const candidate: CandidateEvent = { key, side, symbol, at, ...(text === undefined ? {} : { text }) }
    if (before) {
      tell(side, {
        ...{ clause: 'Provided', why: 'seen before', became: before.became, at: before.at, verdict: 'fails' },
      })
      return
    }
    noteSeen(stepping, key, symbol, 'Seen', text)
    const because = keptBecause(stepping, candidate)
    if (because === undefined) return tryCandidate(stepping, candidate)
    const time = because === 'its time' ? eventsAt(plan.when.look) : undefined
    tell(side, { clause: 'When', why: 'kept', because, ...(time ? { at: time } : {}), verdict: 'unknown' })
    state.candidates[`${side} ${key}`] = { ...candidate, kept: true }
  })
}

type Because = Extract<ClauseFinding, { why: 'kept' }>['because']

/** Why an event is not judged yet; undefined if it is. The hour alone never declines it. */
function keptBecause(
  { prepared, shared, at }: Stepping,
  { side, symbol, at: came }: CandidateEvent,
): Because | undefined {
  const { plan, sides, listed } = prepared
  const clock = clockOf(listed[symbol].venue)
  const opening = forTheOpening(sides[side].side)
  const why = opening ? clock.beforeOpen(plan.when, at) : clock.whenAt(plan.when, at)
  if (why !== 'in time') return why
  // An auction makes its own price.
  if (opening) return undefined
  const time = eventsAt(plan.when.look)
  const due = time && clock.momentOf(time, at)
  if (due !== undefined && (at < due || came > due)) return 'its time'
  // At the bell there are only the quotes of the session before.
  return isQuoted(sides[side], shared, symbol, clock.at(at).session.open) ? undefined : 'not quoted'
}

/** Judges an event, or a look by the calendar; where a score is not known yet it waits, as long as it may. */
export function tryCandidate(stepping: Stepping, candidate: CandidateEvent): void {
  const { prepared, state, shared, at, out } = stepping
  const { key, side, symbol } = candidate
  const { side: own } = prepared.sides[side]
  const signal = `event ${key}`
  const clOrdId = idOfSignal(stepping, side, symbol, signal)
  const condition = valueOf(prepared, side, symbol, own.if.rule)
  const asked = { side, symbol, at, condition, clOrdId, signal, event: key }
  const { findings, order, mate } = judge(prepared, state, shared, asked)
  const together = togetherOf(findings)
  const decides = deciding(findings)
  const { id, version } = prepared.plan
  const wants = together === 'holds' && order && !state.orders[clOrdId]
  const waits =
    together === 'unknown' &&
    decides?.clause === 'Provided' &&
    decides.why === 'score' &&
    at - candidate.at < (own.score?.waits ?? 0) * MINUTE
  const known = state.candidates[`${side} ${key}`] !== undefined
  if (!known || !waits)
    out.traces.push({
      ...{ at, planId: id, version, side, symbol, event: key, findings },
      ...(wants ? { clOrdId } : {}),
    })
  if (waits) {
    state.candidates[`${side} ${key}`] = candidate
    return
  }
  delete state.candidates[`${side} ${key}`]
  if (!wants) noteMiss(stepping, { symbol, at, findings, began: true })
  state.looks = (state.looks ?? 0) + 1
  if (wants) place(stepping, { side, symbol, signal, order, mate, event: key })
  else noteSeen(stepping, key, symbol, 'Declined')
}

/** Points have come for a line: who waits for them is judged again. */
export function takePoints(
  stepping: Stepping,
  { key, line, points, reason, until }: Extract<PlanEvent, { is: 'points' }>,
): void {
  const { state, prepared, out } = stepping
  const wrong = wrongPoints(
    prepared.sides.map(({ side }) => side.score),
    { line, points },
  )
  if (wrong !== undefined) return void out.notes.push({ symbol: key, why: 'points refused', text: wrong })
  const told = {
    points,
    ...(reason === undefined ? {} : { reason }),
    ...(until === undefined ? {} : { until }),
  }
  ;(state.points[key] ??= {})[line] = told
  for (const candidate of Object.values(state.candidates))
    if (candidate.key === key && !candidate.kept) tryCandidate(stepping, candidate)
}

/** Judges what has waited long enough a last time, and what was kept once the plan may enter, oldest first. */
export function endWaiting(stepping: Stepping): void {
  const all = Object.values(stepping.state.candidates)
  if (all.length === 0) return
  for (const candidate of all.sort((a, b) => a.at - b.at || (a.key < b.key ? -1 : 1))) {
    const { score } = stepping.prepared.sides[candidate.side].side
    if (candidate.kept) {
      if (keptBecause(stepping, candidate) !== undefined) continue
      const { kept: _kept, ...now } = candidate
      delete stepping.state.candidates[`${candidate.side} ${candidate.key}`]
      // What is not known of it is waited for from now on.
      tryCandidate(stepping, { ...now, at: stepping.at })
    } else if (stepping.at - candidate.at >= (score?.waits ?? 0) * MINUTE) tryCandidate(stepping, candidate)
  }
}
