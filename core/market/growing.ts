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
  /** Of the last message: the price before it, and its range. */
  from?: number
  pathhigh?: number
  pathlow?: number
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

/**
 * A growing bar after a message: a price that came and went within it counts for good. Written out: one is made at every quote, and
 * an object that is put together of another is slow to read.
 */
export function grown(bar: Growing, { last, since }: Ticked): Growing {
  return {
    time: bar.time,
    end: bar.end,
    open: bar.open,
    high: Math.max(bar.high, last, since?.high ?? last),
    low: Math.min(bar.low, last, since?.low ?? last),
    close: last,
    volume: bar.volume + (since?.volume ?? 0),
    uptrades: bar.uptrades === undefined ? undefined : bar.uptrades + (since?.uptrades ?? 0),
    downtrades: bar.downtrades === undefined ? undefined : bar.downtrades + (since?.downtrades ?? 0),
    from: bar.close,
    pathhigh: Math.max(bar.close, last, since?.high ?? last),
    pathlow: Math.min(bar.close, last, since?.low ?? last),
  }
}

/** A bar that begins with a message. */
export function begunBy({ at, last, since }: Ticked, before: Growing): Growing {
  const [high, low] = [since?.high ?? last, since?.low ?? last]
  return {
    time: at,
    end: Infinity,
    open: last,
    high: Math.max(high, last),
    low: Math.min(low, last),
    close: last,
    volume: since?.volume ?? 0,
    uptrades: before.uptrades === undefined ? undefined : (since?.uptrades ?? 0),
    downtrades: before.downtrades === undefined ? undefined : (since?.downtrades ?? 0),
    // Before the first bar no price is known.
    from: before.close > 0 ? before.close : undefined,
    pathhigh: Math.max(before.close || last, last, high),
    pathlow: Math.min(before.close || last, last, low),
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
