import { type Broker } from '@/client'
import { type Listed } from '@/core/engine/listed'
import { parseTimeframe } from '@/core/market/timeframe'
import { type Found, findNow, type FoundNow, treesOfFound } from '@/core/plans/found'
import { gatherBars, type SearchAbout } from './searchBars'

/** Runs a search over what the broker has now: all that its rule text reads is brought first, so that it finds what the scan finds. */
export async function searchNow(broker: Broker, found: Found, about: SearchAbout): Promise<FoundNow> {
  const places = placesOf(found, about.listed)
  if (places.length === 0) return { symbols: [], left: [], unknown: 0, looked: 0 }
  const { soFar, asOf } = found
  const { set, ...options } = await gatherBars(
    broker,
    {
      ...{ places, all: found.in === 'All', every: parseTimeframe(found.every)!, soFar, asOf },
      trees: treesOfFound(found),
    },
    about,
  )
  return findNow(found, set, options)
}

/** Where a search looks, by symbol: an index and what cannot be ordered is no candidate. */
export function placesOf(
  { in: where }: Pick<Found, 'in'>,
  listed: Readonly<Record<string, Listed>>,
): string[] {
  if (where !== 'All' && 'list' in where)
    return where.list.filter((symbol) => listed[symbol]?.security.orderable)
  return Object.values(listed)
    .filter(({ security }) => security.orderable && !security.option)
    .filter(({ security }) => where === 'All' || security.indices.includes(where.index))
    .map(({ security }) => security.symbol)
}
