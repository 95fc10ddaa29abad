import { fromE4 } from '@/core/market/money'
import { Security } from '@/core/market/security'
import { sessionState, type Venue } from '@/core/market/venue'
import {
  type Clock as ClockView,
  type Quote as QuoteView,
  type QuoteTick,
  type SessionView,
} from '@/core/market/wire'
import { INDEX_OF, type Listed } from '../market/listing'
import { type Parts } from './access'
import { Problem } from './problems'

/** What is listed, quoted and open, as the outside sees it. */

/** A security by symbol; a problem document that names near ones else. */
export function findListed({ world }: Parts, symbol: string): Listed {
  const listed = world.markets.find(symbol) ?? world.markets.find(symbol.toUpperCase())
  if (listed) return listed
  throw new Problem(
    'unknown-security',
    `${symbol.slice(0, 40)} is not listed on any venue here.`,
    'GET /securities lists what is.',
  )
}

export function findAll(parts: Parts, symbols: string | undefined): readonly Listed[] {
  if (symbols === undefined) return parts.world.markets.listing
  // Each once, however often it is named.
  const named = symbols.split(',').map((symbol) => symbol.trim())
  return [...new Set(named.filter(Boolean).map((symbol) => findListed(parts, symbol)))]
}

/** A security as the outside sees it: nothing of what its price process is made of. */
export const outside = (listed: Listed): Security => Security.parse(listed)

export function viewQuote({ world }: Parts, listed: Listed): QuoteView {
  const q = world.markets.quoteAt(listed, world.clock.now())
  return {
    symbol: q.symbol,
    bid: fromE4(q.bid),
    bidSize: q.bidSize,
    ask: fromE4(q.ask),
    askSize: q.askSize,
    last: fromE4(q.last),
    at: world.timeText(q.at, world.markets.of(listed).venue.zone),
  }
}

/** What was traded of a security after a moment, up to another; undefined where nothing was. */
export function viewTraded(
  { world }: Parts,
  listed: Listed,
  after: number,
  upTo: number,
): QuoteTick['since'] {
  const market = world.markets.of(listed)
  const traded = market.tradedBetween(listed, after, upTo)
  return (
    traded && {
      at: world.timeText(after, market.venue.zone),
      high: fromE4(traded.high),
      low: fromE4(traded.low),
      volume: traded.volume,
      uptrades: traded.up,
      downtrades: traded.down,
    }
  )
}

/** A venue and its session as of now, in its own time. */
export function viewSession({ world }: Parts, venue: Venue): SessionView {
  const now = world.clock.now()
  const { state, session } = sessionState(venue, now)
  return {
    mic: venue.mic,
    name: venue.name,
    zone: venue.zone,
    currency: venue.currency,
    index: INDEX_OF[venue.mic],
    state,
    date: session.date,
    opens: world.timeText(session.open, venue.zone),
    closes: world.timeText(session.close, venue.zone),
    now: world.timeText(now, venue.zone),
  }
}

export function viewClock({ world }: Parts): ClockView {
  const { state, session } = sessionState(world.market.venue, world.clock.now())
  const takes = Math.round((session.close - session.open) / 1000 / world.clock.rate)
  return {
    now: world.timeText(),
    running: world.clock.running,
    rate: world.clock.rate,
    sessionTakes: takes,
    session: state,
  }
}
