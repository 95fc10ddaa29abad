import { isOption, underlyingOf } from '../options/osi'
import { gcd } from '../orders/legs'
import { type NewOrder } from '../orders/model'

/**
 * Orders that close what is held, at the market: one multi-leg order of its options, if there are several of one
 * underlying, and one for each other security. Their ids are the one that is given with what they close.
 */
export function closingOrders(
  positions: readonly { symbol: string; quantity: number }[],
  clOrdId: string,
  group?: string,
): NewOrder[] {
  const held = positions.filter(({ quantity }) => quantity !== 0)
  const common = { ordType: 'Market' as const, timeInForce: 'Day' as const, ...(group ? { group } : {}) }
  const orders: NewOrder[] = []
  const together = new Map<string, typeof held>()
  for (const leg of held.filter(({ symbol }) => isOption(symbol))) {
    const underlying = underlyingOf(leg.symbol)
    together.set(underlying, [...(together.get(underlying) ?? []), leg])
  }
  const alone = held.filter(({ symbol }) => !isOption(symbol))
  for (const [underlying, options] of together) {
    if (options.length === 1 || options.length > 4) {
      alone.push(...options)
      continue
    }
    const units = options.map(({ quantity }) => Math.abs(quantity)).reduce(gcd)
    orders.push({
      ...{ ...common, clOrdId: `${clOrdId}.${underlying}`, symbol: underlying, side: 'Buy', orderQty: units },
      legs: options.map(({ symbol, quantity }) => ({
        ...{ symbol, legSide: quantity > 0 ? 'Sell' : 'Buy', legRatioQty: Math.abs(quantity) / units },
      })),
    })
  }
  for (const { symbol, quantity } of alone)
    orders.push({
      ...{ ...common, clOrdId: `${clOrdId}.${symbol.replaceAll(' ', '')}`, symbol },
      ...{ side: quantity > 0 ? 'Sell' : 'Buy', positionEffect: 'Close', orderQty: Math.abs(quantity) },
    })
  return orders
}
