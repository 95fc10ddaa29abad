import { type Broker } from '@/client'
import { besidesNamed, besidesOf, mateIn } from '@/core/engine/besides'
import { type PastBars, type Tried } from '@/core/engine/evidence'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { stamper } from '@/core/market/moments'
import { parseTimeframe } from '@/core/market/timeframe'
import { barsBefore } from '@/core/plans/barsBefore'
import { type Plan } from '@/core/plans/document'
import { asksOfCompanies, contractsOf } from '@/core/plans/drawn'
import { countsOf, pricesOf } from '@/core/plans/texts'
import { asksForBases, basesOf } from './bases'
import { type Known } from './connect'
import { learnFigures } from './figures'
import { asksForMarket, marketsAt } from './marketOf'
import { contractsAt, growingAt, quoteAt } from './past'

/** A side of a plan, made ready, on one security. */
export interface OneOf {
  plan: Plan
  side: number
  symbol: string
}

/** Bars of a security and of those beside it by the date of a moment: so many before those that its rule text needs. */
export async function barsBy(
  broker: Broker,
  { shared }: Pick<Known, 'shared'>,
  { plan, side, symbol }: OneOf,
  at: number,
  more: number,
): Promise<Required<Pick<PastBars, 'bars' | 'others'>>> {
  const own = plan.sides[side]
  const { listed } = shared
  if (asksOfCompanies({ sides: [own] })) await learnFigures(broker, listed)
  const besides = [...besidesOf(own, besidesNamed(plan, own), symbol, listed).keys()]
  const answer = await broker.bars(own.if.every, {
    symbols: [...new Set([symbol, ...besides])],
    limit: barsBefore(own, 1 + besides.length) + more,
    to: stamper({ count: 1, unit: 'day' }, listed[symbol].venue.zone)(at),
    ...{ prices: pricesOf(own), extras: countsOf(own) },
  })
  const set = openTable(decodeBars(answer))
  const others = new Map(set.symbols.map((one, i) => [one, set.bars[i]]))
  return { bars: others.get(symbol)!, others }
}

/** What a side is tried on at a past moment, as the broker tells it now; undefined where the venue was closed. */
export async function triedAt(
  broker: Broker,
  known: Pick<Known, 'shared' | 'reports' | 'now'>,
  { plan, side, symbol }: OneOf,
  { bars, others }: PastBars,
  at: number,
): Promise<Tried | undefined> {
  const { shared, reports, now } = known
  const own = plan.sides[side]
  const listed = shared.listed[symbol]
  const quote = await quoteAt(broker, listed, at)
  if (!quote) return undefined
  const every = parseTimeframe(own.if.every)!
  const mate = mateIn(own, symbol)
  const [growing, mateQuote, contracts, market, bases] = await Promise.all([
    own.if.bars === 'SoFar' ? growingAt(broker, listed, every, at) : undefined,
    mate === undefined ? undefined : quoteAt(broker, shared.listed[mate], at),
    contractsAt(broker, shared.listed, contractsOf({ sides: [own] }), at),
    asksForMarket([own]) ? marketsAt(broker, shared, [symbol], at) : {},
    asksForBases([own]) ? basesOf(broker, shared, now) : shared.bases,
  ])
  return {
    ...{ shared: { ...shared, market, bases }, bars, others, growing, quote, mateQuote, contracts, at },
    reports: reports.filter(({ transactTime }) => Date.parse(transactTime) <= at),
  }
}
