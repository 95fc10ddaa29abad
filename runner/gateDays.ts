import { DateTime } from 'luxon'
import { type Broker } from '@/client'
import { clockOf } from '@/core/engine/clock'
import { evidenceOf } from '@/core/engine/evidence'
import { type ClauseFinding } from '@/core/engine/verdicts'
import { localDate, sessionsBetween } from '@/core/market/venue'
import { type Plan } from '@/core/plans/document'
import { type Known } from './connect'
import { barsBy, triedAt } from './tried'

/** What the gates of a side came to at the same time of a session. */
export interface GateDay {
  date: string
  at: number
  gates: Extract<ClauseFinding, { clause: 'Provided'; why: 'gate' }>[]
}

/** Bars of many sessions, also of short ones. */
const BARS = 4000

/**
 * What the gates of a side would have come to for a security at this time of each of the sessions before, oldest first, on the
 * prices of then and with the account as it is; those without a quote are left out.
 */
export async function gateDays(
  broker: Broker,
  known: Pick<Known, 'shared' | 'reports' | 'now'>,
  plan: Plan,
  side: number,
  symbol: string,
  now: number,
  days = 10,
): Promise<GateDay[]> {
  const { venue } = known.shared.listed[symbol]
  const { session } = clockOf(venue).at(now)
  // Outside of a session it is its middle that is asked.
  const within =
    now >= session.open && now < session.close ? now - session.open : (session.close - session.open) / 2
  const one = { plan, side, symbol }
  const bars = await barsBy(broker, known, one, now, BARS)
  const from = DateTime.fromISO(session.date)
    .minus({ days: 2 * days + 7 })
    .toISODate()!
  const before = sessionsBetween(venue, from, session.date).filter(({ date }) => date < session.date)
  const out: GateDay[] = []
  for (const { date, open } of before.slice(-days)) {
    const at = Math.min(open + within, now)
    if (localDate(venue, at) !== date) continue
    const tried = await triedAt(broker, known, one, bars, at)
    if (!tried) continue
    const { findings } = evidenceOf(plan, side, symbol, tried)
    const gates = findings.filter(
      (one): one is GateDay['gates'][number] => one.clause === 'Provided' && one.why === 'gate',
    )
    out.push({ date, at, gates })
  }
  return out
}
