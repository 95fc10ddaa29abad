import { isIntraday } from '../market/timeframe'
import { type Plan, type Side } from './document'
import { everyOf } from './texts'

/**
 * Bars of a day or longer end with the session, when nothing is traded any more: whether what those of a side come to is put off,
 * and looked at with the first quote of the next session at which the plan may enter.
 */
export const putsOff = ({ when: { look } }: Pick<Plan, 'when'>, side: Side): boolean =>
  !isIntraday(everyOf(side)) && look !== 'Event' && (side.if.bars === 'Complete' || look === 'Bar')
