import { useQuery } from '@tanstack/react-query'
import { decodeBars } from '@/core/formats/barsBinary'
import { type Adjustment } from '@/core/market/adjust'
import { openTable } from '@/core/market/barTable'
import { type Bars, type ExtraName } from '@/core/market/bars'
import { resampledWhole } from '@/core/market/resample'
import { isIntraday, parseTimeframe } from '@/core/market/timeframe'
import { db } from '@/store/db'
import { useBroker, useSession } from '../link/LinkProvider'
import { useLink } from '../link/useLink'

/** How many bars of a timeframe the chart asks for: all days, some weeks of minutes. */
function limitOf(every: string): number | undefined {
  const frame = parseTimeframe(every)
  if (!frame || !isIntraday(frame)) return undefined
  const minutes = frame.count * (frame.unit === 'hour' ? 60 : 1)
  return Math.max(600, Math.min(3_900, Math.round(27_000 / minutes)))
}

export interface BarsOptions {
  dataId?: string
  soFar?: boolean
  /** Last date, in the security's own zone; up to now where left out. */
  to?: string
  prices?: Adjustment
  /** Columns besides the usual that measures look at. */
  extras?: readonly ExtraName[]
}

/**
 * Bars of one security: the market's, or one of the trader's own set, which are made coarser where they are asked
 * for on a longer timeframe. The growing bar is among the market's where `soFar` is set, and then they are fetched
 * anew as the market moves. Null where there are none.
 */
export function useBars(symbol: string | undefined, every: string, options: BarsOptions = {}) {
  const broker = useBroker()
  const session = useSession().data
  // Minutes change every minute; days change when a session opens or ends.
  const beat = useLink((s) =>
    options.dataId ? '' : options.soFar ? s.clock?.now.slice(0, 16) : s.clock?.session,
  )
  const { dataId, soFar, to, prices, extras } = options
  return useQuery({
    queryKey: ['bars', symbol, every, dataId, soFar, to, prices, extras?.join(), session?.date, beat],
    enabled: symbol !== undefined && (dataId !== undefined || session !== undefined),
    // The same bars of another moment stand until the new ones come; those of another length would be taken for them.
    placeholderData: (before, query) =>
      query?.queryKey[1] === symbol && query?.queryKey[2] === every ? before : undefined,
    staleTime: Infinity,
    queryFn: async (): Promise<Bars | null> => {
      if (dataId) return ownBars(dataId, symbol!, every)
      const limit = limitOf(every)
      const table = decodeBars(
        await broker.bars(every, { symbols: [symbol!], soFar, limit, to, prices, extras }),
      )
      return openTable(table).bars[0] ?? null
    },
  })
}

async function ownBars(dataId: string, symbol: string, every: string): Promise<Bars | null> {
  const kept = (await db.ownBars.get([dataId, symbol]))?.bars
  const frame = parseTimeframe(every)
  // The last one may still grow: only what is complete is shown of one's own bars.
  return kept ? (frame ? resampledWhole(kept, frame) : kept) : null
}
