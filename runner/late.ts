import { barsBehind } from '@/core/engine/behind'
import { type PlanEvent } from '@/core/engine/events'
import { isIntraday, parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { type Hub } from './hub'

/**
 * Whether a bar comes so late that another of its length is over by now: of a session's minutes by the clock, of days and longer
 * ones by the sessions of the venue, since what they come to is ordered in the next.
 */
export function isLate(
  { at, every, symbol }: Extract<PlanEvent, { is: 'bar' }>,
  { at: now, known }: Pick<Hub, 'at' | 'known'>,
): boolean {
  const frame = parseTimeframe(every)!
  if (isIntraday(frame)) return now - at > roughMinutes(frame) * 60_000
  return barsBehind(known.shared.listed[symbol].venue, frame, at, now) > 0
}
