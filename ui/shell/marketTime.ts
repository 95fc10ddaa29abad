import { DateTime } from 'luxon'

/** A moment in the offset that it carries, or in a zone that is named. */
const localTime = (iso: string, zone?: string): DateTime =>
  zone === undefined ? DateTime.fromISO(iso, { setZone: true }) : DateTime.fromISO(iso, { zone })

/** Wall clock of a moment in the offset that it carries, so that exchange time stays exchange time in any browser; or in a zone. */
export const clockText = (iso: string, seconds = false, zone?: string): string =>
  localTime(iso, zone).toFormat(seconds ? 'HH:mm:ss' : 'HH:mm')

export const dateText = (iso: string): string =>
  DateTime.fromISO(iso, { setZone: true }).setLocale('en').toFormat('ccc d LLL')

/** Minutes since midnight at the venue, or in a zone that is named. */
export function minuteOfDay(iso: string, zone?: string): number {
  const local = localTime(iso, zone)
  return local.hour * 60 + local.minute + local.second / 60
}

/** "5 h 18 min", "42 min", "under a minute". */
export function spanText(ms: number): string {
  const minutes = Math.floor(ms / 60_000)
  if (minutes < 1) return 'under a minute'
  const hours = Math.floor(minutes / 60)
  return hours === 0 ? `${minutes} min` : minutes % 60 === 0 ? `${hours} h` : `${hours} h ${minutes % 60} min`
}
