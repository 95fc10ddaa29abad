import { useQuery } from '@tanstack/react-query'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { type Bars } from '@/core/market/bars'
import { db } from '@/store/db'
import { useBroker, useSession } from '../link/LinkProvider'
import { useLink } from '../link/useLink'

/** How many bars of a timeframe the chart asks for. */
const LIMIT: Record<string, number> = { '1 min': 1950, '5 min': 1560, '15 min': 1300, '1 hour': 700 }

/**
 * Bars of one security: the market's, or one of the trader's own set. The growing bar is among the market's
 * where `soFar` is set, and then they are fetched anew as the market moves.
 */
export function useBars(
  symbol: string | undefined,
  every: string,
  options: { dataId?: string; soFar?: boolean } = {},
) {
  const broker = useBroker()
  const session = useSession().data
  // Minutes change every minute; days change when a session opens or ends.
  const beat = useLink((s) =>
    options.dataId ? '' : options.soFar ? s.clock?.now.slice(0, 16) : s.clock?.session,
  )
  return useQuery({
    queryKey: ['bars', symbol, every, options.dataId, options.soFar, session?.date, beat],
    enabled: symbol !== undefined && (options.dataId !== undefined || session !== undefined),
    placeholderData: (before) => before,
    staleTime: Infinity,
    queryFn: async (): Promise<Bars | null> => {
      if (options.dataId) return (await db.ownBars.get([options.dataId, symbol!]))?.bars ?? null
      const table = decodeBars(
        await broker.bars(every, { symbols: [symbol!], soFar: options.soFar, limit: LIMIT[every] }),
      )
      return openTable(table).bars[0] ?? null
    },
  })
}
