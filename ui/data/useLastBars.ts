import { useQuery } from '@tanstack/react-query'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { useBroker, useSession } from '../link/LinkProvider'
import { splitFrame } from '../market/frames'
import { useMarket } from '../market/useMarket'

/**
 * When the last complete bar of each venue ended, by the timeframes asked for, as the market itself says of its
 * indices: what bars that are kept here are measured against. Epoch milliseconds by timeframe, then by venue.
 */
export function useLastBars(everys: readonly string[]): Record<string, Record<string, number>> | undefined {
  const market = useMarket()
  const broker = useBroker()
  const session = useSession().data
  return useQuery({
    queryKey: ['last bars', everys, session?.date, session?.state],
    enabled: market !== undefined && session !== undefined,
    queryFn: async () => {
      const venues = Object.entries(market!.indices)
      const symbols = venues.map(([, index]) => index)
      const ends = everys.map(async (every) => {
        const set = openTable(decodeBars(await broker.bars(every, { symbols, limit: 1 })))
        const endOf = (index: string) => set.bars[set.symbols.indexOf(index)]?.end.at(-1) ?? NaN
        return [every, Object.fromEntries(venues.map(([mic, index]) => [mic, endOf(index)]))] as const
      })
      return Object.fromEntries(await Promise.all(ends))
    },
  }).data
}

/** The timeframe of a kept frame's name, "1 day | optionvolume". */
export const everyOf = (frame: string): string => splitFrame(frame.split(' | ')[0]).every
