import { TOLD } from './fired'
import { money } from '../orders/findings'
import { fromE4 } from '../market/money'
import { reckonedPrice } from '../orders/check'
import { initialShare } from '../orders/margin'
import { type NewOrder } from '../orders/model'
import { type OrderFacts } from '../orders/orderFacts'
import { type Never } from '../plans/document'
import { barsOfOwn } from '../plans/ownBars'
import { everyOf } from '../plans/texts'
import { type Asked } from './asked'
import { barsBehind } from './behind'
import { clockOf } from './clock'
import { countEntries } from './dayEntries'
import { figuresAt, type Shared } from './shared'
import { keyOf, type Prepared } from './prepare'
import { type PlanState } from './state'
import { type ClauseFinding, type Guardrail, type Measured } from './verdicts'
import { boundOf, openLossE4, sumsOf, worthOf } from './worth'

type Unit = 'money' | 'count' | 'seconds' | 'percent'

const measured = (amount: number, unit: Unit, currency: string): Measured =>
  unit === 'money' ? money(amount, currency) : { amount, unit }

/** What an order is, or would be, measured by. */
export interface Ordered {
  order: NewOrder | undefined
  mate: NewOrder | undefined
  facts: OrderFacts | undefined
}

/** What each limit of Never comes to for an order; those that are not given are passed over. */
export function neverOf(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  asked: Asked,
  ordered: Ordered,
): ClauseFinding[] {
  const { symbol, at } = asked
  const { order, mate, facts } = ordered
  const { never } = prepared.plan
  const sums = sumsOf(prepared, state, shared, at)
  const { currency } = shared.book.rules
  const out: ClauseFinding[] = []
  const bound = (why: Guardrail, value: number, limit: number | undefined, unit: Unit, least = false) => {
    if (limit === undefined) return
    const known = value === value
    const holds = least ? value >= limit : value <= limit
    out.push({
      clause: 'Never',
      why,
      verdict: !known ? 'unknown' : holds ? 'holds' : 'fails',
      value: known ? measured(value, unit, currency) : undefined,
      limit: measured(limit, unit, currency),
    })
  }
  if (never.hours) out.push(hoursFinding(never.hours, shared, asked))
  const kept = order?.legs ? fromE4(Math.max(0, facts?.needs?.moneyE4 ?? NaN)) : undefined
  const first = kept ?? (order ? worthOf(shared, symbol, order.orderQty!) : 0)
  const second = mate ? worthOf(shared, mate.symbol, mate.orderQty!) : 0
  const wanted = first + second
  const { entriesPerSecurityAndDay, entriesPerDay } = never
  if (entriesPerSecurityAndDay !== undefined) {
    // Of a pair whichever of its two was entered more often.
    const before = [symbol, ...(mate ? [mate.symbol] : [])].map((one) => entriesOf(state, shared, one, at))
    bound('entries of the security today', Math.max(...before) + 1, entriesPerSecurityAndDay, 'count')
  }
  bound('entries of the plan today', sums.entries + 1, entriesPerDay, 'count')
  if (never.entriesInAll !== undefined)
    bound('entries of the plan in all', entriesInAll(state) + 1, never.entriesInAll, 'count')
  bound('size of one order', Math.max(first, second), never.largestOrder, 'money')
  if (never.exposurePerSecurity !== undefined) {
    const other = mate ? boundOf(shared, mate.symbol) + second : 0
    const most = Math.max(boundOf(shared, symbol) + first, other)
    bound('exposure in the security', most, never.exposurePerSecurity, 'money')
  }
  if ((never.exposure ?? never.share) !== undefined) {
    const all = sums.exposure + wanted
    bound('exposure of the plan', all, never.exposure, 'money')
    bound('share of the plan', all, shareOf(never, shared, at), 'money')
  }
  const { do: deed } = prepared.sides[asked.side].side
  const { upTo } = 'open' in deed ? (deed.adds ?? {}) : {}
  if (upTo) {
    const { quantity = 0 } = state.held[symbol] ?? {}
    const most = 'money' in upTo ? upTo.money : worthOf(shared, symbol, upTo.shares)
    bound('most of the position', worthOf(shared, symbol, quantity) + first, most, 'money')
  }
  const openE4 = never.lossCounts === 'WithOpen' ? openLossE4(state, shared) : 0
  const lost = never.lossCounts === 'WithOpen' ? 'loss today, open loss counted' : 'realised loss today'
  bound(lost, Math.max(0, fromE4(openE4 - sums.takenE4)), never.lossPerDay, 'money')
  bound(
    'buying power left',
    // Options lend nothing: what they keep is gone from what is free, which buys more than itself.
    fromE4(figuresAt(shared, at).buyingPowerE4) -
      (kept === undefined ? wanted : kept / initialShare(shared.book.rules)),
    never.freeBuyingPower,
    'money',
    true,
  )
  if (never.collar !== undefined && !order?.legs)
    bound('price away from the last', awayFromLast(order, facts), never.collar, 'percent')
  const quoted = order?.legs ? order.legs.map((leg) => leg.symbol) : [symbol, ...(mate ? [mate.symbol] : [])]
  const ages = quoted.map((one) => at - (shared.quotes[one]?.at ?? NaN))
  // An auction makes its own price: while the venue is closed no quote is fresh.
  if (order?.timeInForce !== 'AtTheOpening')
    bound('age of the quote', Math.max(...ages) / 1000, never.quoteAge, 'seconds')
  if (never.barsBehind !== undefined)
    bound('bars missing', missing(prepared, state, shared, asked), never.barsBehind, 'count')
  if (never.barsBehind !== undefined && prepared.sides[asked.side].brought.size > 0)
    bound('own bars missing', missingOfOwn(prepared, shared, asked), never.barsBehind, 'count')
  return out
}

/** Entries of a security today: of the whole account, by hand, script and plan alike, those included that were just sent. */
function entriesOf({ entries: own }: PlanState, shared: Shared, symbol: string, at: number): number {
  const { entries, book, pending, noted, listed } = shared
  let all = countEntries(entries, book, symbol, clockOf(listed[symbol].venue).at(at).date)
  for (const clOrdId in pending) if (pending[clOrdId].symbol === symbol && noted[clOrdId]?.opening) all++
  return Math.max(own[symbol] ?? 0, all)
}

/** Entries of the plan so far, whenever they were: orders that work or have traded, and what the trader was told. */
function entriesInAll({ orders, seen }: PlanState): number {
  let count = 0
  for (const id in orders) {
    const { role, works, filled, second } = orders[id]
    if (role === 'entry' && !second && (works || filled)) count++
  }
  for (const key in seen) if (key.startsWith(TOLD)) count++
  return count
}

export const shareOf = ({ share }: Never, shared: Shared, at: number): number | undefined =>
  share === undefined ? undefined : (fromE4(figuresAt(shared, at).equityE4) * share) / 100

function hoursFinding(
  hours: NonNullable<Never['hours']>,
  shared: Shared,
  { symbol, at }: Asked,
): ClauseFinding {
  const is = clockOf(shared.listed[symbol].venue).whenAt(hours, at)
  return { clause: 'Never', why: 'hours', ...hours, verdict: is === 'in time' ? 'holds' : 'fails' }
}

/** Percent that the price of an order lies away from the last trade, to either side. */
function awayFromLast(order: NewOrder | undefined, facts: OrderFacts | undefined): number {
  const price = order && facts && reckonedPrice(order, facts)
  const last = facts?.last
  return price === undefined || !last ? NaN : Math.abs(100 * (price / last - 1))
}

/** Of bars that the plan carries and reads: how many more there should be by now of the one that is furthest behind. */
function missingOfOwn({ plan, sides }: Prepared, { listed }: Shared, { side, symbol, at }: Asked): number {
  const { venue } = listed[symbol]
  const behind = [...sides[side].brought.keys()].map((name) => {
    const { every, end } = barsOfOwn(plan.bars![name])
    return barsBehind(venue, every, end[end.length - 1], at)
  })
  return Math.max(...behind)
}

function missing(
  { sides }: Prepared,
  state: PlanState,
  { listed }: Shared,
  { side, symbol, at }: Asked,
): number {
  const lastEnd = state.watched[keyOf(side, symbol)]?.lastEnd ?? -Infinity
  return barsBehind(listed[symbol].venue, everyOf(sides[side].side), lastEnd, at)
}
