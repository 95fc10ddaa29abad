import { replaceEqualDeep, skipToken, useQuery } from '@tanstack/react-query'
import { useLiveQuery } from 'dexie-react-hooks'
import { DateTime } from 'luxon'
import { useMemo } from 'react'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { type Bars, columnNames, type ExtraName } from '@/core/market/bars'
import { type Report } from '@/core/market/figures'
import { besidesNamed, besidesOf, mateIn } from '@/core/engine/besides'
import { beginningsOf, type Evidence, evidenceOf } from '@/core/engine/evidence'
import { lookBack, type Past } from '@/core/engine/lookBack'
import { barsBefore } from '@/core/plans/barsBefore'
import { isOption } from '@/core/options/osi'
import { type Shared } from '@/core/engine/shared'
import { type ExecutionReport } from '@/core/orders/model'
import { planIssues } from '@/core/plans/check'
import { type Plan, type Side } from '@/core/plans/document'
import { asksOfCompanies, contractsOf } from '@/core/plans/drawn'
import { looksAt } from '@/core/plans/putsOff'
import { type FoundNow, wrongFound } from '@/core/plans/found'
import { dayView } from '@/store/dayView'
import { seenBook } from '@/store/plans'
import { barAt, type LiveBar } from '@/core/rules/exec/liveBar'
import { countsOf, pricesOf } from '@/core/plans/texts'
import { asksForBases, basesOf } from '@/runner/bases'
import { type Known, knownAccount, listContracts } from '@/runner/connect'
import { asksForMarket, marketsAt } from '@/runner/marketOf'
import { quotedThen } from '@/runner/tried'
import { universeOf } from '@/runner/universe'
import { useBroker, useOf, useQuote, useSession } from '../link/LinkProvider'

/** Bars in which earlier beginnings are looked for. */
const BARS = 600

function barsOf(plan: Plan, side: number): number {
  try {
    return Math.max(BARS, barsBefore(plan.sides[side], 1))
  } catch {
    // What cannot be read needs none: it is told.
    return BARS
  }
}

/** Bars that are the same as those before stay those before, so that what follows from them is not worked out again. */
const keepSame = (before: Bars | undefined, bars: Bars): Bars =>
  before &&
  before.every === bars.every &&
  before.time.length === bars.time.length &&
  columnNames(bars).every((name) => before[name]?.every((x, i) => Object.is(x, bars[name]![i])))
    ? before
    : bars

const withSameListed = (before: Known | undefined, known: Known): Known => ({
  ...known,
  shared: { ...known.shared, listed: replaceEqualDeep(before?.shared.listed, known.shared.listed) },
})

/** The account, with quotes of what it holds and of contracts that a plan would open. */
function useAccountNow(contracts: readonly string[] = []) {
  const broker = useBroker()
  return useQuery({
    queryKey: [useOf(), 'plan account', contracts.join()],
    queryFn: async () => {
      const found = await knownAccount(broker, [])
      const { listed, book } = found.shared
      await listContracts(broker, listed, contracts)
      const held = Object.values(book.holdings).filter(({ quantity }) => quantity !== 0)
      const symbols = [...held.map(({ symbol }) => symbol), ...contracts.filter((symbol) => listed[symbol])]
      const quotes = symbols.length > 0 ? await broker.quotes([...new Set(symbols)]) : []
      for (const one of quotes) found.shared.quotes[one.symbol] = { ...one, at: Date.parse(one.at) }
      return found
    },
    refetchInterval: 3_000,
    // What is listed stays the same where it is: past bars are not asked again for it.
    structuralSharing: (before, known) => withSameListed(before as Known | undefined, known as Known),
  })
}

/** What a side of a plan looks at now, where it is found or held; undefined where the plan names it, or it is not known yet. */
export function useFoundNow(plan: Plan, side: number): { data?: FoundNow; error: Error | null } {
  const { among } = plan.sides[side]
  const broker = useBroker()
  const account = useAccountNow()
  const of = useOf()
  const ask = 'list' in among || 'pairs' in among || !account.data ? undefined : account.data
  const wrong = 'found' in among && wrongFound(among.found) !== undefined
  return useQuery({
    queryKey: [of, 'plan universe', plan.id, JSON.stringify(among), ask !== undefined],
    queryFn: ask && !wrong ? () => universeOf(broker, plan, side, ask.shared, ask.reports) : skipToken,
    refetchInterval: 30_000,
  })
}

/** What had happened by a moment. */
const until = (reports: readonly ExecutionReport[], at: number) =>
  reports.filter(({ transactTime }) => Date.parse(transactTime) <= at)

/** Counts of trades that a side reads, and whether it asks for company figures; none where it cannot be read yet. */
function readsOfSide(side: Side): { counts: ExtraName[]; asksFigures: boolean } {
  try {
    return { counts: countsOf(side), asksFigures: asksOfCompanies({ sides: [side] }) }
  } catch {
    return { counts: [], asksFigures: false }
  }
}

/** What is listed with what companies have reported. */
const withReports = (
  listed: Shared['listed'],
  reports: Readonly<Record<string, Report[]>>,
): Shared['listed'] =>
  Object.fromEntries(
    Object.entries(listed).map(([symbol, one]) => [symbol, { ...one, reports: reports[symbol] ?? [] }]),
  )

/** The bar that grows; undefined where the last is complete. */
function growingOf(bars: Bars): LiveBar | undefined {
  const last = bars.time.length - 1
  return last >= 0 && bars.end[last] === Infinity ? barAt(bars, last) : undefined
}

const withoutContracts = (shared: Shared): Shared => ({
  ...shared,
  quotes: Object.fromEntries(Object.entries(shared.quotes).filter(([symbol]) => !isOption(symbol))),
})

/** When a plan is tried: now, or at a past moment of the market. */
export type TriedAt = 'now' | number

export interface EvidenceNow {
  judged?: Evidence
  /** Why that cannot be told. */
  why?: string
  /** Moments at which it was looked at what began, newest first: ends of bars, or in the session after them. */
  began: readonly number[]
  /** The bars that it was asked on, and what would have become of its past beginnings on them. */
  bars?: Bars
  pasts: readonly Past[]
}

/** What a plan comes to for a security at a moment, asked again at each edit; or why that cannot be told. */
export function useEvidence(
  plan: Plan,
  side: number,
  symbol: string,
  when: TriedAt,
  member: boolean | undefined,
  event?: string,
): EvidenceNow {
  const broker = useBroker()
  const of = useOf()
  const { every, bars: which } = plan.sides[side].if
  const prices = pricesOf(plan.sides[side])
  const { counts, asksFigures } = readsOfSide(plan.sides[side])
  const quote = useQuote(symbol)
  const contracts = contractsOf({ sides: [plan.sides[side]] })
  const known = useAccountNow(contracts)
  const soFar = which === 'SoFar'
  const limit = barsOf(plan, side)
  const zone = known.data?.shared.listed[symbol]?.venue.zone
  // A moment of long ago is asked on the bars of then.
  const to = when === 'now' || !zone ? undefined : DateTime.fromMillis(when, { zone }).toISODate()!
  const bars = useQuery({
    queryKey: [of, 'plan bars', symbol, every, prices, soFar, limit, to, counts.join()],
    queryFn: async () =>
      openTable(
        decodeBars(await broker.bars(every, { symbols: [symbol], limit, soFar, to, prices, extras: counts })),
      ).bars[0],
    refetchInterval: 3_000,
    structuralSharing: (before, fresh) => keepSame(before as Bars | undefined, fresh as Bars),
  })
  const mate = mateIn(plan.sides[side], symbol)
  const mateQuote = useQuote(mate)
  const asksBases = asksForBases([plan.sides[side]])
  const bases = useQuery({
    queryKey: [of, 'plan bases', asksBases && known.data !== undefined],
    queryFn: asksBases && known.data ? () => basesOf(broker, known.data.shared, known.data.now) : skipToken,
    staleTime: 60_000,
  })
  const asksMarket = asksForMarket([plan.sides[side]])
  // It stands as the session before left it: asked once for a date.
  const market = useQuery({
    queryKey: [of, 'plan market', symbol, asksMarket && known.data !== undefined, to],
    queryFn:
      asksMarket && known.data
        ? () => marketsAt(broker, known.data.shared, [symbol], when === 'now' ? known.data.now : when)
        : skipToken,
    staleTime: 600_000,
  })
  const figures = useQuery({
    queryKey: [of, 'plan figures', asksFigures],
    queryFn: asksFigures ? () => broker.reports() : skipToken,
    staleTime: 600_000,
  })
  const account = known.data?.shared.listed
  const all = useMemo(
    () => (account && figures.data ? withReports(account, figures.data) : account),
    [account, figures.data],
  )
  const listed = all?.[symbol]
  // What is wrong with it as it stands, before anything is asked of the market with it.
  const { wrong, besides } = useMemo(() => {
    const issue = planIssues(plan).find(({ is }) => is === 'error')
    if (issue) return { wrong: `${issue.clause}: ${issue.text}`, besides: '' }
    if (!all?.[symbol]) return { besides: '' }
    try {
      const own = plan.sides[side]
      return { besides: [...besidesOf(own, besidesNamed(plan, own), symbol, all).keys()].join() }
    } catch (error) {
      return { wrong: `If: ${(error as Error).message}`, besides: '' }
    }
  }, [plan, side, symbol, all])
  const others = useQuery({
    queryKey: [of, 'plan bars beside', besides, every, prices, limit, to],
    queryFn: besides
      ? async () => {
          const symbols = besides.split(',')
          const set = openTable(decodeBars(await broker.bars(every, { symbols, limit, to, prices })))
          return new Map(set.symbols.map((one, i) => [one, set.bars[i]]))
        }
      : skipToken,
    refetchInterval: 3_000,
    structuralSharing: false,
  })
  const date = useSession().data?.date
  const view = useLiveQuery(() => (date ? dayView(date) : undefined), [date])
  const worldId = known.data?.worldId
  const seen = useLiveQuery(
    () => (worldId === undefined ? undefined : seenBook(plan.id, worldId)),
    [plan.id, worldId],
  )
  const past = useQuery({
    queryKey: [of, 'plan tick', symbol, mate, when, soFar ? every : '', contracts.join()],
    queryFn:
      when === 'now' || !listed
        ? skipToken
        : async () => (await quotedThen(broker, all!, { plan, side, symbol }, when)) ?? null,
    staleTime: Infinity,
  })
  const began = useMemo(
    () =>
      wrong || !bars.data || !listed
        ? []
        : beginningsOf(plan, side, { bars: bars.data, others: others.data }, all!, symbol).map((end) =>
            looksAt(plan, plan.sides[side], listed.venue, end),
          ),
    [plan, side, symbol, wrong, bars.data, listed, all, others.data],
  )
  const pasts = useMemo(
    () =>
      wrong || !bars.data || !listed
        ? []
        : lookBack(plan, side, { bars: bars.data, others: others.data }, all!, symbol),
    [plan, side, symbol, wrong, bars.data, listed, all, others.data],
  )
  const found = useMemo(() => {
    if (wrong) return { why: wrong, began }
    const failed = known.error ?? bars.error ?? past.error
    if (failed) return { why: failed.message, began }
    if (!known.data || !bars.data) return { why: 'asking the market …', began }
    if (!listed) return { why: `The broker lists no ${symbol}.`, began }
    if (when !== 'now' && past.data === null)
      return { why: 'There was no quote at that moment: the venue was closed.', began }
    const told = when !== 'now' ? past.data?.quote : quote && { ...quote, at: Date.parse(quote.at) }
    if (!told) return { why: 'asking the market …', began }
    const { at } = told
    const growing = when === 'now' ? growingOf(bars.data) : past.data?.growing
    const now = mateQuote && { ...mateQuote, at: Date.parse(mateQuote.at) }
    const shared = { ...known.data.shared, listed: all!, bases: bases.data ?? {}, market: market.data ?? {} }
    const judged = evidenceOf(plan, side, symbol, {
      // Quotes of now are not those of then.
      ...{
        shared: when === 'now' ? shared : withoutContracts(shared),
        reports: when === 'now' ? known.data.reports : until(known.data.reports, when),
        bars: bars.data,
      },
      ...{ quote: told, growing, at, member, others: others.data, view, seen, event },
      contracts: when === 'now' ? undefined : past.data?.contracts,
      mateQuote: when === 'now' ? now : past.data?.mateQuote,
    })
    return { judged, began }
  }, [
    plan,
    side,
    symbol,
    when,
    member,
    event,
    quote,
    wrong,
    began,
    all,
    listed,
    known,
    bars,
    past,
    others.data,
    mateQuote,
    view,
    seen,
    bases.data,
    market.data,
  ])
  // What began with the last close is looked at in a session that is still to come.
  const now = known.data?.now ?? Infinity
  return { ...found, began: began.filter((at) => at <= now), bars: bars.data, pasts }
}
