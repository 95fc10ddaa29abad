import { skipToken, useQuery } from '@tanstack/react-query'
import { useLiveQuery } from 'dexie-react-hooks'
import { useMemo } from 'react'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { stamper } from '@/core/market/moments'
import { beginningsOf, evidenceOf, mateIn } from '@/core/engine/evidence'
import { type Judged } from '@/core/engine/judge'
import { barsBefore } from '@/core/plans/barsBefore'
import { isOption } from '@/core/options/osi'
import { type Shared } from '@/core/engine/shared'
import { planIssues } from '@/core/plans/check'
import { type Among, type Plan } from '@/core/plans/document'
import { contractsOf } from '@/core/plans/drawn'
import { type FoundNow, wrongFound } from '@/core/plans/found'
import { dayView } from '@/store/dayView'
import { knownAccount, listContracts } from '@/runner/connect'
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
    structuralSharing: false,
  })
}

/** What a side of a plan looks at now, where it is found or held; undefined where the plan names it, or it is not known yet. */
export function useFoundNow(among: Among): { data?: FoundNow; error: Error | null } {
  const broker = useBroker()
  const account = useAccountNow()
  const of = useOf()
  const ask = 'list' in among || 'pairs' in among || !account.data ? undefined : account.data.shared
  const wrong = 'found' in among && wrongFound(among.found) !== undefined
  return useQuery({
    queryKey: [of, 'plan universe', JSON.stringify(among), ask !== undefined],
    queryFn: ask && !wrong ? () => universeOf(broker, { among }, ask) : skipToken,
    refetchInterval: 30_000,
  })
}

const withoutContracts = (shared: Shared): Shared => ({
  ...shared,
  quotes: Object.fromEntries(Object.entries(shared.quotes).filter(([symbol]) => !isOption(symbol))),
})

/** When a plan is tried: now, or at a past moment of the market. */
export type TriedAt = 'now' | number

export interface EvidenceNow {
  judged?: Judged
  /** Why that cannot be told. */
  why?: string
  /** Ends of bars at which the condition began, newest first. */
  began: readonly number[]
}

/** What a plan comes to for a security at a moment, asked again at each edit; or why that cannot be told. */
export function useEvidence(
  plan: Plan,
  side: number,
  symbol: string,
  when: TriedAt,
  member: boolean | undefined,
): EvidenceNow {
  const broker = useBroker()
  const of = useOf()
  const { every, bars: which } = plan.sides[side].if
  const quote = useQuote(symbol)
  const contracts = contractsOf({ sides: [plan.sides[side]] })
  const known = useAccountNow(contracts)
  const soFar = which === 'SoFar'
  const limit = barsOf(plan, side)
  const bars = useQuery({
    queryKey: [of, 'plan bars', symbol, every, soFar, limit],
    queryFn: async () =>
      openTable(decodeBars(await broker.bars(every, { symbols: [symbol], limit, soFar }))).bars[0],
    refetchInterval: 3_000,
    structuralSharing: false,
  })
  const mate = mateIn(plan.sides[side], symbol)
  const mateQuote = useQuote(mate)
  const mateBars = useQuery({
    queryKey: [of, 'plan bars', mate, every, limit],
    queryFn: mate
      ? async () => openTable(decodeBars(await broker.bars(every, { symbols: [mate], limit }))).bars[0]
      : skipToken,
    refetchInterval: 3_000,
    structuralSharing: false,
  })
  const listed = known.data?.shared.listed[symbol]
  const date = useSession().data?.date
  const view = useLiveQuery(() => (date ? dayView(date) : undefined), [date])
  const past = useQuery({
    queryKey: [of, 'plan tick', symbol, when],
    queryFn:
      when === 'now' || !listed
        ? skipToken
        : async () => {
            const stamp = stamper({ count: 1, unit: 'min' }, listed.venue.zone)
            return (await broker.ticks(symbol, stamp(when - 1000), 1)).at(0) ?? null
          },
    staleTime: Infinity,
  })
  const wrong = useMemo(() => {
    const issue = planIssues(plan).find(({ is }) => is === 'error')
    return issue && `${issue.clause}: ${issue.text}`
  }, [plan])
  const began = useMemo(
    () =>
      wrong || !bars.data || !listed
        ? []
        : beginningsOf(plan, side, { bars: bars.data, mate: mateBars.data }, listed),
    [plan, side, wrong, bars.data, listed, mateBars.data],
  )
  return useMemo(() => {
    if (wrong) return { why: wrong, began }
    const failed = known.error ?? bars.error ?? past.error
    if (failed) return { why: failed.message, began }
    if (!known.data || !bars.data) return { why: 'asking the market …', began }
    if (!listed) return { why: `The broker lists no ${symbol}.`, began }
    const told = when === 'now' ? quote : past.data
    if (told === null) return { why: 'There was no quote at that moment: the venue was closed.', began }
    if (!told) return { why: 'asking the market …', began }
    const { bid, ask, last } = told
    const at = when === 'now' ? Date.parse(told.at) : when
    const other =
      mateBars.data && mateQuote
        ? { bars: mateBars.data, quote: { ...mateQuote, at: Date.parse(mateQuote.at) } }
        : undefined
    const judged = evidenceOf(plan, side, symbol, {
      // What contracts were quoted at then is not kept.
      ...{
        shared: when === 'now' ? known.data.shared : withoutContracts(known.data.shared),
        reports: known.data.reports,
        bars: bars.data,
      },
      ...{ quote: { at, bid, ask, last }, at, member, mate: other, view },
    })
    return { judged, began }
  }, [
    plan,
    side,
    symbol,
    when,
    member,
    quote,
    wrong,
    began,
    listed,
    known,
    bars,
    past,
    mateBars,
    mateQuote,
    view,
  ])
}
