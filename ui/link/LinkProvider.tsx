'use client'
import { QueryClient, QueryClientProvider, useQuery, useQueryClient } from '@tanstack/react-query'
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from 'react'
import { type Clock, type Quote } from '@/core/market/wire'
import { type ExecutionReport } from '@/core/orders/model'
import { Access } from './access'
import { Broker } from './broker'
import { BrokerProblem } from './problem'
import { follow } from './stream'
import { useLink } from './useLink'

const BrokerContext = createContext<Broker | undefined>(undefined)

/** The broker that this page talks to. */
export function useBroker(): Broker {
  const broker = useContext(BrokerContext)
  if (!broker) throw new Error('useBroker needs a LinkProvider above it')
  return broker
}

/** Connects everything below it to the broker: one token, one stream of reports, one of quotes. */
export function LinkProvider({ brokerUrl, children }: { brokerUrl: string; children: ReactNode }) {
  const [queries] = useState(
    () =>
      new QueryClient({
        defaultOptions: { queries: { retry: false, refetchOnWindowFocus: true, staleTime: 500 } },
      }),
  )
  const broker = useMemo(() => new Broker(new Access(brokerUrl, { is: 'demo' })), [brokerUrl])
  return (
    <QueryClientProvider client={queries}>
      <BrokerContext.Provider value={broker}>
        <Streams />
        {children}
      </BrokerContext.Provider>
    </QueryClientProvider>
  )
}

function away(error: unknown): void {
  if (error instanceof BrokerProblem && error.kind !== 'unreachable') {
    useLink.setState({ there: 'refused', why: `${error.detail} ${error.mend}` })
  } else useLink.setState({ there: 'no', why: 'The broker does not answer. It is asked again by itself.' })
}

function Streams() {
  const broker = useBroker()
  const queries = useQueryClient()
  const symbols = useLink((s) => Object.keys(s.watched).sort().join(','))

  useEffect(
    () =>
      follow(broker, '/paper/executions/stream', {
        event: ({ event, data }) => {
          if (event !== 'executionReport') return
          const report = JSON.parse(data) as ExecutionReport
          window.dispatchEvent(new CustomEvent('heron:report', { detail: report }))
          for (const key of ['orders', 'account', 'positions'])
            void queries.invalidateQueries({ queryKey: [key] })
        },
        there: () => {
          useLink.setState({ there: 'yes', why: '' })
          void queries.invalidateQueries()
        },
        away,
      }),
    [broker, queries],
  )

  useEffect(() => {
    // A moment's patience, so that a screen that opens does not start a stream for each of its parts.
    let stop: (() => void) | undefined
    const timer = setTimeout(() => {
      stop = follow(broker, `/quotes/stream?symbols=${symbols}`, {
        event: ({ event, data }) => {
          if (event === 'clock') useLink.setState({ clock: JSON.parse(data) as Clock, heardAt: Date.now() })
          if (event !== 'quotes') return
          const changed = JSON.parse(data) as Quote[]
          useLink.setState(({ quotes }) => ({
            quotes: { ...quotes, ...Object.fromEntries(changed.map((q) => [q.symbol, q])) },
            heardAt: Date.now(),
          }))
        },
        there: () => useLink.setState({ there: 'yes', why: '' }),
        away,
      })
    }, 60)
    return () => {
      clearTimeout(timer)
      stop?.()
    }
  }, [broker, symbols])

  return null
}

/** Latest quotes of symbols, kept fresh while the component is there. */
export function useQuotes(symbols: readonly string[]): Record<string, Quote> {
  const watch = useLink((s) => s.watch)
  const key = [...symbols].sort().join(',')
  useEffect(() => (key === '' ? undefined : watch(key.split(','))), [watch, key])
  return useLink((s) => s.quotes)
}

/** The latest quote of one symbol. */
export function useQuote(symbol: string | undefined): Quote | undefined {
  const watch = useLink((s) => s.watch)
  useEffect(() => (symbol ? watch([symbol]) : undefined), [watch, symbol])
  return useLink((s) => (symbol ? s.quotes[symbol] : undefined))
}

/** Values at the last prices change with the market: asked for again this often while it runs. */
const ALIVE = 1_500

export const useAccount = () => {
  const broker = useBroker()
  return useQuery({ queryKey: ['account'], queryFn: broker.account, refetchInterval: ALIVE })
}

export const usePositions = () => {
  const broker = useBroker()
  return useQuery({ queryKey: ['positions'], queryFn: broker.positions, refetchInterval: ALIVE })
}

export const useOrders = (which: 'today' | 'working' | 'all' = 'today') => {
  const broker = useBroker()
  return useQuery({
    queryKey: ['orders', which],
    queryFn: () => broker.orders(which),
    refetchInterval: 10_000,
  })
}

export const useSecurities = () => {
  const broker = useBroker()
  return useQuery({ queryKey: ['securities'], queryFn: broker.securities, staleTime: Infinity })
}

/** Every venue and its session. */
export const useVenues = () => {
  const broker = useBroker()
  return useQuery({ queryKey: ['venues'], queryFn: broker.venues, refetchInterval: 30_000 })
}

/** The home venue of the stand-in world. */
export const VENUE = 'XBKW'

export const useSession = () => {
  const broker = useBroker()
  const clockState = useLink((s) => s.clock?.session)
  return useQuery({
    queryKey: ['session', clockState],
    queryFn: () => broker.session(VENUE),
    refetchInterval: 5_000,
  })
}
