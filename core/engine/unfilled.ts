import { type Close, type Unfilled } from '../plans/entry'
import { clockOf } from './clock'
import { type Priced, pricedBy } from './priced'
import { type Shared } from './shared'
import { type Prepared } from './prepare'
import { type PlanState } from './state'

/** Ways out that wait at a limit: how they are priced, and until when they wait. */

const MINUTE = 60_000
/** The side that closes what others hold, and its clause. */
export function closerOf({ sides }: Prepared, symbol: string): { side: number; deed: Close } | undefined {
  for (const [side, { side: one, members }] of sides.entries())
    if ('close' in one.do && members.has(symbol)) return { side, deed: one.do }
  return undefined
}

/** What follows a limit on the way out of a security, where a clause says so. */
function unfilledOf(prepared: Prepared, { held }: PlanState, symbol: string): Unfilled | undefined {
  const own = held[symbol]
  const leave = own && own.quantity !== 0 ? prepared.sides[own.side]?.side.then.leave : undefined
  return leave ? leave.unfilled : closerOf(prepared, symbol)?.deed.unfilled
}

/** Until when a limit on the way out waits that was taken then; undefined where it does as long as the broker lets it. */
export function waitsUntil(
  prepared: Prepared,
  state: PlanState,
  symbol: string,
  at: number,
): number | undefined {
  const unfilled = unfilledOf(prepared, state, symbol)
  return unfilled && at + unfilled.minutes * MINUTE
}

/**
 * How what the plan holds is left now: at its limit, or at the market where nothing else is said, a limit has waited in vain,
 * the quote is old, or the session ends before the limit has waited out.
 */
export function leavingAt(
  { prepared, state, shared, at }: { prepared: Prepared; state: PlanState; shared: Shared; at: number },
  symbol: string,
  waited: boolean,
): Priced {
  const { plan, sides, listed } = prepared
  const { leave } = sides[state.held[symbol].side].side.then
  if (!leave || (waited && leave.unfilled.next === 'Market')) return { ordType: 'Market' }
  const { venue, security } = listed[symbol]
  const quote = shared.quotes[symbol]
  const { session } = clockOf(venue).at(at)
  const isOld = !quote || at - quote.at > plan.never.quoteAge * 1000
  if (isOld || session.close - at <= leave.unfilled.minutes * MINUTE) return { ordType: 'Market' }
  return pricedOr(pricedBy(leave, quote, security.increments, () => NaN))
}

/** What has no price now goes at the market. */
export const pricedOr = (price: Priced | { unknown: string }): Priced =>
  'unknown' in price || (price.price === undefined && price.stopPx === undefined)
    ? { ordType: 'Market' }
    : price
