import { DateTime } from 'luxon'
import { Problem } from './problems'

/** True of a day without a time of it. */
export const isBareDate = (text: string): boolean => /^\d{4}-\d{2}-\d{2}$/.test(text)

/**
 * A date or moment as it is asked for, in epoch milliseconds; without an offset it is in the zone, and a bare date that
 * bounds from above means its end. Throws Problem that names the field.
 */
export function momentOf(text: string, field: string, zone: string, end: boolean): number {
  const time = DateTime.fromISO(text, { zone })
  if (!time.isValid)
    throw new Problem(
      'malformed-request',
      `${field} "${text.slice(0, 40)}" is neither a date nor a moment.`,
      'Write 2026-03-16, or 2026-03-16T10:42 with or without an offset.',
    )
  return (end && isBareDate(text) ? time.plus({ days: 1 }) : time).toMillis()
}
