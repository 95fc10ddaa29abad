import { join } from 'node:path'
import { DateTime } from 'luxon'
import { evidenceOf, type Tried } from '@/core/engine/evidence'
import { type Listed } from '@/core/engine/listed'
import { missSentence } from '@/core/engine/nearestMiss'
import { sayClause, sayTrace, sayTried } from '@/core/engine/say'
import { localDate, type Session, sessionOn } from '@/core/market/venue'
import { type Plan } from '@/core/plans/document'
import { bound } from '@/core/plans/inputs'
import { type Broker } from '@/client'
import { contractsOf } from '@/core/plans/drawn'
import { knownAccount, type Known, listContracts } from '@/runner/connect'
import { type Line, linesOf, tracesOf } from '@/runner/folder'
import { rememberedIn } from '@/runner/remembered'
import { barsBy, triedAt } from '@/runner/tried'
import { momentOf } from '@/core/plans/times'
import { EXIT, Failure } from './fail'
import { readPlan } from './plan'
import { lineOf } from './planLines'
import { connected, type TradingOptions } from './trading'

export interface WhyOptions extends TradingOptions {
  folder: string
  date?: string
}

const CLOCK = /^([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?$/

/**
 * Why a plan did, or did not, order a security at a time of a session: what was written down then, and every clause judged again
 * on the prices of that moment. Throws Failure.
 */
export async function why(path: string, symbol: string, clock: string, options: WhyOptions): Promise<string> {
  if (!CLOCK.test(clock))
    throw new Failure(`"${clock}" is no time of day; write it as 10:31 or 10:31:05.`, EXIT.usage)
  const plan = bound(readPlan(path))
  const broker = await connected(options)
  const known = await knownAccount(broker, [])
  const listed = known.shared.listed[symbol]
  if (!listed) throw new Failure(`The broker lists no ${symbol}.`)
  await listContracts(broker, known.shared.listed, contractsOf(plan))
  const date = options.date ?? localDate(listed.venue, known.now)
  const session = sessionOn(listed.venue, date)
  if (!session) throw new Failure(`There was no session on ${date}; give a day with --date.`, EXIT.usage)
  const seconds = clock.length > 5 ? Number(clock.slice(6)) : undefined
  const asked = momentOf({ clock: clock.slice(0, 5) }, session, listed.venue.zone) + 1000 * (seconds ?? 0)
  const written = writtenIn(
    join(options.folder, plan.id),
    symbol,
    date,
    asked,
    seconds === undefined ? 60_000 : 1000,
  )
  // If it ordered within the minute that is asked about, that very moment is judged again.
  const at = written?.orderedAt ?? asked
  if (at > known.now) throw new Failure(`${clock} on ${date} has not come yet.`, EXIT.usage)
  const { seen } = rememberedIn(join(options.folder, plan.id), known.worldId)
  const parts = await Promise.all(
    plan.sides.map((_, side) => againAt(broker, { ...known, seen }, plan, side, listed, at)),
  )
  return [
    written?.text ?? `Nothing was written down of ${symbol} by then on ${date}.`,
    ...nearestOf(join(options.folder, plan.id), session, listed.venue.zone),
    ...parts.map((lines) =>
      [`On the prices of ${clockAt(at, listed.venue.zone)}, with the account as it is now:`, ...lines].join(
        '\n',
      ),
    ),
    '',
  ].join('\n')
}

/** The look of a session at which the plan was closest to an order, in any security. */
function nearestOf(folder: string, { open, close }: Session, zone: string): string[] {
  const line = linesOf(folder).findLast(
    (one) => one.is === 'miss' && one.miss.at >= open && one.miss.at <= close,
  )
  return line?.is === 'miss' ? [`Of the session: ${missSentence(line.miss, zone)}`] : []
}

const clockAt = (at: number, zone: string): string => DateTime.fromMillis(at, { zone }).toFormat('HH:mm:ss')

/** What was written of a security in a span of time: what it ordered there, else what it came to last before. */
function writtenIn(
  folder: string,
  symbol: string,
  date: string,
  from: number,
  span: number,
): { text: string; orderedAt?: number } | undefined {
  const traces = tracesOf(folder, date).filter(
    (line): line is Extract<Line, { is: 'trace' }> => line.is === 'trace' && line.trace.symbol === symbol,
  )
  const told = ({ market, trace }: (typeof traces)[number]) =>
    `Written at ${market.slice(11, 19)}: ${sayTrace(trace)}`
  const isWithin = (at: number) => at >= from && at < from + span
  // A look comes a moment after the end of the bar that it judges: either may be asked about.
  const ordered = traces.filter(
    ({ market, trace }) =>
      trace.clOrdId !== undefined && (isWithin(trace.at) || isWithin(Date.parse(market))),
  )
  const left = linesOf(folder).flatMap((line) =>
    line.is === 'intent' &&
    line.intent.is === 'send' &&
    line.intent.role === 'out' &&
    line.intent.order.symbol === symbol &&
    isWithin(Date.parse(line.market))
      ? [`Written at ${line.market.slice(11, 19)}: ${lineOf(line, `${symbol}:`)}`]
      : [],
  )
  if (ordered.length > 0 || left.length > 0)
    return { text: [...ordered.map(told), ...left].join('\n'), orderedAt: ordered.at(-1)?.trace.at }
  const last = traces.findLast(({ trace }) => trace.at < from + span)
  if (!last) return undefined
  // Looks are counted from one trace to the next, that one included, and anew when the plan is begun again.
  const next = traces[traces.indexOf(last) + 1]
  const same = (next?.trace.looks ?? 1) - 1
  return {
    text:
      same > 0
        ? `${told(last)}. It came to the same for ${same} more ${same === 1 ? 'look' : 'looks'}`
        : told(last),
  }
}

/** Every clause of a side judged on the prices of a moment. */
async function againAt(
  broker: Broker,
  known: Known & Pick<Tried, 'seen'>,
  plan: Plan,
  side: number,
  { security: { symbol } }: Listed,
  at: number,
): Promise<string[]> {
  const one = { plan, side, symbol }
  const bars = await barsBy(broker, known, one, at, 400)
  const tried = await triedAt(broker, known, one, bars, at)
  if (!tried) return ['  There was no quote: the venue was closed.']
  const { findings, begins } = evidenceOf(plan, side, symbol, { ...tried, seen: known.seen })
  return [
    ...findings.map((each) => `  ${each.verdict.padEnd(8)}${each.clause.padEnd(10)}${sayClause(each)}`),
    `  ${sayTried(symbol, findings, begins)}`,
  ]
}
