import { DateTime } from 'luxon'

/** Wall clock of a moment in the offset that it carries: exchange time stays exchange time in any browser. */
export const clockText = (iso: string, seconds = false): string =>
  DateTime.fromISO(iso, { setZone: true }).toFormat(seconds ? 'HH:mm:ss' : 'HH:mm')

export const dateText = (iso: string): string =>
  DateTime.fromISO(iso, { setZone: true }).setLocale('en').toFormat('ccc d LLL')

/** Minutes since midnight at the venue. */
export function minuteOfDay(iso: string): number {
  const local = DateTime.fromISO(iso, { setZone: true })
  return local.hour * 60 + local.minute + local.second / 60
}

/** "5 h 18 min", "42 min", "under a minute". */
export function spanText(ms: number): string {
  const minutes = Math.floor(ms / 60_000)
  if (minutes < 1) return 'under a minute'
  const hours = Math.floor(minutes / 60)
  return hours === 0 ? `${minutes} min` : minutes % 60 === 0 ? `${hours} h` : `${hours} h ${minutes % 60} min`
}
