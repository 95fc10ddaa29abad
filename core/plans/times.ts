import * as z from 'zod'
import { DateTime } from 'luxon'
import { type Session } from '../market/venue'

const MINUTE = 60_000

/** A time of a session: by the clock of the venue, or so many minutes after its open or before its close. */
export const SessionTime = z.union([
  z.strictObject({ clock: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'use hours and minutes, as 09:45') }),
  z.strictObject({ afterOpen: z.int().min(0).max(1440) }),
  z.strictObject({ beforeClose: z.int().min(0).max(1440) }),
])
export type SessionTime = z.infer<typeof SessionTime>

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
