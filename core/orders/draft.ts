import { fromE4, toE4 } from '../market/money'
import { type Security } from '../market/security'
import { multiplierOf } from '../options/osi'
import { reckonedPrice } from './check'
import { directionOf, exitPrices, type Level, levelAt } from './levels'
import { commissionE4, openingQuantity } from './margin'
import { hasStop, type NewOrder, type OrdType, type TimeInForce } from './model'
import { type Side } from './legs'
import { type Exits, partsOf, type Trail } from './exits'
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
  /** What a unit of the security's currency is worth in the account's; 1 where left out. */
  rate?: number
}

/** What a draft comes to. Amounts in currency units. `order` is exactly what would be sent. */
export interface Drafted {
  order: NewOrder
  entry: number
  stop?: Level
  target?: Level
  cost: number
  commission: number
  buyingPowerAfter: number
  /** Lost between entry and stop, before commission; undefined without a stop. */
  loss?: number
  lossPercent?: number
  gain?: number
}

/** Prices and sizes a draft, or says why no order comes of it. */
export function draftOrder(draft: OrderDraft, facts: DraftFacts): Drafted | { why: string } {
  const bands = facts.security.increments
  const { sizing, exits, ...fields } = draft
  const entry = reckonedPrice(fields, facts)
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
  if (sizing.by === 'risk' && exits?.stop && 'total' in exits.stop)
    return {
      why: 'A stop in money for the whole position does not tell how many shares; give the size in shares.',
    }
  // Of several parts the first is shown: what a risk is measured by.
  const first = exits ? partsOf(exits)[0] : {}
  const pricesFor = (quantity: number) =>
    exitPrices(first, { side: draft.side, reference: entry, quantity, bands })
  const stop = pricesFor(1).stop
  // Sizes are asked for in the account's currency, prices are in the security's.
  const { rate = 1 } = facts
  const own = sizing.by === 'money' ? { ...sizing, money: sizing.money / rate } : sizing
  const sized = sizeOrder(own, { equity: facts.equity / rate, entry, stop, lot: facts.security.lot })
  if (sized.quantity === undefined) return { why: sized.why }
  const orderQty = sized.quantity
  const { stop: stopAt, target: targetAt } = pricesFor(orderQty)
  const entryE4 = toE4(entry)
  const worth = multiplierOf(draft.symbol) * (facts.rate ?? 1)
  const opening =
    draft.side === 'Sell' ? 0 : openingQuantity(facts.sharesHeld, directionOf(draft.side) * orderQty)
  const moved = (level: number | undefined) =>
    level === undefined ? undefined : fromE4(Math.round(orderQty * Math.abs(toE4(level) - entryE4) * worth))
  const loss = moved(stopAt)
  return {
    order: { ...fields, orderQty, ...(exits ? { exits } : {}) },
    entry,
    stop: stopAt === undefined ? undefined : levelAt(bands, entry, stopAt),
    target: targetAt === undefined ? undefined : levelAt(bands, entry, targetAt),
    cost: fromE4(Math.round(orderQty * entryE4 * worth)),
    commission: fromE4(commissionE4(draft.symbol, orderQty)),
    buyingPowerAfter: fromE4(toE4(facts.buyingPower) - Math.round(opening * entryE4 * worth)),
    loss,
    lossPercent: loss === undefined ? undefined : (100 * loss) / facts.equity,
    gain: moved(targetAt),
  }
}
