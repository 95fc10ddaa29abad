import { plainSymbol, underlyingOf } from '@/core/options/osi'
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
import { MARKET_VERSION } from '../market/version'
import { covers, type Key } from '../keys/keys'
import { type World } from '../world'
import { Problem } from './problems'

/** What is listed, quoted and open, as the outside sees it. */

/** In which world something is seen, and with which key's rights: what the front puts into each request. */
export interface Seen {
  world: World
  key: Key
}

/** A security by symbol, or a contract that is or was listed. Throws Problem that says where to look. */
export function findListed({ world }: Pick<Seen, 'world'>, symbol: string): Listed {
  const plain = plainSymbol(symbol.toUpperCase())
  const listed = world.markets.find(symbol) ?? world.markets.find(plain)
  if (listed && (!listed.option || hasBeenListed(world, listed))) return listed
  throw new Problem(
    'unknown-security',
    listed
      ? `The contract ${listed.symbol} is not listed, and has not been so far.`
      : `${symbol.slice(0, 40)} is not listed on any venue here.`,
    listed
      ? `GET /options?underlyingSymbol=${listed.option!.underlyingSymbol} lists what is.`
      : 'GET /securities lists what is.',
  )
}

function hasBeenListed({ markets, clock }: World, listed: Listed): boolean {
  const market = markets.of(listed)
  return market.isListed(listed, clock.now()) || market.chains.sessionsOf(listed, clock.now()).length > 0
}

/** Those that are named, each once however often; everything that is listed where none is. */
export function findAll(seen: Pick<Seen, 'world'>, symbols: string | undefined): readonly Listed[] {
  if (symbols === undefined) return seen.world.markets.listing
  const named = symbols.split(',').map((symbol) => symbol.trim())
  return [...new Set(named.filter(Boolean).map((symbol) => findListed(seen, symbol)))]
}

/** A security whose prices the key may see. Throws Problem else. */
export function findPriced(seen: Seen, symbol: string): Listed {
  const listed = findListed(seen, symbol)
  if (covers(seen.key.venues, listed.venue)) return listed
  throw new Problem(
    'no-market-data-right',
    `The key ${seen.key.keyId} has no right to prices of ${listed.venue}, where ${listed.symbol} is listed; it has ${rightsText(seen.key)}.`,
    `Use a key with the venue ${listed.venue}, or ask for securities of those venues.`,
  )
}

/** Those that are named and have a quote now. Throws Problem for a contract that has ended. */
export function findQuoted(seen: Seen, symbols: string | undefined): readonly Listed[] {
  const list = findAllPriced(seen, symbols)
  const { markets, clock } = seen.world
  const ended = list.find((listed) => !markets.of(listed).isListed(listed, clock.now()))
  if (!ended) return list
  throw new Problem(
    'not-listed-then',
    `The contract ${ended.symbol} ended on ${ended.option!.maturityDate} and has no quote any more.`,
    `Leave it out. GET /securities/${encodeURIComponent(ended.symbol)}/ticks has its past quotes.`,
  )
}

const rightsText = ({ venues }: Key): string =>
  venues === 'all' || venues.length === 0 ? 'none' : venues.join(', ')

/** Those that are named and may be seen; everything that may be seen where none is named. Throws Problem. */
export function findAllPriced(seen: Seen, symbols: string | undefined): readonly Listed[] {
  if (symbols !== undefined) return findAll(seen, symbols).map((one) => findPriced(seen, one.symbol))
  const { venues } = seen.key
  const { listing } = seen.world.markets
  return venues === 'all' ? listing : listing.filter((listed) => covers(venues, listed.venue))
}

/** A security as the outside sees it: nothing of what its price process is made of. */
export const outside = (listed: Listed): Security => Security.parse(listed)

/** A contract as it stands at a moment. */
export function outsideContract({ markets, clock }: World, listed: Listed): Security {
  const active = markets.of(listed).isListed(listed, clock.now())
  const securityStatus = active ? ('Active' as const) : ('Expired' as const)
  return outside({ ...listed, option: { ...listed.option!, securityStatus } })
}

export function viewQuote(world: World, listed: Listed): QuoteView {
  const q = world.markets.quoteAt(listed, world.clock.now())
  return {
    symbol: q.symbol,
    bid: fromE4(q.bid),
    bidSize: q.bidSize,
    ask: fromE4(q.ask),
    askSize: q.askSize,
    last: fromE4(q.last),
    at: world.timeText(q.at, world.markets.of(listed).venue.zone),
    ...(world.halts.isHalted(underlyingOf(q.symbol), q.at) ? { halted: true as const } : {}),
  }
}

/** What was traded of a security after a moment, up to another; undefined where nothing was. */
export function viewTraded(world: World, listed: Listed, after: number, upTo: number): QuoteTick['since'] {
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
export function viewSession(world: World, venue: Venue): SessionView {
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
    market: MARKET_VERSION,
  }
}

/** Why market time stands still though it should run. */
const STILL = 'The journal cannot be written, so market time stands still; it goes on by itself once it can.'

export function viewClock(world: World): ClockView {
  const { state, session } = sessionState(world.market.venue, world.clock.now())
  const takes = Math.round((session.close - session.open) / 1000 / world.clock.rate)
  return {
    now: world.timeText(),
    running: world.clock.running,
    ...(world.standsStill ? { standsStill: STILL } : {}),
    rate: world.clock.rate,
    sessionTakes: takes,
    session: state,
  }
}
