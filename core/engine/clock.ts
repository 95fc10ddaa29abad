import {
  localDate,
  sessionOn,
  sessionState,
  type Session,
  type SessionState,
  type Venue,
} from '../market/venue'
import { type When } from '../plans/document'
import { momentOf, type SessionTime } from '../plans/times'

export type WhenWhy = 'closed' | 'weekday' | 'month day' | 'too early' | 'too late' | 'in time'

type Hours = Pick<When, 'from' | 'until' | 'weekdays' | 'monthDays'>

const DAY = 86_400_000

/** Days of the month from the day after the session before up to that of a session. */
function daysUpTo(venue: Venue, date: string): number[] {
  const days: number[] = []
  for (let at = Date.parse(`${date}T00:00:00Z`); ; at -= DAY) {
    const text = new Date(at).toISOString().slice(0, 10)
    if (text !== date && sessionOn(venue, text)) return days
    days.push(Number(text.slice(8)))
  }
}

/** What the clock of a venue says of a moment. */
export interface VenueTime {
  date: string
  state: SessionState
  session: Session
  /** 1 is Monday. */
  weekday: number
}

/** The clock of a venue: the session under way is looked up once, since it is asked at every tick. */
export class VenueClock {
  private now: VenueTime | undefined
  private readonly moments = new Map<SessionTime, number>()

  constructor(readonly venue: Venue) {}

  at(moment: number): VenueTime {
    const { now } = this
    if (now && moment >= now.session.open && moment < now.session.close) return now
    const { state, session } = sessionState(this.venue, moment)
    const weekday = new Date(`${session.date}T00:00:00Z`).getUTCDay() || 7
    const found = { date: localDate(this.venue, moment), state, session, weekday }
    if (state === 'Open') {
      this.now = found
      this.moments.clear()
    }
    return found
  }

  /** Whether an entry for the next opening auction may be sent at a moment, or why not: it is sent while the venue is closed. */
  beforeOpen({ weekdays, monthDays }: Hours, moment: number): 'in time' | 'open' | 'weekday' | 'month day' {
    const { state, weekday, session } = this.at(moment)
    if (state === 'Open') return 'open'
    if (weekdays && !weekdays.includes(weekday)) return 'weekday'
    return monthDays && !this.isMonthDay(monthDays, session.date) ? 'month day' : 'in time'
  }

  /** Whether one of these days of the month falls on a session, or on a day without one since the session before. */
  private isMonthDay(monthDays: readonly number[], date: string): boolean {
    const known = this.monthDayOf.get(date)
    const days = known ?? daysUpTo(this.venue, date)
    if (!known) this.monthDayOf.set(date, days)
    return days.some((day) => monthDays.includes(day))
  }

  private readonly monthDayOf = new Map<string, readonly number[]>()

  /** Whether a plan enters at a moment, or why it does not. */
  whenAt({ from, until, weekdays, monthDays }: Hours, moment: number): WhenWhy {
    const { state, weekday, session } = this.at(moment)
    if (state !== 'Open') return 'closed'
    if (weekdays && !weekdays.includes(weekday)) return 'weekday'
    if (monthDays && !this.isMonthDay(monthDays, session.date)) return 'month day'
    if (from && moment < this.momentOf(from, moment)) return 'too early'
    return until && moment >= this.momentOf(until, moment) ? 'too late' : 'in time'
  }

  /** The moment of a session time, on the session of a moment. */
  momentOf(time: SessionTime, moment: number): number {
    const { session, state } = this.at(moment)
    if (state !== 'Open') return momentOf(time, session, this.venue.zone)
    let found = this.moments.get(time)
    if (found === undefined) this.moments.set(time, (found = momentOf(time, session, this.venue.zone)))
    return found
  }
}

const clocks = new WeakMap<Venue, VenueClock>()

/** The clock of a venue; one for all that ask. */
export function clockOf(venue: Venue): VenueClock {
  let clock = clocks.get(venue)
  if (!clock) clocks.set(venue, (clock = new VenueClock(venue)))
  return clock
}
