import { DateTime } from 'luxon'
import { steadyOver } from './offsets'

/** One local day of a zone, in moments (epoch milliseconds). */
export interface LocalDay {
  start: number
  /** Start of the day after it. */
  end: number
  /** Days from 1970-01-01 to its date. */
  number: number
  year: number
  month: number
}

/** Days that were asked for, by zone and the day of the universal clock: dates are dear, and bars share them. */
const known = new Map<string, Map<number, LocalDay>>()

const MOST = 20_000
const DAY = 86_400_000

/** The local day in which a moment lies. */
export function localDayOf(moment: number, zone: string): LocalDay {
  let days = known.get(zone)
  if (!days || days.size > MOST) known.set(zone, (days = new Map()))
  const key = Math.floor(moment / DAY)
  for (const near of [key, -1 - key]) {
    const day = days.get(near)
    if (day && moment >= day.start && moment < day.end) return day
  }
  const day = makeDay(moment, zone)
  // A day of the universal clock holds parts of two local ones.
  days.set(days.has(key) ? -1 - key : key, day)
  return day
}

function makeDay(moment: number, zone: string): LocalDay {
  const steady = steadyOver(zone, moment - DAY, moment + DAY)
  if (steady) {
    const ahead = steady.offset * 60_000
    const number = Math.floor((moment + ahead) / DAY)
    const date = new Date(number * DAY)
    const start = number * DAY - ahead
    return { start, end: start + DAY, number, year: date.getUTCFullYear(), month: date.getUTCMonth() + 1 }
  }
  const local = DateTime.fromMillis(moment, { zone })
  const start = local.startOf('day')
  const { year, month, day } = local
  return {
    start: start.toMillis(),
    end: start.plus({ days: 1 }).toMillis(),
    number: Math.floor(Date.UTC(year, month - 1, day) / DAY),
    year,
    month,
  }
}

/** Minute of the local day. A zone is dear to ask: of a day of 24 hours it need not be. */
export function minuteOf(moment: number, zone: string): number {
  const { start, end } = localDayOf(moment, zone)
  if (end - start === DAY) return Math.floor((moment - start) / 60_000)
  const local = DateTime.fromMillis(moment, { zone })
  return local.hour * 60 + local.minute
}
