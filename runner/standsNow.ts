import { type Broker } from '@/client'
import { besidesNamed, besidesOf } from '@/core/engine/besides'
import { heldOver } from '@/core/engine/evidence'
import { obstacles } from '@/core/engine/obstacles'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { unreadable } from '@/core/plans/carriedBars'
import { barsBefore } from '@/core/plans/barsBefore'
import { parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { type Plan, type Side } from '@/core/plans/document'
import { asksOfCompanies, contractsOf, namedBy } from '@/core/plans/drawn'
import { bound } from '@/core/plans/inputs'
import { asksOfState } from '@/core/plans/looks'
import { countsOf, pricesOf } from '@/core/plans/texts'
import { knownAccount, listContracts } from './connect'
import { learnFigures } from './figures'
import { universeOf } from './universe'

/** What a plan would begin with, were it armed now. */
export interface StandsNow {
  looksAt: string[]
  /** Securities for which a condition of it holds already. */
  holds: string[]
  /** That a condition held on no bar of the past, or on all of them, in sentences. */
  odd: string[]
  /** Whether a condition could not be asked, for want of bars: what is missing stands in `wrong`. */
  unasked: boolean
  /** What keeps it from being armed, in sentences. */
  wrong: string[]
  worldId: string
  account: string
}

/** What a plan looks at now, for which of those its condition holds already, and what is in the way of arming it. */
export async function standsNow(broker: Broker, given: Plan): Promise<StandsNow> {
  const plan = bound(given)
  const { shared, worldId, account, reports } = await knownAccount(broker, [])
  await listContracts(broker, shared.listed, contractsOf(plan))
  if (asksOfCompanies(plan)) await learnFigures(broker, shared.listed)
  const holds = new Set<string>()
  const looksAt = new Set<string>()
  const lists = (name: string) => shared.listed[name] !== undefined
  const odd: string[] = []
  let unasked = false
  for (const [at, side] of plan.sides.entries()) {
    const { symbols } = await universeOf(broker, plan, at, shared, reports)
    for (const symbol of symbols) looksAt.add(symbol)
    odd.push(...unlistedText(side, lists))
    if (symbols.length === 0) continue
    // What the broker does not list has no bars; that it keeps the plan from being armed stands in `wrong`.
    const cannotAsk =
      !namedBy({ sides: [side] }).every(lists) ||
      unreadable({ sides: [side], bars: plan.bars }, lists).length > 0
    if (cannotAsk) {
      unasked = true
      continue
    }
    const named = besidesNamed(plan, side)
    const besides = symbols.flatMap((symbol) => [...besidesOf(side, named, symbol, shared.listed).keys()])
    if ('pairs' in side.among) for (const mate of besides) looksAt.add(mate)
    const asked = [...new Set([...symbols, ...besides])]
    const terms = {
      ...{ symbols: asked, limit: barsAsked(side, asked.length) },
      ...{ prices: pricesOf(side), extras: countsOf(side), soFar: side.if.bars === 'SoFar' },
    }
    const set = openTable(decodeBars(await broker.bars(side.if.every, terms)))
    const others = new Map(set.symbols.map((symbol, i) => [symbol, set.bars[i]]))
    const quotes = new Map((await broker.quotes(symbols)).map((one) => [one.symbol, one]))
    const [longest, all] = [Math.max(0, ...set.bars.map(({ time }) => time.length)), { asked: 0, held: 0 }]
    for (const symbol of symbols) {
      const quote = quotes.get(symbol)
      const past = {
        ...{ bars: others.get(symbol)!, others },
        quote: quote && { ...quote, at: Date.parse(quote.at) },
      }
      const { asked: bars, held, now } = heldOver(plan, at, past, shared.listed, symbol)
      if (now) holds.add(symbol)
      all.asked += bars
      all.held += held
    }
    odd.push(...oddText(plan, at, all, longest))
  }
  return {
    looksAt: [...looksAt],
    holds: [...holds],
    odd,
    unasked,
    wrong: obstacles(plan, shared),
    worldId,
    account,
  }
}

/** Sessions over which a condition is asked before a plan is armed, and bars of all securities together, at most. */
const SESSIONS = 60
const BARS = 60_000

const barsAsked = (side: Side, securities: number): number => {
  const minutes = roughMinutes(parseTimeframe(side.if.every)!)
  const sessions = Math.ceil((SESSIONS * 390) / Math.min(390, minutes))
  const most = Math.floor(BARS / Math.max(1, securities))
  return Math.max(barsBefore(side, securities), Math.min(sessions, most))
}

/** Whether a condition held on no bar, or on every one, so that it would never begin; bars that only give it its values aside. */
function oddText(
  plan: Plan,
  side: number,
  { asked, held }: { asked: number; held: number },
  bars: number,
): string[] {
  const { among, if: asks } = plan.sides[side]
  const which =
    plan.sides.length > 1
      ? `The condition of ${side === 0 ? 'the first' : 'the other'} side`
      : 'Its condition'
  const over = `on the last ${bars} bars of ${asks.every}`
  if (asked === 0) return []
  if (held === 0) return [`${which} held ${over} of none of them: look whether it can hold at all.`]
  const isState = asksOfState(plan.when.look) || ('found' in among && among.found.signal)
  return held === asked && !isState
    ? [`${which} held ${over} of all of them without a break: it may never begin.`]
    : []
}

/** That a search looks through names which the broker does not list. */
function unlistedText({ among }: Side, lists: (symbol: string) => boolean): string[] {
  if (!('found' in among) || among.found.in === 'All' || !('list' in among.found.in)) return []
  const missing = among.found.in.list.filter((symbol) => !lists(symbol))
  if (missing.length === 0) return []
  const [named, more] = [missing.slice(0, NAMED).join(', '), missing.length - NAMED]
  return [
    `Its search looks through a list with ${named}${more > 0 ? ` and ${more} more` : ''}, which the broker does not list.`,
  ]
}

/** Securities that are named in a sentence, at most. */
const NAMED = 12

/** In words: what it looks at, and where its condition holds already. */
export function standsText({
  looksAt,
  holds,
  unasked,
}: Pick<StandsNow, 'looksAt' | 'holds' | 'unasked'>): string {
  const [named, more] = [holds.slice(0, NAMED).join(', '), holds.length - NAMED]
  const stands = unasked
    ? 'Whether its condition holds now cannot be told.'
    : holds.length === 0
      ? 'Its condition holds for none of them now: it waits for the next time that it begins.'
      : more > 0
        ? `Its condition holds now for ${holds.length} of them: ${named} and ${more} more.`
        : `Its condition holds now for ${named}.`
  return `Looks at ${looksAt.length} ${looksAt.length === 1 ? 'security' : 'securities'}. ${stands}`
}
