import { DateTime } from 'luxon'
import { type Session } from '../market/venue'
import { type SessionTime } from './document'

const MINUTE = 60_000

/** The moment of a session time, epoch milliseconds; a clock time is that of the venue's zone on the session's date. */
export function momentOf(time: SessionTime, { date, open, close }: Session, zone: string): number {
  if ('afterOpen' in time) return open + time.afterOpen * MINUTE
  if ('beforeClose' in time) return close - time.beforeClose * MINUTE
  return DateTime.fromISO(`${date}T${time.clock}`, { zone }).toMillis()
}

/** A session time in words: "40 min after the open", "15:10". */
export function timeText(time: SessionTime): string {
  if ('clock' in time) return time.clock
  if ('afterOpen' in time) return time.afterOpen === 0 ? 'the open' : `${time.afterOpen} min after the open`
  return time.beforeClose === 0 ? 'the close' : `${time.beforeClose} min before the close`
}
