import { type QuoteTick } from './wire'
import { localDayOf } from './localDays'
import { calendarKey } from './resample'
import { isIntraday, type Timeframe } from './timeframe'

/** The bar that grows, followed from every quote since its start: what the last one alone says is not enough. */
export interface Growing {
  time: number
  end: number
  open: number
  high: number
  low: number
  close: number
  volume: number
  uptrades?: number
  downtrades?: number
}

/** Prices and trades that one message of a stream stands for. */
export interface Ticked {
  /** Epoch milliseconds: of the message, and of the one before it. */
  at: number
  last: number
  since?: { high: number; low: number; volume: number; uptrades: number; downtrades: number }
}

export const tickedBy = ({ at, last, since }: QuoteTick): Ticked => ({
  at: Date.parse(at),
  last,
  ...(since ? { since } : {}),
})

/** A growing bar after a message: a price that came and went within it counts for good. */
export function grown(bar: Growing, { last, since }: Ticked): Growing {
  const out = {
    ...bar,
    close: last,
    high: Math.max(bar.high, last, since?.high ?? last),
    low: Math.min(bar.low, last, since?.low ?? last),
    volume: bar.volume + (since?.volume ?? 0),
  }
  if (bar.uptrades !== undefined) out.uptrades = bar.uptrades + (since?.uptrades ?? 0)
  if (bar.downtrades !== undefined) out.downtrades = bar.downtrades + (since?.downtrades ?? 0)
  return out
}

/** A bar that begins with a message. */
export function begunBy({ at, last, since }: Ticked, before: Growing): Growing {
  const [high, low] = [since?.high ?? last, since?.low ?? last]
  return {
    ...{ time: at, end: Infinity, open: last, close: last, volume: since?.volume ?? 0 },
    ...{ high: Math.max(high, last), low: Math.min(low, last) },
    ...(before.uptrades === undefined ? {} : { uptrades: since?.uptrades ?? 0 }),
    ...(before.downtrades === undefined ? {} : { downtrades: since?.downtrades ?? 0 }),
  }
}

/**
 * Whether a moment lies beyond a bar, in the next one: past its length from its start for minutes and hours, in
 * another day, week or month of the zone for those.
 */
export function isBeyond(bar: { time: number }, every: Timeframe, zone: string, moment: number): boolean {
  const [here, there] = [localDayOf(bar.time, zone), localDayOf(moment, zone)]
  if (!isIntraday(every)) return calendarKey(here, every) !== calendarKey(there, every)
  if (here.number !== there.number) return true
  return moment >= bar.time + every.count * (every.unit === 'hour' ? 3_600_000 : 60_000)
}
