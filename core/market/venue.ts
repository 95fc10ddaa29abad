import { DateTime } from 'luxon'
import { type IncrementBand } from './increment'
import { localDayOf } from './localDays'
import { steadyOver } from './offsets'

/** A place of trading: where it is, when it is open, what prices it takes. */
export interface Venue {
  mic: string
  name: string
  zone: string
  currency: string
  /** Wall-clock "HH:mm" in `zone`. */
  open: string
  close: string
  earlyClose: string
  increments: readonly IncrementBand[]
  /** Quantities are whole multiples of this. */
  lot: number
  /** Dates ("yyyy-MM-dd") of a year without a session, with their names. */
  holidays(year: number): ReadonlyMap<string, string>
  earlyCloses(year: number): ReadonlySet<string>
}

/** One session: its local date and its bounds as epoch milliseconds. */
export interface Session {
  date: string
  open: number
  close: number
}

const at = (venue: Venue, date: string, clock: string): number =>
  DateTime.fromISO(`${date}T${clock}`, { zone: venue.zone }).toMillis()

/** The session of a local date, or undefined on weekends and holidays. */
export function sessionOn(venue: Venue, date: string): Session | undefined {
  const year = Number(date.slice(0, 4))
  return Number.isInteger(year) ? sessionsOf(venue, year).byDate.get(date) : undefined
}

/** All sessions of a year, oldest first; a venue's calendar is made once for each year. */
interface Year {
  all: readonly Session[]
  byDate: ReadonlyMap<string, Session>
}

const years = new WeakMap<Venue, Map<number, Year>>()

function sessionsOf(venue: Venue, year: number): Year {
  let known = years.get(venue)
  if (!known) years.set(venue, (known = new Map()))
  let made = known.get(year)
  if (!made) {
    const all = makeYear(venue, year)
    known.set(year, (made = { all, byDate: new Map(all.map((session) => [session.date, session])) }))
  }
  return made
}

const DAY = 86_400_000

function makeYear(venue: Venue, year: number): Session[] {
  const out: Session[] = []
  const [holidays, earlyCloses] = [venue.holidays(year), venue.earlyCloses(year)]
  const to = Date.UTC(year + 1, 0, 1)
  for (let day = Date.UTC(year, 0, 1); day < to; day += DAY) {
    if (isWeekend(day)) continue
    const date = dateText(day / DAY)
    if (holidays.has(date)) continue
    // Wherever the zone is, the date lies within a day of that of the universal clock.
    const steady = steadyOver(venue.zone, day - DAY, day + 2 * DAY)
    const moment = (clock: string) =>
      steady ? day + (minutesOf(clock) - steady.offset) * 60_000 : at(venue, date, clock)
    const close = earlyCloses.has(date) ? venue.earlyClose : venue.close
    out.push({ date, open: moment(venue.open), close: moment(close) })
  }
  return out
}

/** Local date of a moment, "yyyy-MM-dd". */
export const localDate = (venue: Venue, moment: number): string =>
  dateText(localDayOf(moment, venue.zone).number)

const isWeekend = (day: number): boolean => new Date(day).getUTCDay() % 6 === 0

/** Minutes of the day of a time such as "09:30". */
const minutesOf = (clock: string): number => Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3))

const dateText = (day: number): string => new Date(day * DAY).toISOString().slice(0, 10)

/** No venue is closed for so many days together. */
const MOST_CLOSED = 60

/** First session whose close lies after the moment: the one under way, or the next. */
export function sessionAtOrAfter(venue: Venue, moment: number): Session {
  const { number } = localDayOf(moment, venue.zone)
  for (let day = number; day < number + MOST_CLOSED; day++) {
    const date = dateText(day)
    const session = sessionsOf(venue, Number(date.slice(0, 4))).byDate.get(date)
    if (session && session.close > moment) return session
  }
  throw new RangeError(`${venue.mic} has no session after ${dateText(number)}; check its holidays`)
}

/** All sessions from one local date to another, both included. */
export function sessionsBetween(venue: Venue, from: string, to: string): Session[] {
  const out: Session[] = []
  for (let year = Number(from.slice(0, 4)); year <= Number(to.slice(0, 4)); year++)
    for (const session of sessionsOf(venue, year).all)
      if (session.date >= from && session.date <= to) out.push(session)
  return out
}

/** State of a venue at a moment, as its session endpoint tells it. */
export type SessionState = 'PreOpen' | 'Open' | 'Closed'

/** The session under way or next, with its state: PreOpen on its own date before the open. */
export function sessionState(venue: Venue, moment: number): { state: SessionState; session: Session } {
  const session = sessionAtOrAfter(venue, moment)
  if (moment >= session.open) return { state: 'Open', session }
  return { state: localDate(venue, moment) === session.date ? 'PreOpen' : 'Closed', session }
}

/** The nth weekday of a month, 1 to 12; weekdays from Sunday, 0, on. */
const nth = (year: number, month: number, weekday: number, n: number): string => {
  const first = new Date(Date.UTC(year, month - 1, 1)).getUTCDay()
  return dateText(Date.UTC(year, month - 1, 1 + ((weekday - first + 7) % 7) + 7 * (n - 1)) / DAY)
}

/** A fixed date, moved to Friday or Monday where it falls on a weekend (common practice of exchanges). */
const observed = (year: number, month: number, day: number): string => {
  const weekday = new Date(Date.UTC(year, month - 1, day)).getUTCDay()
  const shift = weekday === 6 ? -1 : weekday === 0 ? 1 : 0
  return dateText(Date.UTC(year, month - 1, day + shift) / DAY)
}

/** Holidays by year, made once. */
const yearly = (make: (year: number) => [string, string][]): Venue['holidays'] => {
  const made = new Map<number, ReadonlyMap<string, string>>()
  return (year) => {
    let days = made.get(year)
    if (!days) made.set(year, (days = new Map(make(year))))
    return days
  }
}

/** The made-up exchange of the estuary, home of the stand-in world. */
export const BRACKWATER: Venue = {
  mic: 'XBKW',
  name: 'Brackwater Exchange',
  zone: 'America/Halifax',
  currency: 'USD',
  open: '09:30',
  close: '16:00',
  earlyClose: '13:00',
  lot: 1,
  increments: [
    { from: 0, step: 0.0001 },
    { from: 1, step: 0.01 },
  ],
  holidays: yearly((year) => [
    [observed(year, 1, 1), 'New Year’s Day'],
    [nth(year, 4, 1, 1), 'Spring Tide Day'],
    [observed(year, 7, 4), 'Lifeboat Day'],
    [nth(year, 9, 1, 1), 'Harbour Day'],
    [observed(year, 12, 25), 'Midwinter Day'],
  ]),
  earlyCloses: (year) => new Set([`${year}-12-24`]),
}

/** A smaller made-up exchange in the north: another zone, currency, lot, price steps, days off. */
export const SKERRY: Venue = {
  mic: 'XSKR',
  name: 'Skerry Exchange',
  zone: 'Europe/Helsinki',
  currency: 'EUR',
  open: '10:00',
  close: '18:30',
  earlyClose: '14:00',
  lot: 10,
  increments: [
    { from: 0, step: 0.0005 },
    { from: 2, step: 0.005 },
    { from: 50, step: 0.05 },
  ],
  holidays: yearly((year) => [
    [observed(year, 1, 1), 'New Year’s Day'],
    [nth(year, 2, 1, 2), 'Ice Market Day'],
    [`${year}-05-01`, 'May Day'],
    [nth(year, 6, 5, 4), 'Midsummer Eve'],
    [observed(year, 12, 6), 'Lantern Day'],
    [`${year}-12-25`, 'Midwinter Day'],
  ]),
  earlyCloses: (year) => new Set([`${year}-04-30`, `${year}-12-23`]),
}

/** Every venue of the stand-in world, the home market first. */
export const VENUES: readonly Venue[] = [BRACKWATER, SKERRY]

/** The venue with a market identifier code, or undefined. */
export const venueOf = (mic: string): Venue | undefined => VENUES.find((venue) => venue.mic === mic)
