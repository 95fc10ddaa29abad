import { sharesOf } from '../book/book'
import { orderIdOf } from '../book/working'
import { fromE4, priceText, toE4 } from '../market/money'
import { CONTRACT_MULTIPLIER, parseOsi } from '../options/osi'
import { type Leg } from '../orders/legs'
import { type Seat, report } from './seat'
import { shrinkCloses } from './shrink'

/** How contracts end: shares change hands, or they are closed for a price, or they end without value. */
export type Fate = 'exercised' | 'assigned' | 'closed' | 'ended'

export interface Settlement {
  /** Contract. */
  symbol: string
  /** Contracts; negative if written. */
  quantity: number
  fate: Fate
  /** Closing price a share, in e4; 0 unless `fate` is closed. */
  priceE4: number
  text: string
  clOrdId?: string
}

/** Exercise value a share at a price of the underlying, in e4; negative out of the money. */
export function worthE4(symbol: string, underlyingE4: number): number {
  const { putOrCall, strikePrice } = parseOsi(symbol)!
  return (putOrCall === 'Call' ? 1 : -1) * (underlyingE4 - toE4(strikePrice))
}

/** "1.25 in the money". */
export const inTheMoney = (e4: number): string => `${priceText(fromE4(e4))} in the money`

/**
 * Ends contracts by an order of the venue's own; if they are exercised or assigned, shares change hands at the strike. Returns the
 * id of the order.
 */
export function settle(seat: Seat, settlement: Settlement, at: number): string {
  const { symbol, quantity, fate, priceE4, text } = settlement
  const { underlyingSymbol, putOrCall, strikePrice } = parseOsi(symbol)!
  const delivers = fate === 'exercised' || fate === 'assigned'
  const contracts = Math.abs(quantity)
  const long = quantity > 0
  const buys = (putOrCall === 'Call') === long
  const before = sharesOf(seat.book, underlyingSymbol)
  const legs: Leg[] = [{ symbol, legSide: long ? 'Sell' : 'Buy', legRatioQty: 1 }]
  if (delivers) {
    const legSide = buys ? 'Buy' : before > 0 ? 'Sell' : 'SellShort'
    legs.push({ symbol: underlyingSymbol, legSide, legRatioQty: CONTRACT_MULTIPLIER })
  }
  const orderId = orderIdOf(seat.book.count + 1)
  const order = {
    ...{ orderId, clOrdId: settlement.clOrdId ?? `end/${symbol.replaceAll(' ', '')}/${orderId}` },
    ...{ symbol: underlyingSymbol, legs, text },
    ...{
      side: 'Buy' as const,
      ordType: 'Market' as const,
      timeInForce: 'Day' as const,
      role: 'Exercise' as const,
    },
    orderQty: contracts,
    avgPx: 0,
  }
  report(seat, undefined, 'New', 'New', at, { ...order, cumQty: 0, leavesQty: contracts })
  const net = delivers ? 0 : fromE4(priceE4)
  report(seat, orderId, 'Trade', 'Filled', at, {
    ...{ cumQty: contracts, leavesQty: 0, lastQty: contracts, lastPx: net, commission: 0 },
    legFills: legs.map((leg) => ({
      ...{ symbol: leg.symbol, side: leg.legSide, lastQty: contracts * leg.legRatioQty, commission: 0 },
      lastPx: leg.symbol === symbol ? fromE4(priceE4) : strikePrice,
    })),
    text,
  })
  if (Math.abs(sharesOf(seat.book, underlyingSymbol)) < Math.abs(before))
    shrinkCloses(seat, underlyingSymbol, before > 0 ? 'Sell' : 'Buy', at)
  const left = sharesOf(seat.book, symbol)
  if (left !== 0) shrinkCloses(seat, symbol, left > 0 ? 'Sell' : 'Buy', at)
  return orderId
}
