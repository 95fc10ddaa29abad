import { DateTime } from 'luxon'
import { type Broker } from '@/client'
import { decodeBars } from '@/core/formats/barsBinary'
import { type MarketNow, MARKET_NAMES } from '@/core/market/candidate'
import { openTable } from '@/core/market/barTable'
import { localDate, type Venue } from '@/core/market/venue'
import { type Shared } from '@/core/engine/shared'
import { type Side } from '@/core/plans/document'
import { addBreadth, type BreadthCounts, countBreadth, finishBreadth, YEAR } from '@/core/scan/breadth'
import { marketNow } from '@/core/scan/marketNow'

/** Securities that are asked for at once. */
const AT_ONCE = 400
/** Sessions that are looked back on: those of a year, and the five over which the lean is told. */
const SESSIONS = YEAR + 8

/** Whether gates of a plan ask how the market stands. */
export const asksForMarket = (sides: readonly Side[]): boolean =>
  sides.some(({ provided }) =>
    provided.some(({ rule }) => MARKET_NAMES.some((name) => rule.toLowerCase().includes(name))),
  )

/** How the stocks of a venue stood together when the session before the date of a moment was over. */
export async function marketAt(
  broker: Broker,
  { listed }: Pick<Shared, 'listed'>,
  venue: Venue,
  at: number,
): Promise<MarketNow> {
  const symbols = Object.values(listed)
    .filter((one) => one.venue === venue && one.security.kind === 'Stock')
    .map(({ security }) => security.symbol)
  const to = DateTime.fromISO(localDate(venue, at)).minus({ days: 1 }).toISODate()!
  let counts: BreadthCounts = { rows: new Map() }
  for (let from = 0; from < symbols.length; from += AT_ONCE) {
    const asked = { symbols: symbols.slice(from, from + AT_ONCE), limit: SESSIONS, to }
    counts = addBreadth(counts, countBreadth(openTable(decodeBars(await broker.bars('1 day', asked))).bars))
  }
  return marketNow(finishBreadth(counts))
}

/** The same for every venue of these securities, by its MIC. */
export async function marketsAt(
  broker: Broker,
  shared: Pick<Shared, 'listed'>,
  symbols: readonly string[],
  at: number,
): Promise<Record<string, MarketNow>> {
  const venues = new Set(symbols.flatMap((symbol) => shared.listed[symbol]?.venue ?? []))
  const out: Record<string, MarketNow> = {}
  for (const venue of venues) out[venue.mic] = await marketAt(broker, shared, venue, at)
  return out
}
