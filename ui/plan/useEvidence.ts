import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { evidenceOf } from '@/core/engine/evidence'
import { type Judged } from '@/core/engine/judge'
import { planIssues } from '@/core/plans/check'
import { type Plan } from '@/core/plans/document'
import { knownAccount } from '@/runner/connect'
import { useBroker, useOf, useQuote } from '../link/LinkProvider'

const BARS = 400

/** What a plan comes to for a security now, asked again at each edit; or why that cannot be told. */
export function useEvidence(plan: Plan, side: number, symbol: string): Judged | { why: string } {
  const broker = useBroker()
  const of = useOf()
  const { every } = plan.sides[side].if
  const quote = useQuote(symbol)
  const known = useQuery({
    queryKey: [of, 'plan account'],
    queryFn: async () => {
      const found = await knownAccount(broker, [])
      const held = Object.values(found.shared.book.holdings).filter(({ quantity }) => quantity !== 0)
      const quotes = held.length > 0 ? await broker.quotes(held.map((one) => one.symbol)) : []
      for (const one of quotes) found.shared.quotes[one.symbol] = { ...one, at: Date.parse(one.at) }
      return found
    },
    refetchInterval: 3_000,
    structuralSharing: false,
  })
  const bars = useQuery({
    queryKey: [of, 'plan bars', symbol, every],
    queryFn: async () =>
      openTable(decodeBars(await broker.bars(every, { symbols: [symbol], limit: BARS }))).bars[0],
    refetchInterval: 3_000,
    structuralSharing: false,
  })
  return useMemo(() => {
    const wrong = planIssues(plan).find((issue) => issue.is === 'error')
    if (wrong) return { why: `${wrong.clause}: ${wrong.text}` }
    const failed = known.error ?? bars.error
    if (failed) return { why: failed.message }
    if (!known.data || !bars.data || !quote) return { why: 'asking the market …' }
    if (!known.data.shared.listed[symbol]) return { why: `The broker lists no ${symbol}.` }
    const { bid, ask, last } = quote
    const at = Date.parse(quote.at)
    return evidenceOf(plan, side, symbol, {
      ...{ shared: known.data.shared, reports: known.data.reports, bars: bars.data },
      ...{ quote: { at, bid, ask, last }, at },
    })
  }, [plan, side, symbol, quote, known.data, known.error, bars.data, bars.error])
}
