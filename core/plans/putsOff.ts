import { isIntraday } from '../market/timeframe'
import { sessionAtOrAfter, type Venue } from '../market/venue'
import { type Plan, type Side } from './document'
import { asksOfState } from './looks'
import { everyOf } from './texts'
import { momentOf } from './times'

/**
 * Bars of a day or longer end with the session, when nothing is traded any more: whether what those of a side come to is put off,
 * and looked at with the first quote of the next session at which the plan may enter.
 */
export const putsOff = ({ when: { look } }: Pick<Plan, 'when'>, side: Side): boolean =>
  !isIntraday(everyOf(side)) && !asksOfState(look) && (side.if.bars === 'Complete' || look === 'Bar')

/** The moment at which it is looked at what a bar that ended then came to: that of its end, or the first of the next session. */
export function looksAt(plan: Pick<Plan, 'when'>, side: Side, venue: Venue, end: number): number {
  if (!putsOff(plan, side)) return end
  return momentOf(plan.when.from ?? { afterOpen: 1 }, sessionAtOrAfter(venue, end), venue.zone)
}
