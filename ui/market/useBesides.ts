import { useQuery } from '@tanstack/react-query'
import { useLiveQuery } from 'dexie-react-hooks'
import { useMemo } from 'react'
import { decodeBars } from '@/core/formats/barsBinary'
import { type Adjustment } from '@/core/market/adjust'
import { type Bars } from '@/core/market/bars'
import { openTable } from '@/core/market/barTable'
import { dateIn, stampOf } from '@/core/market/moments'
import { isIntraday, type Timeframe, timeframeText } from '@/core/market/timeframe'
import { barSource, type BarSource, readsOf } from '@/core/rules'
import { db } from '@/store/db'
import { useOf, useServices } from '../link/LinkProvider'
import { treesOf } from './frames'
import { useMarket } from './useMarket'

/** Finer bars of one security that are fetched for an opening range at the most. */
const MOST = 20_000

/** Other securities, and whether company figures or longer bars, are named by rules and measures. */
function askedBy(texts: readonly string[], every: Timeframe) {
  const { symbols, sources, coarser, finer } = readsOf(treesOf(texts), every)
  return {
    symbols,
    figures: sources.has('figures'),
    position: sources.has('position'),
    days: coarser.some((other) => !isIntraday(other)),
    finer: finer.map(timeframeText),
  }
}

/**
 * The bars of a security with everything besides that rules and measures ask for: other securities on the same
 * timeframe, company figures, drawings. Undefined until all of it is there, so that no figure is shown without it.
 */
export function useBarSource(
  symbol: string,
  bars: Bars | undefined,
  texts: readonly string[],
  options: { own?: boolean; first?: string; prices?: Adjustment } = {},
): BarSource | undefined {
  const market = useMarket()
  const of = useOf()
  const { broker, holdings } = useServices()
  const key = JSON.stringify(askedBy(texts, bars?.every ?? { count: 1, unit: 'day' }))
  const layout = useLiveQuery(async () => (await db.layouts.get(symbol)) ?? null, [symbol])
  const every = bars ? timeframeText(bars.every) : ''
  const last = bars ? bars.time[bars.time.length - 1] : 0
  const growing = bars ? bars.end[bars.end.length - 1] === Infinity : false
  const others = useQuery({
    queryKey: ['besides', of, symbol, key, every, last, growing, options.first, options.prices],
    enabled: market !== undefined && bars !== undefined && !options.own,
    staleTime: growing ? 5_000 : Infinity,
    placeholderData: (before, query) => (query?.queryKey[2] === symbol ? before : undefined),
    queryFn: async () => {
      const { symbols, figures, position, days, finer } = JSON.parse(key) as ReturnType<typeof askedBy>
      const { securities, indices } = market!
      const venue = securities.find((s) => s.symbol === symbol)?.venue ?? ''
      const named = new Map(symbols.map((name) => [name, name === 'index' ? (indices[venue] ?? '') : name]))
      const listed = [...named.values()].filter((name) => securities.some((s) => s.symbol === name))
      const set =
        listed.length > 0
          ? openTable(
              decodeBars(
                await broker.bars(every, {
                  symbols: listed,
                  limit: Math.max(bars!.time.length, 2_000),
                  soFar: growing,
                  prices: options.prices,
                  // The same stretch as the bars themselves.
                  from: stampOf(bars!.every, bars!.zone, bars!.time[0]),
                  to: growing ? undefined : dateIn(last, bars!.zone),
                }),
              ),
            )
          : { symbols: [], bars: [] }
      const bySymbol = new Map(set.symbols.map((name, i) => [name, set.bars[i]]))
      const reports = figures ? ((await broker.reports([symbol]))[symbol] ?? []) : []
      const ownReports = figures ? (await db.ownReports.get(symbol))?.reports : undefined
      // Rules on minutes may look at days: as a scan has them, completed ones, from as far back. An opening range may
      // ask for finer bars.
      const further = [
        ...(isIntraday(bars!.every) && days ? [{ every: '1 day', soFar: false }] : []),
        ...finer.map((finerEvery) => ({ every: finerEvery, soFar: growing })),
      ]
      const others = await Promise.all(
        further.map(async ({ every: other, soFar }) => {
          const { prices } = options
          const ask = {
            symbols: [symbol],
            prices,
            soFar,
            limit: soFar || finer.includes(other) ? MOST : 2_000,
          }
          return openTable(decodeBars(await broker.bars(other, ask))).bars[0] as Bars | undefined
        }),
      )
      return {
        others: others.filter((one) => one !== undefined),
        holdings: position ? ((await holdings.all())[symbol] ?? []) : undefined,
        beside: new Map([...named].map(([name, real]) => [name, bySymbol.get(real)])),
        reports: ownReports ?? reports,
      }
    },
  })
  const { data } = others
  const security = options.own ? undefined : market?.securities.find((s) => s.symbol === symbol)
  return useMemo(() => {
    if (!bars || layout === undefined || (!options.own && !data)) return undefined
    const made = new Map<string, BarSource>()
    return barSource(bars, data?.others ?? [], {
      reports: data?.reports,
      holdings: data?.holdings,
      currency: security?.currency,
      increments: security?.increments,
      drawings: layout?.drawings,
      beside(name) {
        const other = data?.beside.get(name)
        if (!other) return undefined
        const currency = market?.securities.find((s) => s.symbol === name)?.currency ?? security?.currency
        if (!made.has(name)) made.set(name, barSource(other, [], { currency }))
        return made.get(name)
      },
    })
  }, [bars, layout, data, options.own, security, market])
}
