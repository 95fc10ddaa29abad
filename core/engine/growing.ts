import { begunBy, grown, type Growing, isBeyond, type Ticked } from '../market/growing'
import { isIntraday, parseTimeframe, roughMinutes, type Timeframe } from '../market/timeframe'
import { type Session } from '../market/venue'
import { type LiveBar } from '../rules/exec/liveBar'
import { clockOf } from './clock'
import { type Listed, type Quoted } from './listed'

/** Bars of one timeframe that grow, by security. */
export interface GrowingBars {
  every: Timeframe
  bars: Map<string, Growing>
}

/** Where a bar of a session that a moment lies in starts: bars of a session are counted from its open. */
export function startOfBar(every: Timeframe, { open }: Session, at: number): number {
  if (!isIntraday(every)) return open
  const length = roughMinutes(every) * 60_000
  return open + Math.floor((at - open) / length) * length
}

/** Makes bars of a timeframe grow from now on. */
export function growBars(growing: Record<string, GrowingBars>, every: string): void {
  growing[every] ??= { every: parseTimeframe(every)!, bars: new Map() }
}

/** One that has been growing before it was followed, as the broker tells it so far. */
export function seedBar(
  growing: Record<string, GrowingBars>,
  every: string,
  symbol: string,
  bar: LiveBar,
): void {
  growing[every]?.bars.set(symbol, { ...bar, end: Infinity })
}

/** Takes a quote: once for all plans of an account. */
export function growQuote(
  growing: Record<string, GrowingBars>,
  { venue }: Listed,
  symbol: string,
  quote: Quoted & Pick<Ticked, 'since'>,
): void {
  for (const frame of Object.values(growing)) {
    const { every, bars } = frame
    const before = bars.get(symbol)
    if (before && !isBeyond(before, every, venue.zone, quote.at)) {
      bars.set(symbol, grown(before, quote))
      continue
    }
    const { session, state } = clockOf(venue).at(quote.at)
    // Nothing grows while the venue is closed.
    if (state !== 'Open') continue
    const counted = before ?? NOTHING
    bars.set(symbol, { ...begunBy(quote, counted), time: startOfBar(every, session, quote.at) })
  }
}

/** Bars that begin count trades. */
const NOTHING: Growing = {
  ...{ time: 0, end: 0, open: 0, high: 0, low: 0, close: 0, volume: 0 },
  ...{ uptrades: 0, downtrades: 0 },
}
