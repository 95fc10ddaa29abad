import { join } from 'node:path'
import { besidesNamed, besidesOf, mateIn } from '@/core/engine/besides'
import { evidenceOf } from '@/core/engine/evidence'
import { type Listed } from '@/core/engine/listed'
import { sayClause, sayTrace } from '@/core/engine/say'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { type Bars } from '@/core/market/bars'
import { stamper } from '@/core/market/moments'
import { parseTimeframe } from '@/core/market/timeframe'
import { localDate, sessionOn } from '@/core/market/venue'
import { barsBefore } from '@/core/plans/barsBefore'
import { type Plan } from '@/core/plans/document'
import { bound } from '@/core/plans/inputs'
import { type Broker } from '@/client'
import { contractsOf } from '@/core/plans/drawn'
import { asksForBases, basesOf } from '@/runner/bases'
import { knownAccount, type Known, listContracts } from '@/runner/connect'
import { type Line, tracesOf } from '@/runner/folder'
import { asksForMarket, marketsAt } from '@/runner/marketOf'
import { growingAt, quoteAt } from '@/runner/past'
import { momentOf } from '@/core/plans/times'
import { pricesOf } from '@/core/plans/texts'
import { EXIT, Failure } from './fail'
import { readPlan } from './plan'
import { connected, type TradingOptions } from './trading'

export interface WhyOptions extends TradingOptions {
  folder: string
  date?: string
}

const CLOCK = /^([01]\d|2[0-3]):[0-5]\d$/

/**
 * Why a plan did, or did not, order a security at a time of a session: what was written down then, and every clause judged again
 * on the prices of that moment. Throws Failure.
 */
export async function why(path: string, symbol: string, clock: string, options: WhyOptions): Promise<string> {
  if (!CLOCK.test(clock)) throw new Failure(`"${clock}" is no time of day; write it as 10:31.`, EXIT.usage)
  const plan = bound(readPlan(path))
  const broker = await connected(options)
  const known = await knownAccount(broker, [])
  const listed = known.shared.listed[symbol]
  if (!listed) throw new Failure(`The broker lists no ${symbol}.`)
  await listContracts(broker, known.shared.listed, contractsOf(plan))
  if (asksForBases(plan.sides)) known.shared.bases = await basesOf(broker, known.shared, known.now)
  const date = options.date ?? localDate(listed.venue, known.now)
  const session = sessionOn(listed.venue, date)
  if (!session) throw new Failure(`There was no session on ${date}; give a day with --date.`, EXIT.usage)
  const at = momentOf({ clock }, session, listed.venue.zone)
  if (asksForMarket(plan.sides)) known.shared.market = await marketsAt(broker, known.shared, [symbol], at)
  if (at > known.now) throw new Failure(`${clock} on ${date} has not come yet.`, EXIT.usage)
  const written = writtenBy(join(options.folder, plan.id), symbol, date, at)
  const parts = await Promise.all(plan.sides.map((_, side) => againAt(broker, known, plan, side, listed, at)))
  return [
    written ?? `Nothing was written down of ${symbol} by then on ${date}.`,
    ...parts.map((lines) =>
      [`On the prices of ${clock}, with the account as it is now:`, ...lines].join('\n'),
    ),
    '',
  ].join('\n')
}

/** What was last written of a security by a moment, as a sentence. */
function writtenBy(folder: string, symbol: string, date: string, at: number): string | undefined {
  const traces = tracesOf(folder, date).filter(
    (line): line is Extract<Line, { is: 'trace' }> => line.is === 'trace' && line.trace.symbol === symbol,
  )
  const last = traces.findLast(({ trace }) => trace.at <= at)
  if (!last) return undefined
  const next = traces.find(({ trace }) => trace.at > at)
  const until =
    next?.trace.looks !== undefined ? `, and came to the same for ${next.trace.looks - 1} looks more` : ''
  return `Written at ${last.market.slice(11, 19)}${until}: ${sayTrace(last.trace)}`
}

/** Every clause of a side judged on the prices of a moment. */
async function againAt(
  broker: Broker,
  { shared, reports }: Known,
  plan: Plan,
  side: number,
  listed: Listed,
  at: number,
): Promise<string[]> {
  const own = plan.sides[side]
  const { symbol } = listed.security
  const quote = await quoteAt(broker, listed, at)
  if (!quote) return ['  There was no quote: the venue was closed.']
  const every = own.if.every
  const mate = mateIn(own, symbol)
  const to = stamper({ count: 1, unit: 'day' }, listed.venue.zone)(at)
  const barsOf = async (of: string) =>
    openTable(
      decodeBars(
        await broker.bars(every, {
          symbols: [of],
          limit: barsBefore(own, 1) + 400,
          to,
          prices: pricesOf(own),
        }),
      ),
    ).bars[0]
  const growing =
    own.if.bars === 'SoFar' ? await growingAt(broker, listed, parseTimeframe(every)!, at) : undefined
  const mateQuote = mate === undefined ? undefined : await quoteAt(broker, shared.listed[mate], at)
  const others = new Map<string, Bars>()
  for (const other of besidesOf(own, besidesNamed(own), symbol, shared.listed).keys())
    others.set(other, await barsOf(other))
  const { findings } = evidenceOf(plan, side, symbol, {
    ...{ shared, bars: await barsOf(symbol), growing, quote, at },
    reports: reports.filter(({ transactTime }) => Date.parse(transactTime) <= at),
    ...{ others, mateQuote },
  })
  return [
    ...findings.map((one) => `  ${one.verdict.padEnd(8)}${one.clause.padEnd(10)}${sayClause(one)}`),
    `  ${sayTrace({ at, planId: plan.id, version: plan.version, side, symbol, findings })}`,
  ]
}
