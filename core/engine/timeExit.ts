import { dateIn } from '../market/moments'
import { sessionAtOrAfter, sessionsBetween, type Venue } from '../market/venue'
import { type Then } from '../plans/exits'
import { momentOf } from '../plans/times'

const DAY = 86_400_000

/** When what is entered at a moment would be closed by the time: of its session, or of the last of so many; undefined where no time is given. */
export function timeExitOf(
  { outAt, sessions = 1, daysLeft }: Pick<Then, 'outAt' | 'sessions' | 'daysLeft'>,
  venue: Venue,
  at: number,
): number | undefined {
  // With so many days left of contracts: that is another day.
  if (!outAt || daysLeft !== undefined) return undefined
  const { date } = sessionAtOrAfter(venue, at)
  // Of seven days two are a weekend; days off are few.
  const until = dateIn(at + (sessions * 2 + 14) * DAY, venue.zone)
  const last = sessionsBetween(venue, date, until)[sessions - 1]
  return last && momentOf(outAt, last, venue.zone)
}
