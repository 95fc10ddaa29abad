'use client'
import {
  QueryClient,
  QueryClientProvider,
  queryOptions,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query'
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from 'react'
import { Access, Broker, BrokerProblem } from '@/client'
import { moneyText } from '@/core/market/money'
import { ScanPool } from '@/workers/scanPool'
import { type Quote } from '@/core/market/wire'
import { connectRemembered, forgetAccount } from '../services/connect'
import { demoTokens } from '../services/demoTokens'
import { earlyAnswer } from '../services/early'
import { makeServices, type Services } from '../services/services'
import { type ExecutionReport } from '@/core/orders/model'
import { useSheet } from '../sheet/sheetStore'
import { useConnection } from './connection'
import { useLink } from './useLink'

/** Pages that ask the workers at once: there they load while the page does. */
const ASKS_AT_ONCE = /^\/(find|look|plan)\b/

const workers = new ScanPool()
if (typeof Worker !== 'undefined' && ASKS_AT_ONCE.test(location.pathname)) workers.warm()

/** The services, given anew where a part of the page stands alone. */
export const ServicesContext = createContext<Services | undefined>(undefined)

/** The services of the page. */
export function useServices(): Services {
  const services = useContext(ServicesContext)
  if (!services) throw new Error('useServices needs a LinkProvider above it')
  return services
}

/** The broker that this page talks to. */
export const useBroker = (): Broker => useServices().broker

/** Gives everything below it the services, which live as long as it does. */
export function LinkProvider({ brokerUrl, children }: { brokerUrl: string; children: ReactNode }) {
  const [queries] = useState(
    () =>
      new QueryClient({
        defaultOptions: { queries: { retry: false, refetchOnWindowFocus: true, staleTime: 500 } },
      }),
  )
  const services = useMemo(() => {
    const made = makeServices(
      new Broker(new Access(brokerUrl, demoTokens), earlyAnswer).streamTogether(),
      workers,
    )
    // What every screen waits for is taken up before the page is drawn for the first time.
    if (typeof window !== 'undefined') {
      void queries.prefetchQuery(securitiesOf(made.broker))
      void queries.prefetchQuery(venuesOf(made.broker))
    }
    return made
  }, [brokerUrl, queries])
  return (
    <QueryClientProvider client={queries}>
      <ServicesContext.Provider value={services}>
        <Running />
        {children}
      </ServicesContext.Provider>
    </QueryClientProvider>
  )
}

/** What is asked again after reports waits so long for more of them; while a sheet is sent so much longer, milliseconds. */
const TOGETHER = 200
const TOGETHER_SENDING = 5_000

/** Has what reports have changed asked again: once for all that come together, and of figures only those that a trade moves. */
function reportsTogether(queries: QueryClient): (report: ExecutionReport) => void {
  const keys = new Set<string>()
  let timer: ReturnType<typeof setTimeout> | undefined
  const ask = () => {
    timer = undefined
    const { of } = useConnection.getState()
    for (const key of keys) void queries.invalidateQueries({ queryKey: [of, key] })
    if (keys.has('positions')) void queries.invalidateQueries({ queryKey: ['besides', of] })
    keys.clear()
  }
  return ({ execType }) => {
    keys.add('orders')
    if (execType === 'Trade') for (const key of ['account', 'positions']) keys.add(key)
    timer ??= setTimeout(ask, useSheet.getState().sending ? TOGETHER_SENDING : TOGETHER)
  }
}

/** Starts the services, and has what was asked of the account asked again when it changes. */
function Running() {
  const services = useServices()
  const queries = useQueryClient()
  useEffect(() => {
    const { reports } = services
    connectRemembered(services)
    const off = [
      reports.listen(reportsTogether(queries)),
      reports.onReturn(() => void queries.invalidateQueries()),
      // A session that opens or ends is known at once.
      useLink.subscribe(({ clock }, before) => {
        if (before.clock && clock?.session !== before.clock.session)
          void queries.invalidateQueries({ queryKey: ['venues'] })
      }),
    ]
    services.start()
    return () => {
      services.end()
      for (const stop of off) stop()
    }
  }, [services, queries])
  const { data: account, error } = useAccount()
  useEffect(() => {
    if (account) useConnection.setState({ name: account.account })
  }, [account])
  useEffect(() => {
    // An account that was remembered may be of another world.
    const isGone = error instanceof BrokerProblem && error.status === 404
    if (isGone && useConnection.getState().isDemo) forgetAccount(services)
  }, [error, services])
  return null
}

/** Latest quotes of symbols, kept fresh while the component is there. */
export function useQuotes(symbols: readonly string[]): Record<string, Quote> {
  const { quotes } = useServices()
  const key = [...symbols].sort().join(',')
  useEffect(() => (key === '' ? undefined : quotes.watch(key.split(','))), [quotes, key])
  return useLink((s) => s.quotes)
}

/** The latest quote of one symbol. */
export function useQuote(symbol: string | undefined): Quote | undefined {
  const { quotes } = useServices()
  useEffect(() => (symbol ? quotes.watch([symbol]) : undefined), [quotes, symbol])
  return useLink((s) => (symbol ? s.quotes[symbol] : undefined))
}

/** The environment and account that everything is asked of: first in the key of each query about it. */
export const useOf = (): string => useConnection((s) => s.of)

/** Values at the last prices change with the market: asked for again this often while it runs. */
const ALIVE = 1_500

export const useAccount = () => {
  const broker = useBroker()
  return useQuery({ queryKey: [useOf(), 'account'], queryFn: broker.ownAccount, refetchInterval: ALIVE })
}

/** How amounts of the account are written: in its currency. */
export function useMoney(): (value: number | undefined, decimals?: number) => string {
  const currency = useAccount().data?.currency ?? 'USD'
  return (value, decimals) => moneyText(value, currency, decimals)
}

/** Every account that the key in use speaks for. */
export const useAccounts = () => {
  const broker = useBroker()
  const { environment } = useConnection()
  return useQuery({ queryKey: [environment, 'accounts'], queryFn: broker.accounts })
}

export const usePositions = () => {
  const broker = useBroker()
  return useQuery({ queryKey: [useOf(), 'positions'], queryFn: broker.positions, refetchInterval: ALIVE })
}

/** What is held of a security by lot; asked for while one is looked at. */
export const useLots = (symbol: string) => {
  const broker = useBroker()
  return useQuery({
    queryKey: [useOf(), 'positions', 'lots', symbol],
    queryFn: () => broker.lots(symbol),
    refetchInterval: ALIVE,
  })
}

/** What each group of orders holds. */
export const useGroups = () => {
  const broker = useBroker()
  return useQuery({ queryKey: [useOf(), 'groups'], queryFn: broker.groups, refetchInterval: ALIVE })
}

/** Option contracts of an underlying. */
export const useOptions = (underlying: string) => {
  const broker = useBroker()
  const date = useLink((s) => s.clock?.now.slice(0, 10))
  return useQuery({ queryKey: ['options', underlying, date], queryFn: () => broker.options(underlying) })
}

export const useOrders = (which: 'today' | 'working' | 'all' = 'today') => {
  const broker = useBroker()
  return useQuery({
    queryKey: [useOf(), 'orders', which],
    queryFn: () => broker.orders(which),
    refetchInterval: 10_000,
  })
}

const securitiesOf = ({ securities }: Broker) =>
  queryOptions({ queryKey: ['securities'], queryFn: securities, staleTime: Infinity })

export const useSecurities = () => useQuery(securitiesOf(useBroker()))

/** Every venue and its session. */
const venuesOf = ({ venues }: Broker) =>
  queryOptions({ queryKey: ['venues'], queryFn: venues, refetchInterval: 5_000 })

export const useVenues = () => useQuery(venuesOf(useBroker()))

/** Symbol of the index of each venue. */
export const useIndices = () =>
  useQuery({
    ...venuesOf(useBroker()),
    select: (venues) => Object.fromEntries(venues.map(({ mic, index }) => [mic, index])),
  })

/** The home venue of the stand-in world. */
export const VENUE = 'XBKW'

/** Which session of each venue is under way or next, and whether it is open, as one text without spaces. */
export const useStates = () =>
  useQuery({
    ...venuesOf(useBroker()),
    select: (venues) => venues.map(({ mic, date, state }) => `${mic}:${date}:${state}`).join(','),
  })

/** Rates of other currencies, which are those of the session before. */
export const useRates = () => {
  const broker = useBroker()
  const date = useLink((s) => s.clock?.now.slice(0, 10))
  return useQuery({ queryKey: ['rates', date], queryFn: broker.rates })
}

/** Id of the world that the broker is in, which may be another one under the same address; undefined until it is known. */
export function useWorldId(): string | undefined {
  const broker = useBroker()
  return useQuery({
    queryKey: [useOf(), 'world'],
    queryFn: async () => (await broker.whoami()).world.id,
    refetchInterval: 60_000,
  }).data
}

/** The session of the home venue. */
export const useSession = () =>
  useQuery({
    ...venuesOf(useBroker()),
    select: (venues) => venues.find((venue) => venue.mic === VENUE),
  })
