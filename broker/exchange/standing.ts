import { fromE4, toE4 } from '@/core/market/money'
import { directionOf } from '@/core/orders/levels'
import { averagePrice, type Ledger, workingOrders } from '@/core/orders/ledger'
import { buyingPowerE4, initialMarginE4, openingQuantity } from '@/core/orders/margin'
import { type Position } from '@/core/orders/model'
import { type Market } from '../market/market'

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

/** Margin kept back for working entries, each by the part of it that would open something. */
function reserved(ledger: Ledger, market: Market, now: number): number {
  let sum = 0
  for (const order of workingOrders(ledger)) {
    if (order.role !== 'Entry' || order.side === 'Sell') continue
    const held = ledger.holdings.get(order.symbol)?.quantity ?? 0
    const opening = openingQuantity(held, directionOf(order.side) * order.leavesQty)
    const price = order.price ?? order.stopPx
    const priceE4 = price !== undefined ? toE4(price) : market.quoteAt(market.find(order.symbol)!, now).last
    sum += initialMarginE4(opening * priceE4)
  }
  return sum
}

/** What is held, with its profit and the levels of its working exits. */
export function positions(ledger: Ledger, market: Market, now: number, today: string): Position[] {
  const working = workingOrders(ledger)
  return [...ledger.holdings.values()]
    .filter((holding) => holding.quantity !== 0 || holding.realizedE4[today] !== undefined)
    .map((holding) => {
      const lastE4 = market.quoteAt(market.find(holding.symbol)!, now).last
      const exits = working.filter(
        (o) => o.symbol === holding.symbol && o.role !== 'Entry' && o.ordStatus !== 'PendingNew',
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
