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

/** What was quoted at a past moment of all that a side orders of a security, and the bar that grew; undefined where the venue was closed. */
export async function quotedThen(
  broker: Broker,
  listed: Known['shared']['listed'],
  { plan, side, symbol }: OneOf,
  at: number,
): Promise<Pick<Tried, 'quote' | 'mateQuote' | 'contracts' | 'growing'> | undefined> {
  const own = plan.sides[side]
  const mate = mateIn(own, symbol)
  const [quote, mateQuote, contracts, growing] = await Promise.all([
    quoteAt(broker, listed[symbol], at),
    mate === undefined || !listed[mate] ? undefined : quoteAt(broker, listed[mate], at),
    contractsAt(broker, listed, contractsOf({ sides: [own] }), at),
    own.if.bars === 'SoFar'
      ? growingAt(broker, listed[symbol], parseTimeframe(own.if.every)!, at)
      : undefined,
  ])
  return quote && { quote, mateQuote, contracts, growing }
}

/** What a side is tried on at a past moment, as the broker tells it now; undefined where the venue was closed. */
export async function triedAt(
  broker: Broker,
  known: Pick<Known, 'shared' | 'reports' | 'now'>,
  one: OneOf,
  { bars, others }: PastBars,
  at: number,
): Promise<Tried | undefined> {
  const { shared, reports, now } = known
  const own = one.plan.sides[one.side]
  const quoted = await quotedThen(broker, shared.listed, one, at)
  if (!quoted) return undefined
  const [market, bases] = await Promise.all([
    asksForMarket([own]) ? marketsAt(broker, shared, [one.symbol], at) : {},
    asksForBases([own]) ? basesOf(broker, shared, now) : shared.bases,
  ])
  return {
    ...{ ...quoted, shared: { ...shared, market, bases }, bars, others, at },
    reports: reports.filter(({ transactTime }) => Date.parse(transactTime) <= at),
  }
}
