import { decimal, fromE4, toE4 } from '../market/money'
import { type Security } from '../market/security'
import { multiplierOf } from '../options/osi'
import { reckonedPrice } from './check'
import { directionOf, exitPrices, type Level, levelAt } from './levels'
import { commissionE4, commissionPowerE4, openingQuantity } from './margin'
import { hasStop, MOST_QUANTITY, type NewOrder, type OrdType, type TimeInForce } from './model'
import { type Side } from './legs'
import { type Exits, partsOf, shareOut, type Trail } from './exits'
import { type Sizing, sizeOrder } from './size'

/** An order as a ticket or a spreadsheet row asks for it, before it is priced and sized. */
export interface OrderDraft {
  clOrdId: string
  symbol: string
  side: Side
  sizing: Sizing
  ordType: OrdType
  price?: number
  stopPx?: number
  trail?: Trail
  timeInForce: TimeInForce
  expireDate?: string
  expireSessions?: number
  exits?: Exits
  clOrdLinkId?: string
  triggerClOrdId?: string
  text?: string
}

export interface DraftFacts {
  security: Security
  bid?: number
  ask?: number
  last?: number
  equity: number
  buyingPower: number
  sharesHeld: number
  /** Margin share of what is opened; half if left out. */
  share?: number
  /** What a unit of the security's currency is worth in the account's; 1 where left out. */
  rate?: number
}

/** Where the exits of a part of the position would stand, and for how many shares. */
export interface DraftedPart {
  quantity: number
  stop?: Level
  target?: Level
}

/** What a draft comes to. Amounts in currency units. `order` is exactly what would be sent. */
export interface Drafted {
  order: NewOrder
  entry: number
  /** One where the whole position has the same exits; none where it has no exits. */
  parts: readonly DraftedPart[]
  cost: number
  commission: number
  buyingPowerAfter: number
  /** Lost between entry and stops, before commission; undefined where a part has no stop. */
  loss?: number
  lossPercent?: number
  /** Gained between entry and targets; undefined where a part has no target. */
  gain?: number
}

/** Prices and sizes a draft, or says why no order comes of it. */
export function draftOrder(draft: OrderDraft, facts: DraftFacts): Drafted | { why: string } {
  const bands = facts.security.increments
  const { sizing, exits } = draft
  const entry = reckonedPrice(draft, facts)
  if (entry === undefined) {
    return {
      why:
        draft.ordType === 'Market'
          ? 'No quote has come for it; the cost is not known.'
          : hasStop(draft.ordType) && draft.stopPx === undefined
            ? 'Give the stop price.'
            : 'Give the limit price.',
    }
  }
  const asked = exits ? partsOf(exits) : []
  if (sizing.by === 'risk' && asked.some(({ stop }) => stop && 'total' in stop))
    return {
      why: 'A stop in money for the whole position does not tell how many shares; give the size in shares.',
    }
  const { lot } = facts.security
  const multiplier = multiplierOf(draft.symbol)
  const partsFor = (orderQty: number) => {
    const quantities = shareOut(asked, orderQty, lot)
    return asked.map((part, i) => {
      const quantity = quantities[i]
      const terms = { side: draft.side, reference: entry, quantity: quantity * multiplier, bands }
      return { quantity, ...exitPrices(part, terms) }
    })
  }
  const stop = sizing.by === 'risk' ? meanStop(partsFor(1000 * lot)) : undefined
  // Sizes are asked for in the account's currency, prices are in the security's.
  const { rate = 1 } = facts
  const own = sizing.by === 'money' ? { ...sizing, money: sizing.money / rate } : sizing
  const sized = sizeOrder(own, { equity: facts.equity / rate, entry, stop, lot })
  if (sized.quantity === undefined) return { why: sized.why }
  const orderQty = sized.quantity
  if (orderQty > MOST_QUANTITY)
    return {
      why: `One order is for at most ${decimal(MOST_QUANTITY, 0)} shares, and this asks for ${decimal(orderQty, 0)}. Give a smaller size.`,
    }
  const parts = partsFor(orderQty)
  const entryE4 = toE4(entry)
  const worth = multiplier * rate
  const opening =
    draft.side === 'Sell' ? 0 : openingQuantity(facts.sharesHeld, directionOf(draft.side) * orderQty)
  const moved = (which: 'stop' | 'target') =>
    parts.length === 0 || parts.some((part) => part[which] === undefined)
      ? undefined
      : fromE4(Math.round(worth * total(parts, (part) => Math.abs(toE4(part[which]!) - entryE4))))
  const loss = moved('stop')
  const levelOf = (price: number | undefined) =>
    price === undefined ? undefined : levelAt(bands, entry, price)
  return {
    order: asOrder(draft, orderQty),
    entry,
    parts: parts.map((part) => ({ ...part, stop: levelOf(part.stop), target: levelOf(part.target) })),
    cost: fromE4(Math.round(orderQty * entryE4 * worth)),
    commission: fromE4(commissionE4(draft.symbol, orderQty)),
    buyingPowerAfter: fromE4(
      toE4(facts.buyingPower) -
        Math.round(opening * entryE4 * worth) -
        (opening > 0 ? commissionPowerE4(draft.symbol, orderQty, facts.share) : 0),
    ),
    loss,
    lossPercent: loss === undefined ? undefined : (100 * loss) / facts.equity,
    gain: moved('target'),
  }
}

/** What a draft sends, field by field: copying it whole costs many times as much. */
function asOrder(draft: OrderDraft, orderQty: number): NewOrder {
  const order: NewOrder = {
    clOrdId: draft.clOrdId,
    symbol: draft.symbol,
    side: draft.side,
    orderQty,
    ordType: draft.ordType,
    timeInForce: draft.timeInForce,
  }
  if (draft.price !== undefined) order.price = draft.price
  if (draft.stopPx !== undefined) order.stopPx = draft.stopPx
  if (draft.trail) order.trail = draft.trail
  if (draft.expireDate !== undefined) order.expireDate = draft.expireDate
  if (draft.expireSessions !== undefined) order.expireSessions = draft.expireSessions
  if (draft.exits) order.exits = draft.exits
  if (draft.clOrdLinkId !== undefined) order.clOrdLinkId = draft.clOrdLinkId
  if (draft.triggerClOrdId !== undefined) order.triggerClOrdId = draft.triggerClOrdId
  if (draft.text !== undefined) order.text = draft.text
  return order
}

type Priced = { quantity: number; stop?: number; target?: number }

/** The sum over parts of a figure a share. */
const total = (parts: readonly Priced[], of: (part: Priced) => number): number =>
  parts.reduce((sum, part) => sum + part.quantity * of(part), 0)

/** The price at which a position with one stop would lose what it loses with the stops of its parts. */
function meanStop(parts: readonly Priced[]): number | undefined {
  if (parts.length === 0 || parts.some(({ stop }) => stop === undefined)) return undefined
  return total(parts, ({ stop }) => stop!) / total(parts, () => 1)
}
