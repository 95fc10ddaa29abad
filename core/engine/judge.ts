import { multiplierOf } from '../options/osi'
import { candidateOf } from '../book/candidate'
import { incrementAt, toTick } from '../market/increment'
import { fromE4 } from '../market/money'
import { localDate, sessionState } from '../market/venue'
import { checkOrder } from '../orders/check'
import { draftOrder, type Drafted } from '../orders/draft'
import { money, refusal } from '../orders/findings'
import { gateFindings } from '../orders/gates'
import { type NewOrder } from '../orders/model'
import { type Sizing } from '../orders/size'
import { originOf } from '../plans/ids'
import { type PlanPrice, type PlanSize, type Side } from '../plans/document'
import { momentOf } from '../plans/times'
import { FAILS, HOLDS } from '../rules'
import { figuresAt, heldOf, orderFactsAt, pricesOf, type Quoted, type Shared } from './shared'
import { type PlanState, type Prepared } from './state'
import { type ClauseFinding, type Guardrail, type Measured } from './verdicts'

/** One security at a moment, as a side of a plan is asked about it. */
export interface Asked {
  side: number
  symbol: string
  at: number
  /** The answer of the condition; see verdict.ts. */
  condition: number
  /** The order's client id, should one come of it. */
  clOrdId: string
  signal: string
}

/** What every clause came to, and the order that would be sent; all of them are judged, whatever the others say. */
export interface Judged {
  findings: ClauseFinding[]
  order?: NewOrder
}

/** Judges every clause of a side for a security, and makes the order that it would send. */
export function judge(prepared: Prepared, state: PlanState, shared: Shared, asked: Asked): Judged {
  const { plan } = prepared
  const side = plan.sides[asked.side]
  const drafted = draft(prepared, shared, asked)
  const order = 'order' in drafted ? drafted.order : undefined
  return {
    findings: [
      whenOf(prepared, shared, asked),
      {
        ...{ clause: 'Among', symbol: asked.symbol },
        ...(side.among.list.includes(asked.symbol)
          ? { why: 'listed', verdict: 'holds' }
          : { why: 'not listed', verdict: 'fails' }),
      },
      {
        ...{ clause: 'If', why: 'condition', rule: side.if.rule },
        verdict: asked.condition === HOLDS ? 'holds' : asked.condition === FAILS ? 'fails' : 'unknown',
      },
      ...providedOf(side, shared, asked, order),
      ...doOf(state, shared, asked, drafted),
      thenOf(side, drafted),
      ...neverOf(prepared, state, shared, asked, order),
    ],
    order,
  }
}

function whenOf({ plan: { when } }: Prepared, { listed }: Shared, { symbol, at }: Asked): ClauseFinding {
  const { venue } = listed[symbol]
  const { state, session } = sessionState(venue, at)
  if (state !== 'Open') return { clause: 'When', why: 'closed', verdict: 'fails' }
  const weekday = new Date(`${session.date}T00:00:00Z`).getUTCDay() || 7
  if (when.weekdays && !when.weekdays.includes(weekday))
    return { clause: 'When', why: 'weekday', verdict: 'fails' }
  const { from, until } = when
  const common = { clause: 'When' as const, from, until }
  if (from && at < momentOf(from, session, venue.zone))
    return { ...common, why: 'too early', verdict: 'fails' }
  if (until && at >= momentOf(until, session, venue.zone))
    return { ...common, why: 'too late', verdict: 'fails' }
  return { ...common, why: 'in time', verdict: 'holds' }
}

/** The order of a side at a moment, priced and sized; or why none comes of it. */
function draft({ plan }: Prepared, shared: Shared, asked: Asked): Drafted | { why: string } {
  const { symbol, clOrdId, at, signal } = asked
  const side = plan.sides[asked.side]
  const { security, rate } = shared.listed[symbol]
  const quote = shared.quotes[symbol]
  const { equityE4, buyingPowerE4 } = figuresAt(shared, at)
  const drafted = draftOrder(
    {
      ...{ clOrdId, symbol, side: side.do.open === 'Long' ? 'Buy' : 'SellShort' },
      ...priced(side.do.price, quote, security.increments),
      sizing: sizingOf(side.do.size),
      timeInForce: side.do.timeInForce,
      ...(side.then.exits ? { exits: side.then.exits } : {}),
    },
    {
      ...{ security, bid: quote?.bid, ask: quote?.ask, last: quote?.last, rate },
      ...{ equity: fromE4(equityE4), buyingPower: fromE4(buyingPowerE4), sharesHeld: heldOf(shared, symbol) },
    },
  )
  if (!('order' in drafted)) return drafted
  const origin = originOf(plan, 'entry', signal, side.if.rule)
  return { ...drafted, order: { ...drafted.order, origin } }
}

const sizingOf = (size: PlanSize): Sizing => {
  if ('shares' in size) return { by: 'shares', shares: size.shares }
  if ('money' in size) return { by: 'money', money: size.money }
  return 'equity' in size
    ? { by: 'equity', percentOfEquity: size.equity }
    : { by: 'risk', percentOfEquity: size.risk }
}

/** A price on a tick; without a quote a limit has none, and the draft says so. */
function priced(
  price: PlanPrice,
  quote: Quoted | undefined,
  bands: Parameters<typeof toTick>[0],
): { ordType: 'Market' | 'Limit'; price?: number } {
  if (price === 'market') return { ordType: 'Market' }
  if (!quote) return { ordType: 'Limit' }
  const at = price.at === 'mid' ? (quote.bid + quote.ask) / 2 : quote[price.at]
  return { ordType: 'Limit', price: toTick(bands, at + price.ticks * incrementAt(bands, at)) }
}

function providedOf(side: Side, shared: Shared, { symbol, at }: Asked, order?: NewOrder): ClauseFinding[] {
  return side.provided.map(({ name, rule }): ClauseFinding => {
    const common = { clause: 'Provided' as const, why: 'gate' as const, name }
    if (!order) return { ...common, verdict: 'unknown', sentence: 'there is no order to ask it of' }
    const { venue } = shared.listed[symbol]
    const facts = orderFactsAt(shared, order, at)
    const about = { at, date: localDate(venue, at), known: false }
    const [found] = gateFindings(
      [{ name, rule, otherwise: 'Refuse' }],
      candidateOf(shared.book, order, facts, about),
      facts.currency,
    )
    return { ...common, verdict: found.verdict, sentence: found.code === 'gate' ? found.sentence : '' }
  })
}

function doOf(
  state: PlanState,
  shared: Shared,
  { symbol, at }: Asked,
  drafted: Drafted | { why: string },
): ClauseFinding[] {
  if (!('order' in drafted))
    return [{ clause: 'Do', why: 'no order', sentence: drafted.why, verdict: 'fails' }]
  const held = state.held[symbol]?.quantity ?? 0
  if (held !== 0) return [{ clause: 'Do', why: 'held already', held, verdict: 'fails' }]
  const works = Object.values(state.orders).some((own) => own.symbol === symbol && own.works)
  if (works) return [{ clause: 'Do', why: 'works already', verdict: 'fails' }]
  const refused = refusal(checkOrder(drafted.order, orderFactsAt(shared, drafted.order, at)))
  if (refused) return [{ clause: 'Do', why: 'refused', finding: refused, verdict: 'fails' }]
  return [
    {
      ...{ clause: 'Do', why: 'order', verdict: 'holds' },
      ...{ quantity: drafted.order.orderQty, entry: drafted.entry },
    },
  ]
}

function thenOf(side: Side, drafted: Drafted | { why: string }): ClauseFinding {
  const [first] = 'order' in drafted ? drafted.parts : []
  if (!side.then.exits || !first) return { clause: 'Then', why: 'none', verdict: 'holds' }
  return {
    ...{ clause: 'Then', why: 'exits', verdict: 'holds' },
    ...{ stop: first.stop?.price, target: first.target?.price },
  }
}

/** What holdings and what is wanted of a security are worth, in currency units of the account. */
const worthOf = (shared: Shared, symbol: string, quantity: number): number =>
  quantity === 0
    ? 0
    : Math.abs(quantity) *
      fromE4(pricesOf(shared)(symbol).last || NaN) *
      multiplierOf(symbol) *
      (shared.listed[symbol]?.rate ?? 1)

function neverOf(
  { plan: { never } }: Prepared,
  state: PlanState,
  shared: Shared,
  { symbol, at }: Asked,
  order: NewOrder | undefined,
): ClauseFinding[] {
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
    const amount = (x: number): Measured => (unit === 'money' ? money(x, currency) : { amount: x, unit })
    const holds = least ? value >= limit : value <= limit
    out.push({
      ...{ clause: 'Never', why, verdict: Number.isNaN(value) ? 'unknown' : holds ? 'holds' : 'fails' },
      ...(Number.isNaN(value) ? {} : { value: amount(value) }),
      limit: amount(limit),
    })
  }
  const wanted = order ? worthOf(shared, symbol, order.orderQty) : 0
  const all = Object.values(state.entries).reduce((a, b) => a + b, 0)
  bound(
    'entries of the security today',
    (state.entries[symbol] ?? 0) + 1,
    never.entriesPerSecurityAndDay,
    'count',
  )
  bound('entries of the plan today', all + 1, never.entriesPerDay, 'count')
  bound(
    'exposure in the security',
    worthOf(shared, symbol, heldOf(shared, symbol)) + wanted,
    never.exposurePerSecurity,
    'money',
  )
  const own = Object.entries(state.held).reduce(
    (sum, [one, { quantity }]) => sum + (quantity === 0 ? 0 : worthOf(shared, one, quantity)),
    0,
  )
  const waiting = Object.values(shared.pending).filter(({ clOrdId }) => state.orders[clOrdId])
  const reserved = waiting.reduce((sum, one) => sum + worthOf(shared, one.symbol, one.orderQty), 0)
  bound('exposure of the plan', own + reserved + wanted, never.exposure, 'money')
  const taken = Object.values(state.takenE4).reduce((a, b) => a + b, 0)
  bound('loss today', Math.max(0, -fromE4(taken)), never.lossPerDay, 'money')
  bound(
    'buying power left',
    fromE4(figuresAt(shared, at).buyingPowerE4) - wanted,
    never.freeBuyingPower,
    'money',
    true,
  )
  const quote = shared.quotes[symbol]
  bound('age of the quote', quote ? (at - quote.at) / 1000 : NaN, never.quoteAge, 'seconds')
  return out
}
