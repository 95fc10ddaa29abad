import { localDate, sessionState, type Session, type SessionState, type Venue } from '../market/venue'
import { type When } from '../plans/document'
import { momentOf, type SessionTime } from '../plans/times'

export type WhenWhy = 'closed' | 'weekday' | 'too early' | 'too late' | 'in time'

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

  /** Whether a plan enters at a moment, or why it does not. */
  whenAt({ from, until, weekdays }: Pick<When, 'from' | 'until' | 'weekdays'>, moment: number): WhenWhy {
    const { state, weekday } = this.at(moment)
    if (state !== 'Open') return 'closed'
    if (weekdays && !weekdays.includes(weekday)) return 'weekday'
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
