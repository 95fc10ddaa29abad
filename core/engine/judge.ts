import { candidateOf } from '../book/candidate'
import { contractsHeld } from '../book/needs'
import { CANDIDATE_NAMES, MARKET_NAMES } from '../market/candidate'
import { fromE4 } from '../market/money'
import { multiplierOf, underlyingOf } from '../options/osi'
import { checkOrder, reckonedPrice } from '../orders/check'
import { money, refusal } from '../orders/findings'
import { gateVerdict } from '../orders/gates'
import { initialShare } from '../orders/margin'
import { type NewOrder } from '../orders/model'
import { type OrderFacts } from '../orders/orderFacts'
import { type Side, type When } from '../plans/document'
import { type Then } from '../plans/exits'
import { scoreVerdict } from '../plans/score'
import { FAILS, HOLDS } from '../rules'
import { keptFromAdding } from './keptFromAdding'
import { type Asked } from './asked'
import { clockOf, type WhenWhy } from './clock'
import { scoredOf } from './scored'
import { draft, type Draft } from './draft'
import { figuresAt, heldOf, orderFactsAt, pricesOf, type Shared } from './shared'
import { type PlanState, type Prepared } from './state'
import { type ClauseFinding, type Figures, type Guardrail, type Measured } from './verdicts'

/** What every clause came to, and the order that would be sent; all of them are judged, whatever the others say. */
export interface Judged {
  findings: ClauseFinding[]
  order?: NewOrder
  /** Of a pair: what is sent together with it. */
  mate?: NewOrder
}

/** Judges every clause of a side for a security, and makes the order that it would send. */
export function judge(prepared: Prepared, state: PlanState, shared: Shared, asked: Asked): Judged {
  const { side, members } = prepared.sides[asked.side]
  const made = draft(prepared, shared, asked)
  const order = 'order' in made ? made.order : undefined
  const mate = 'order' in made ? made.mate : undefined
  const facts = order && orderFactsAt(shared, order, asked.at)
  const mateFacts = mate && orderFactsAt(shared, mate, asked.at)
  const among: ClauseFinding = members.has(asked.symbol)
    ? { clause: 'Among', why: 'listed', symbol: asked.symbol, verdict: 'holds' }
    : { clause: 'Among', why: 'not listed', symbol: asked.symbol, verdict: 'fails' }
  const findings = [
    whenOf(prepared, asked),
    among,
    asked.byDistance ? distanceFinding(state, shared, asked) : ifFinding(side, asked.condition),
  ]
  for (const one of providedOf(side, shared, asked, order, facts)) findings.push(one)
  for (const one of viewOf(state, shared, side, asked)) findings.push(one)
  for (const one of scoreOf(prepared, state, side, asked)) findings.push(one)
  for (const one of doOf(prepared, state, asked, made, facts, mateFacts)) findings.push(one)
  findings.push(thenOf(side, made))
  if (!('close' in side.do))
    for (const one of neverOf(prepared, state, shared, asked, order, mate, facts)) findings.push(one)
  return { findings, order, mate }
}

const whenOf = ({ plan: { when }, listed }: Prepared, { symbol, at }: Asked): ClauseFinding =>
  whenFinding(when, clockOf(listed[symbol].venue).whenAt(when, at))

export function whenFinding({ from, until }: When, why: WhenWhy): ClauseFinding {
  const verdict = why === 'in time' ? 'holds' : 'fails'
  return why === 'closed' || why === 'weekday'
    ? { clause: 'When', why, verdict }
    : { clause: 'When', why, from, until, verdict }
}

export const ifFinding = ({ if: { rule } }: Side, condition: number): ClauseFinding => ({
  clause: 'If',
  why: 'condition',
  rule,
  verdict: condition === HOLDS ? 'holds' : condition === FAILS ? 'fails' : 'unknown',
})

const distanceFinding = ({ held }: PlanState, { quotes }: Shared, { symbol }: Asked): ClauseFinding => ({
  ...{ clause: 'If', why: 'distance', verdict: 'holds' },
  ...{ last: quotes[symbol].last, from: held[symbol].lastPx! },
})

const ALL_NAMES = [...CANDIDATE_NAMES, ...MARKET_NAMES]

function providedOf(
  side: Side,
  shared: Shared,
  { symbol, at }: Asked,
  order: NewOrder | undefined,
  facts: OrderFacts | undefined,
): ClauseFinding[] {
  if (!order || !facts)
    return side.provided.map(({ name }) => ({
      clause: 'Provided',
      why: 'no order',
      name,
      verdict: 'unknown',
    }))
  if (side.provided.length === 0) return []
  const { venue } = shared.listed[symbol]
  const about = { at, date: clockOf(venue).at(at).date, known: false, market: shared.market[venue.mic] }
  const candidate = candidateOf(shared.book, order, facts, about)
  const figures: Figures = {}
  for (const name of ALL_NAMES) if (Number.isFinite(candidate[name])) figures[name] = candidate[name]
  const { currency } = facts
  return side.provided.map(({ name, rule }) => ({
    clause: 'Provided',
    why: 'gate',
    name,
    rule,
    figures,
    currency,
    verdict: gateVerdict(rule, candidate, currency),
  }))
}

/** The trader's own view: of this day, or not known. */
function viewOf(state: PlanState, shared: Shared, { view: wanted }: Side, { at }: Asked): ClauseFinding[] {
  if (!wanted) return []
  const { date } = clockOf(shared.home).at(at)
  const said = state.view?.date === date ? state.view.view : undefined
  const verdict = said === undefined ? 'unknown' : said === wanted ? 'holds' : 'fails'
  return [{ clause: 'Provided', why: 'view', wanted, ...(said === undefined ? {} : { view: said }), verdict }]
}

function scoreOf(prepared: Prepared, state: PlanState, { score }: Side, asked: Asked): ClauseFinding[] {
  if (!score) return []
  const { side, symbol, at, event = symbol } = asked
  const lines = scoredOf({ prepared, state, at }, side, symbol, event)
  const { sum, verdict } = scoreVerdict(score, lines)
  return [{ clause: 'Provided', why: 'score', sum, least: score.least, lines, verdict }]
}

function doOf(
  prepared: Prepared,
  state: PlanState,
  { side: at, symbol, byDistance }: Asked,
  made: Draft,
  facts: OrderFacts | undefined,
  mateFacts: OrderFacts | undefined,
): ClauseFinding[] {
  const { do: deed } = prepared.sides[at].side
  if (!('order' in made)) return made.finding.clause === 'Do' ? [made.finding] : []
  const kept = keptFromAdding(prepared, state, at, symbol, byDistance)
  if (kept) return [kept]
  if (state.working[symbol]) return [{ clause: 'Do', why: 'works already', verdict: 'fails' }]
  const more = (state.held[symbol]?.quantity ?? 0) !== 0
  if (!more && 'most' in deed && deed.most !== undefined && takenUp(state) >= deed.most)
    return [{ clause: 'Do', why: 'enough at a time', most: deed.most, verdict: 'fails' }]
  const { mate, net } = made
  const refused = refusal(checkOrder(made.order, facts!)) ?? (mate && refusal(checkOrder(mate, mateFacts!)))
  if (refused) return [{ clause: 'Do', why: 'refused', finding: refused, verdict: 'fails' }]
  if (net !== undefined) {
    const { orderQty: quantity, legs = [] } = made.order
    return [{ clause: 'Do', why: 'whole', verdict: 'holds', quantity, net, legs }]
  }
  const entry = made.drafted?.entry ?? reckonedPrice(made.order, facts!) ?? 0
  const other = mate && { symbol: mate.symbol, side: mate.side, quantity: mate.orderQty! }
  return [
    { clause: 'Do', why: 'order', verdict: 'holds', quantity: made.order.orderQty!, entry, mate: other },
  ]
}

/** Securities that the plan holds, or has orders for. */
const takenUp = ({ held, working }: PlanState): number =>
  new Set([...Object.keys(working), ...Object.keys(held).filter((symbol) => held[symbol].quantity !== 0)])
    .size

function thenOf(side: Side, made: Draft): ClauseFinding {
  if (!('order' in made) && made.finding.clause === 'Then') return made.finding
  if ('order' in made && made.net !== undefined && side.then.net)
    return { clause: 'Then', why: 'net', verdict: 'holds', ...netExits(side.then.net, made.net) }
  const first = 'order' in made ? made.drafted?.parts[0] : undefined
  if (!side.then.exits || !first) return { clause: 'Then', why: 'none', verdict: 'holds' }
  return {
    clause: 'Then',
    why: 'exits',
    verdict: 'holds',
    stop: first.stop?.price,
    target: first.target?.price,
  }
}

/** Net prices of the closing legs at which so many percent are gained or lost. */
function netExits({ gain, loss }: NonNullable<Then['net']>, net: number): { gain?: number; loss?: number } {
  const at = (percent: number) => -(net + (Math.abs(net) * percent) / 100)
  return {
    ...(gain === undefined ? {} : { gain: at(gain) }),
    ...(loss === undefined ? {} : { loss: at(-loss) }),
  }
}

/** What holdings and what is wanted of a security are worth, in currency units of the account. */
function worthOf(shared: Shared, symbol: string, quantity: number): number {
  if (quantity === 0) return 0
  // What was never quoted is worth what it has cost.
  const last = shared.quotes[symbol]?.last ?? (fromE4(pricesOf(shared)(symbol).last) || NaN)
  return Math.abs(quantity) * last * multiplierOf(symbol) * (shared.listed[symbol]?.rate ?? 1)
}

/** What contracts of an underlying that the account holds are worth. */
function contractsOf(shared: Shared, underlying: string): number {
  let sum = 0
  for (const symbol of contractsHeld(shared.book))
    if (underlyingOf(symbol) === underlying)
      sum += worthOf(shared, symbol, shared.book.holdings[symbol].quantity)
  return sum
}

const measured = (amount: number, unit: 'money' | 'count' | 'seconds', currency: string): Measured =>
  unit === 'money' ? money(amount, currency) : { amount, unit }

/** What the plan holds, and what of its entries is still to be filled. */
function exposureOf({ held, working, orders }: PlanState, shared: Shared): number {
  let sum = 0
  for (const symbol in held) {
    const { quantity, unitE4 } = held[symbol]
    sum += unitE4 === undefined ? worthOf(shared, symbol, quantity) : fromE4(unitE4 * quantity)
  }
  for (const symbol in working)
    for (const id of working[symbol]) {
      if (orders[id].role !== 'entry') continue
      const { orderId, unitE4 } = orders[id]
      const left =
        orderId === undefined ? shared.pending[id]?.orderQty : shared.book.orders[orderId]?.leavesQty
      sum += unitE4 === undefined ? worthOf(shared, symbol, left ?? 0) : fromE4(unitE4 * (left ?? 0))
    }
  return sum
}

/** Sums over all that the plan holds hold for so long while nothing of it changes, milliseconds. */
const SUMS_LAST = 1000

/** Sums over everything of the plan, so that one more look costs the same however much it holds. */
function sumsOf(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  at: number,
): NonNullable<Prepared['sums']> {
  const { sums } = prepared
  if (sums && Math.abs(at - sums.at) < SUMS_LAST) return sums
  let [entries, takenE4] = [0, 0]
  for (const symbol in state.entries) entries += state.entries[symbol]
  for (const symbol in state.takenE4) takenE4 += state.takenE4[symbol]
  return (prepared.sums = { at, exposure: exposureOf(state, shared), entries, takenE4 })
}

function neverOf(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  { symbol, at }: Asked,
  order: NewOrder | undefined,
  mate: NewOrder | undefined,
  facts: OrderFacts | undefined,
): ClauseFinding[] {
  const { never } = prepared.plan
  const sums = sumsOf(prepared, state, shared, at)
  const { currency } = shared.book.rules
  const out: ClauseFinding[] = []
  const bound = (
    why: Guardrail,
    value: number,
    limit: number | undefined,
    unit: 'money' | 'count' | 'seconds',
    least = false,
  ) => {
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
  const kept = order?.legs ? fromE4(Math.max(0, facts?.needs?.moneyE4 ?? NaN)) : undefined
  const first = kept ?? (order ? worthOf(shared, symbol, order.orderQty!) : 0)
  const wanted = first + (mate ? worthOf(shared, mate.symbol, mate.orderQty!) : 0)
  bound(
    'entries of the security today',
    (state.entries[symbol] ?? 0) + 1,
    never.entriesPerSecurityAndDay,
    'count',
  )
  bound('entries of the plan today', sums.entries + 1, never.entriesPerDay, 'count')
  bound(
    'exposure in the security',
    worthOf(shared, symbol, heldOf(shared, symbol)) + contractsOf(shared, symbol) + first,
    never.exposurePerSecurity,
    'money',
  )
  if ((never.exposure ?? never.share) !== undefined) {
    const all = sums.exposure + wanted
    bound('exposure of the plan', all, never.exposure, 'money')
    const share = never.share && (fromE4(figuresAt(shared, at).equityE4) * never.share) / 100
    bound('share of the plan', all, share, 'money')
  }
  bound('loss today', Math.max(0, -fromE4(sums.takenE4)), never.lossPerDay, 'money')
  bound(
    'buying power left',
    // Options lend nothing: what they keep is gone from what is free, which buys more than itself.
    fromE4(figuresAt(shared, at).buyingPowerE4) -
      (kept === undefined ? wanted : kept / initialShare(shared.book.rules)),
    never.freeBuyingPower,
    'money',
    true,
  )
  const quoted = order?.legs ? order.legs.map((leg) => leg.symbol) : [symbol, ...(mate ? [mate.symbol] : [])]
  const ages = quoted.map((one) => at - (shared.quotes[one]?.at ?? NaN))
  bound('age of the quote', Math.max(...ages) / 1000, never.quoteAge, 'seconds')
  return out
}
