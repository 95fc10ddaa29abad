import { fromE4, priceText, toE4 } from '@/core/market/money'
import { reckonedPrice } from '@/core/orders/check'
import { directionOf } from '@/core/orders/levels'
import { averagePrice, type Ledger, workingOrders } from '@/core/orders/ledger'
import { buyingPowerE4, initialMarginE4, openingQuantity } from '@/core/orders/margin'
import { type Order, type Position } from '@/core/orders/model'
import { type Market } from '../market/market'
import { type Fill } from './sweep'

/** An account's figures at a moment, in whole ten-thousandths. */
export interface Standing {
  equityE4: number
  marginE4: number
  reservedE4: number
  buyingPowerE4: number
  unrealizedE4: number
}

/** Values an account at the last prices: equity, margin held, and what may still be bought. */
export function standing(ledger: Ledger, market: Market, now: number): Standing {
  let [valueE4, marginE4, costE4] = [0, 0, 0]
  for (const holding of ledger.holdings.values()) {
    if (holding.quantity === 0) continue
    const worthE4 = holding.quantity * market.quoteAt(market.find(holding.symbol)!, now).last
    valueE4 += worthE4
    marginE4 += initialMarginE4(worthE4)
    costE4 += holding.costE4
  }
  const equityE4 = ledger.cashE4 + valueE4
  const reservedE4 = reserved(ledger, market, now)
  return {
    equityE4,
    marginE4,
    reservedE4,
    buyingPowerE4: buyingPowerE4(equityE4, marginE4, reservedE4),
    unrealizedE4: valueE4 - costE4,
  }
}

/** Prices at which orders would likely trade, in e4; each security's quote is looked up once. */
function likelyPrices(market: Market, now: number): (order: Order) => number {
  const quotes = new Map<string, { bid: number; ask: number; last: number }>()
  return (order) => {
    let quote = quotes.get(order.symbol)
    if (!quote) {
      const { bid, ask, last } = market.quoteAt(market.find(order.symbol)!, now)
      quotes.set(order.symbol, (quote = { bid: fromE4(bid), ask: fromE4(ask), last: fromE4(last) }))
    }
    return toE4(reckonedPrice(order, quote)!)
  }
}

/**
 * Margin kept back for working entries, each by the part of it that would open something: what one of them closes,
 * the next cannot. One of them may be left out.
 */
function reserved(ledger: Ledger, market: Market, now: number, without?: string): number {
  let sum = 0
  const left = new Map<string, number>()
  const likelyE4 = likelyPrices(market, now)
  for (const order of ledger.working.values()) {
    if (order.role !== 'Entry' || order.side === 'Sell' || order.orderId === without) continue
    const held = left.get(order.symbol) ?? ledger.holdings.get(order.symbol)?.quantity ?? 0
    const signed = directionOf(order.side) * order.leavesQty
    const opening = openingQuantity(held, signed)
    if (held !== 0 && Math.sign(held) !== Math.sign(signed))
      left.set(order.symbol, held + Math.sign(signed) * (order.leavesQty - opening))
    sum += initialMarginE4(opening * likelyE4(order))
  }
  return sum
}

/**
 * How much of a fill an order may take: a close never more than is held, a short sale nothing while shares are held
 * long, and what opens a position as much as there is margin for at the price of the fill.
 */
export function mayTrade(
  ledger: Ledger,
  market: Market,
  order: Order,
  fill: Fill,
  now: number,
): { quantity: number; why: string } {
  const held = ledger.holdings.get(order.symbol)?.quantity ?? 0
  const closes = order.side === 'Sell' || order.role !== 'Entry'
  if (closes)
    return {
      quantity: Math.max(0, order.side === 'Buy' ? -held : held),
      why: 'nothing is held any more that it would close',
    }
  if (order.side === 'SellShort' && held > 0)
    return { quantity: 0, why: `${held} are held long by now, which a short sale would cross` }
  const signed = directionOf(order.side) * fill.quantity
  const opening = openingQuantity(held, signed)
  if (opening === 0) return { quantity: fill.quantity, why: '' }
  const { equityE4, marginE4 } = standing(ledger, market, now)
  const freeE4 = equityE4 - marginE4 - reserved(ledger, market, now, order.orderId)
  const affordable = Math.floor(Math.max(0, freeE4) / initialMarginE4(fill.priceE4))
  return {
    quantity: fill.quantity - opening + Math.min(opening, affordable),
    why: `the buying power does not reach for more at ${priceText(fromE4(fill.priceE4))}`,
  }
}

/** What is held, with its profit and the levels of its working exits. */
export function positions(ledger: Ledger, market: Market, now: number, today: string): Position[] {
  return [...ledger.holdings.values()]
    .filter((holding) => holding.quantity !== 0 || holding.realizedE4[today] !== undefined)
    .map((holding) => {
      const lastE4 = market.quoteAt(market.find(holding.symbol)!, now).last
      const exits = workingOrders(ledger, holding.symbol).filter(
        (o) => o.role !== 'Entry' && o.ordStatus !== 'PendingNew',
      )
      return {
        symbol: holding.symbol,
        quantity: holding.quantity,
        avgPx: averagePrice(holding),
        last: fromE4(lastE4),
        marketValue: fromE4(holding.quantity * lastE4),
        unrealized: fromE4(holding.quantity * lastE4 - holding.costE4),
        realizedToday: fromE4(holding.realizedE4[today] ?? 0),
        stopPx: exits.find((o) => o.role === 'Stop')?.stopPx,
        targetPx: exits.find((o) => o.role === 'Target')?.price,
      }
    })
    .sort((a, b) => (a.symbol < b.symbol ? -1 : 1))
}
