import { blockedBy } from '../plans/seen'
import { type PlanEvent } from './events'
import { judge } from './judge'
import { idOfSignal, noteSeen, place } from './placing'
import { valueOf } from './prepare'
import { type CandidateEvent } from './state'
import { deciding, togetherOf } from './verdicts'
import { type Stepping } from './want'

const MINUTE = 60_000

/** An event has come: every side that looks at events judges it, unless the seen book holds it already. */
export function takeDated(
  stepping: Stepping,
  { key, symbol, text, at }: Extract<PlanEvent, { is: 'dated' }>,
): void {
  const { prepared, state } = stepping
  const { plan } = prepared
  if (plan.when.look !== 'Event') return
  // Asked once for all sides: what one of them notes of this event keeps none of the others from it.
  const before = plan.seen && blockedBy(plan.seen, state.seen, { key, symbol, at })
  prepared.sides.forEach((one, side) => {
    if (!one.members.has(symbol)) return
    const candidate: CandidateEvent = { key, side, symbol, at, ...(text === undefined ? {} : { text }) }
    if (before) {
      const { id, version } = plan
      stepping.out.traces.push({
        ...{ at: stepping.at, planId: id, version, side, symbol, event: key },
        findings: [
          { clause: 'Provided', why: 'seen before', became: before.became, at: before.at, verdict: 'fails' },
        ],
      })
      return
    }
    noteSeen(stepping, key, symbol, 'Seen', text)
    tryCandidate(stepping, candidate)
  })
}

/** Judges an event; where a score is not known yet it waits, as long as it may. */
function tryCandidate(stepping: Stepping, candidate: CandidateEvent): void {
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
  if (wants) place(stepping, { side, symbol, signal, order, mate, event: key })
  else noteSeen(stepping, key, symbol, 'Declined')
}

/** Points have come for a line: who waits for them is judged again. */
export function takePoints(
  stepping: Stepping,
  { key, line, points, reason, until }: Extract<PlanEvent, { is: 'points' }>,
): void {
  const { state } = stepping
  const told = {
    points,
    ...(reason === undefined ? {} : { reason }),
    ...(until === undefined ? {} : { until }),
  }
  ;(state.points[key] ??= {})[line] = told
  for (const candidate of Object.values(state.candidates))
    if (candidate.key === key) tryCandidate(stepping, candidate)
}

/** Who has waited long enough is judged a last time. */
export function endWaiting(stepping: Stepping): void {
  for (const candidate of Object.values(stepping.state.candidates)) {
    const { score } = stepping.prepared.sides[candidate.side].side
    if (stepping.at - candidate.at >= (score?.waits ?? 0) * MINUTE) tryCandidate(stepping, candidate)
  }
}
