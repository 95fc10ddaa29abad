import { toTick } from '../market/increment'
import { fromE4 } from '../market/money'
import { reckonedPrice } from '../orders/check'
import { draftOrder, type Drafted } from '../orders/draft'
import { type ExitLevel, type Exits, partsOf } from '../orders/exits'
import { commissionPowerE4, initialShare } from '../orders/margin'
import { type NewOrder } from '../orders/model'
import { type Sizing } from '../orders/size'
import { type Side } from '../plans/document'
import { BASE_TEXT, type Close, leastOf, type Open, type PlanSize } from '../plans/entry'
import { fixedExits, type PlanExits } from '../plans/exits'
import { originOf, planOrderId } from '../plans/ids'
import { clockOf } from './clock'
import { type Asked } from './asked'
import { pricedBy } from './priced'
import { baseE4, figuresAt, heldOf, type Shared } from './shared'
import { capped, roomFor } from './room'
import { type Prepared, valueOf } from './prepare'
import { type PlanState } from './state'
import { type ClauseFinding, type Wanted } from './verdicts'
import { worthOf } from './worth'
import { openingLegs } from './whole'

/** What a side would send for a security, or the finding that says why nothing comes of it. */
export type Draft =
  | {
      order: NewOrder
      drafted?: Drafted
      mate?: NewOrder
      /** Of several legs: their net price. */
      net?: number
      wanted?: Wanted
    }
  | { finding: ClauseFinding }

/** The order of a side at a moment, priced, sized and with its exits fixed. */
export function draft(prepared: Prepared, state: PlanState, shared: Shared, asked: Asked): Draft {
  const { side } = prepared.sides[asked.side]
  if ('tell' in side.do) return { finding: { clause: 'Do', why: 'tell', verdict: 'holds' } }
  if ('close' in side.do) return closing(prepared, shared, asked, side.do)
  return 'legs' in side.do
    ? openingLegs(prepared, state, shared, asked, side.do)
    : opening(prepared, state, shared, asked, side, side.do)
}

const noPrice = (measure: string): Draft => ({
  finding: { clause: 'Do', why: 'price unknown', measure, verdict: 'unknown' },
})

function opening(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  asked: Asked,
  side: Side,
  deed: Open,
): Draft {
  const { symbol, clOrdId, at, signal } = asked
  const { security, rate } = shared.listed[symbol]
  const quote = shared.quotes[symbol]
  const way = deed.open === 'Long' ? 1 : -1
  const measure = (text: string) => valueOf(prepared, asked.side, symbol, text)
  const price = pricedBy(deed.price, quote, security.increments, measure)
  if ('unknown' in price) return noPrice(price.unknown)
  const known = { security, bid: quote?.bid, ask: quote?.ask, last: quote?.last, rate }
  const orderSide = way > 0 ? ('Buy' as const) : ('SellShort' as const)
  const { ordType, price: limit, stopPx } = price
  const asIf = { symbol, side: orderSide, ordType, price: limit, stopPx, orderQty: 1 }
  const entry = reckonedPrice(asIf, known)
  const exits = exitsFor(side.then.exits, entry, way, security.increments, measure)
  if (exits && 'finding' in exits) return exits
  const { buyingPowerE4 } = figuresAt(shared, at)
  const base = 'of' in deed.size ? (deed.size.of ?? 'Now') : 'Now'
  const equity = fromE4(baseE4(shared, prepared.plan, base, at))
  if (Number.isNaN(equity)) return noPrice(BASE_TEXT[base])
  const over = 'risk' in deed.size && deed.size.over !== undefined ? measure(deed.size.over) : undefined
  if (over !== undefined && !(over > 0)) return noPrice((deed.size as { over: string }).over)
  const facts = {
    security,
    bid: quote?.bid,
    ask: quote?.ask,
    last: quote?.last,
    rate,
    equity,
    buyingPower: fromE4(buyingPowerE4),
    sharesHeld: heldOf(shared, symbol),
    share: initialShare(shared.book.rules),
  }
  const origin = originOf(prepared.plan, 'entry', signal, side.if.rule)
  const sized = (sizing: Sizing): Whole | { finding: ClauseFinding } => {
    const drafted = draftOrder(
      {
        clOrdId,
        symbol,
        side: orderSide,
        ordType,
        price: limit,
        stopPx,
        sizing,
        timeInForce: deed.timeInForce,
        exits,
      },
      facts,
    )
    if (!('order' in drafted))
      return { finding: { clause: 'Do', why: 'no order', sentence: drafted.why, verdict: 'fails' } }
    drafted.order.origin = origin
    if (!deed.mate) return { order: drafted.order, drafted }
    const mate = mateOf(prepared, shared, asked, deed.mate.ratio, drafted.order)
    return 'finding' in mate ? mate : { order: drafted.order, drafted, mate: mate.order }
  }
  const made = sized(sizingOf(deed.size, over, equity, rate))
  if ('finding' in made) return made
  const { orderQty: wanted = 0 } = made.order
  const each = Math.max(quote?.last ?? 0, entry ?? 0) * rate
  const paid = each > 0 ? fromE4(commissionPowerE4(symbol, 1, facts.share)) / each : 0
  const room = roomFor(prepared, state, shared, asked, { whole: wholeOf(shared, made), paid })
  const shares = capped(wanted, room, each, security.lot, leastOf(deed))
  if (shares === undefined) return made
  const less = sized({ by: 'shares', shares })
  return 'finding' in less ? made : { ...less, wanted: { quantity: wanted, by: room.by! } }
}

/** An order and, of a pair, its mate. */
interface Whole {
  order: NewOrder
  drafted: Drafted
  mate?: NewOrder
}

/** What an order and its mate come to for each unit of money in the order. */
function wholeOf(shared: Shared, { order, mate }: Whole): number {
  if (!mate) return 1
  const worth = ({ symbol, orderQty = 0 }: NewOrder) => worthOf(shared, symbol, orderQty)
  return 1 + worth(mate) / worth(order)
}

/** The other leg of a pair, in its ratio to the first. */
function mateOf(
  prepared: Prepared,
  shared: Shared,
  { side, symbol, at, signal }: Asked,
  ratioText: string,
  first: NewOrder,
): { order: NewOrder } | { finding: ClauseFinding } {
  const ratio = valueOf(prepared, side, symbol, ratioText)
  const other = prepared.sides[side].mates.get(symbol)!
  const { security, venue } = shared.listed[other]
  if (!Number.isFinite(ratio)) return noPrice(ratioText)
  const { lot } = security
  const orderQty = Math.floor((Math.abs(ratio) * first.orderQty!) / lot + 1e-9) * lot
  if (orderQty === 0)
    return { finding: { clause: 'Do', why: 'no mate', mate: other, ratio, verdict: 'fails' } }
  // A pair that moves together is traded one way and the other; with a ratio below nought both go one way.
  const buys = (first.side === 'Buy') === ratio < 0
  const parts = { planId: prepared.plan.id, symbol: other, date: clockOf(venue).at(at).date, signal }
  return {
    order: {
      clOrdId: planOrderId({ ...parts, leg: 1, role: 'entry' }),
      symbol: other,
      side: buys ? 'Buy' : 'SellShort',
      orderQty,
      ordType: 'Market',
      timeInForce: first.timeInForce,
      origin: first.origin,
    },
  }
}

/** What the account holds, closed in whole lots. */
function closing(prepared: Prepared, shared: Shared, asked: Asked, deed: Close): Draft {
  const { symbol, clOrdId, signal } = asked
  const { security } = shared.listed[symbol]
  const held = heldOf(shared, symbol)
  const { lot } = security
  const orderQty = Math.floor((Math.abs(held) * deed.close) / 100 / lot + 1e-9) * lot
  if (orderQty === 0) return { finding: { clause: 'Do', why: 'nothing held', verdict: 'fails' } }
  const measure = (text: string) => valueOf(prepared, asked.side, symbol, text)
  const price = pricedBy(deed.price, shared.quotes[symbol], security.increments, measure)
  if ('unknown' in price) return noPrice(price.unknown)
  const side = held > 0 ? ('Sell' as const) : ('Buy' as const)
  const origin = originOf(prepared.plan, 'out', signal, prepared.sides[asked.side].side.if.rule)
  return {
    order: {
      ...{ clOrdId, symbol, side, orderQty, ...price },
      ...{ timeInForce: deed.timeInForce, positionEffect: 'Close', origin },
    },
  }
}

/** Exits with what measures tell of them now. */
function exitsFor(
  exits: PlanExits | undefined,
  entry: number | undefined,
  way: 1 | -1,
  bands: Parameters<typeof toTick>[0],
  measure: (text: string) => number,
): Exits | { finding: ClauseFinding } | undefined {
  if (!exits || !byMeasure(exits)) return exits as Exits | undefined
  // Without a price there is no order, and the draft says so.
  if (entry === undefined) return undefined
  const facts = { valueOf: measure, entry, way, onTick: (price: number) => toTick(bands, price) }
  const fixed = fixedExits(exits, facts)
  if ('exits' in fixed) return fixed.exits
  const { why, role, measure: text } = fixed
  const verdict = why === 'unknown' ? 'unknown' : 'fails'
  return { finding: { clause: 'Then', why: 'level', wrong: why, role, measure: text, verdict } }
}

const byMeasure = (exits: PlanExits): boolean =>
  partsOf<ExitLevel | object>(exits).some(({ stop, target }) =>
    [stop, target].some((level) => level && ('level' in level || 'distance' in level)),
  )

/** A size as it is asked for; by risk over a distance it is the shares that lose so much over it, as money at the entry's price. */
function sizingOf(size: PlanSize, over: number | undefined, equity: number, rate: number): Sizing {
  if ('shares' in size) return { by: 'shares', shares: size.shares }
  if ('money' in size) return { by: 'money', money: size.money }
  if ('equity' in size) return { by: 'equity', percentOfEquity: size.equity }
  if (over === undefined) return { by: 'risk', percentOfEquity: size.risk }
  return { by: 'shares', shares: (equity * size.risk) / 100 / (over * rate) }
}
