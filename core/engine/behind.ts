import { isIntraday, roughMinutes, type Timeframe } from '../market/timeframe'
import { type Session, sessionsBetween, type Venue } from '../market/venue'
import { dateIn } from '../market/moments'

const DAY = 86_400_000

/** Complete bars of a timeframe that should have come by a moment, after the one that ended then; NaN where none has come at all. */
export function barsBehind(venue: Venue, every: Timeframe, lastEnd: number, at: number): number {
  if (!Number.isFinite(lastEnd)) return NaN
  if (at <= lastEnd) return 0
  // Longer bars end with the last session of a calendar's; roughly is enough to tell that one is missing.
  if (every.unit === 'week' || every.unit === 'month')
    return Math.floor((at - lastEnd) / (every.count * (every.unit === 'week' ? 7 : 31) * DAY))
  const sessions = sessionsBetween(venue, dateIn(lastEnd, venue.zone), dateIn(at, venue.zone))
  if (!isIntraday(every)) {
    const over = sessions.filter(({ close }) => close > lastEnd && close <= at).length
    return Math.floor(over / every.count)
  }
  const length = roughMinutes(every) * 60_000
  return sessions.reduce(
    (sum, session) => sum + ended(session, length, at) - ended(session, length, lastEnd),
    0,
  )
}

/** Bars of a session that have ended by a moment; the last ends with the session. */
function ended({ open, close }: Session, length: number, at: number): number {
  if (at >= close) return Math.ceil((close - open) / length)
  return Math.max(0, Math.floor((at - open) / length))
}
