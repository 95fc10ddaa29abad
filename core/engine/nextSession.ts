import { HOLDS } from '../rules'
import { ifFinding, whenFinding } from './judge'
import { keepResting, lookAt } from './look'
import { type Follower, type PreparedSide } from './prepare'
import { type Shared } from './shared'
import { type ClauseFinding, type Trace } from './verdicts'
import { type Stepping } from './want'

/**
 * Puts off what a bar has come to where its side does (see plans/putsOff) and the venue is closed, or it is too early to enter; true
 * where that was done. What began, or is not met, is said at once.
 */
export function putOff(stepping: Stepping, follower: Follower, begins: boolean): boolean {
  const { symbol, side, clock } = follower
  const watched = follower.watched!
  const { prepared, at, out } = stepping
  const { plan, sides } = prepared
  if (!sides[side].nextSession) return false
  const why = clock.whenAt(plan.when, at)
  if (why !== 'closed' && why !== 'too early') return false
  const { verdict } = watched
  keepResting(stepping, { side, symbol, watched, begins, full: true })
  const holds = verdict === HOLDS
  watched.puts = begins ? 'began' : holds ? 'goes on' : undefined
  if (holds && !begins) return true
  const when: ClauseFinding = begins
    ? { clause: 'When', why: 'next session', verdict: 'fails' }
    : whenFinding(plan.when, 'in time')
  const told = `${begins ? 'next session' : 'put off'} ${verdict}`
  if (!begins && told === watched.told) return true
  watched.told = told
  const findings = [when, ifFinding(sides[side].side, verdict)]
  const trace: Trace = { at, planId: plan.id, version: plan.version, side, symbol, findings, looks: 1 }
  out.traces.push(trace)
  return true
}

/** So long after the first moment at which it may enter a candidate waits for those before it that are still to be quoted. */
const PATIENCE = 60_000

/** Whether candidates that come before a security in the order of its side have still to be looked at. */
function isBefore({ members }: PreparedSide, symbol: string): boolean {
  for (const [other, { watched }] of members) {
    if (other === symbol) return false
    if (watched?.puts === 'began') return true
  }
  return false
}

/** Whether all that a side orders together, for a security, has been quoted since a moment. */
export function isQuoted(
  { mates, side }: PreparedSide,
  { quotes }: Shared,
  symbol: string,
  since: number,
): boolean {
  const contracts = 'legs' in side.do ? side.do.legs.map(({ contract }) => contract) : []
  return [symbol, mates.get(symbol) ?? [], contracts].flat().every((each) => (quotes[each]?.at ?? 0) >= since)
}

/** Looks at what was put off, once the session has come and the plan may enter, or may no more. */
export function lookAtPutOff(stepping: Stepping, symbol: string): void {
  const { prepared, shared, at } = stepping
  for (let side = 0; side < prepared.sides.length; side++) {
    const one = prepared.sides[side]
    const { nextSession, members } = one
    const follower = nextSession ? members.get(symbol) : undefined
    const { watched } = follower ?? {}
    if (!watched?.puts) continue
    // The last quotes of a session are told after its bar.
    const { open } = follower!.clock.at(at).session
    if (open < watched.lastEnd) continue
    if (!isQuoted(one, shared, symbol, open)) continue
    const why = follower!.clock.whenAt(prepared.plan.when, at)
    if (why === 'closed' || why === 'too early') continue
    const begins = watched.puts === 'began'
    const { from } = prepared.plan.when
    const first = from ? follower!.clock.momentOf(from, at) : open
    if (begins && at - first < PATIENCE && isBefore(one, symbol)) continue
    watched.puts = undefined
    watched.lookedAt = at
    lookAt(stepping, { side, symbol, watched, begins, full: true })
  }
}
