import { fromE4, halfEven } from '../market/money'
import { multiplierOf } from '../options/osi'
import { type Position } from '../orders/views'
import { type Working } from './working'
import { converted } from './sums'
import { averagePrice, type Book, type Holding } from './book'
import { type PriceOf } from './value'

/** What is held, or was closed today, with its profit and the levels of its working exits. */
export function positions(book: Book, priceOf: PriceOf, today: string): Position[] {
  return Object.values(book.holdings)
    .filter((holding) => holding.quantity !== 0 || holding.realizedE4[today] !== undefined)
    .map((holding) => {
      const prices = priceOf(holding.symbol)
      const lastE4 = prices.last
      const worthE4 = converted(holding.quantity * lastE4 * multiplierOf(holding.symbol), prices)
      const exits = exitsOf(book.working[holding.symbol] ?? [], lastE4)
      const at = (role: 'Stop' | 'Target') => exits.find((one) => one.role === role)?.price
      const covered = exits.reduce((sum, one) => sum + (one.role === 'Stop' ? one.quantity : 0), 0)
      return {
        symbol: holding.symbol,
        quantity: holding.quantity,
        avgPx: averagePrice(holding),
        last: fromE4(lastE4),
        marketValue: fromE4(worthE4),
        unrealized: fromE4(worthE4 - holding.costE4),
        ...(prices.rate === undefined
          ? {}
          : { rate: prices.rate, currencyGain: fromE4(currencyGainE4(holding, prices.rate)) }),
        realizedToday: fromE4(holding.realizedE4[today] ?? 0),
        stopPx: at('Stop'),
        targetPx: at('Target'),
        exits,
        withoutStop: Math.max(0, Math.abs(holding.quantity) - covered),
      }
    })
    .sort((a, b) => (a.symbol < b.symbol ? -1 : 1))
}

/** Working orders that close a position at a price, nearest to the last price first: exits of an entry, and those that stand alone. */
function exitsOf(working: readonly Working[], lastE4: number): Position['exits'] {
  return working
    .flatMap((one): Position['exits'] => {
      if (!one.closes || one.pending || one.role === 'Leg') return []
      const role = one.stopE4 > 0 ? 'Stop' : one.limitE4 > 0 ? 'Target' : undefined
      if (!role) return []
      const price = fromE4(role === 'Stop' ? one.stopE4 : one.limitE4)
      return [{ role, price, quantity: one.leavesQty, orderId: one.orderId }]
    })
    .sort((a, b) => Math.abs(a.price - fromE4(lastE4)) - Math.abs(b.price - fromE4(lastE4)))
}

/** What a change of the rate has brought of what is held, in e4: part of its profit. */
export function currencyGainE4({ symbol, lots }: Pick<Holding, 'symbol' | 'lots'>, rate: number): number {
  let sumE4 = 0
  for (const lot of lots)
    sumE4 += lot.quantity * lot.priceE4 * multiplierOf(symbol) * (rate - (lot.rate ?? 1))
  return halfEven(sumE4)
}

/** Part of the unrealized profit that exchange rates have brought, in e4. */
export const unrealizedCurrencyE4 = ({ holdings }: Book, priceOf: PriceOf): number =>
  Object.values(holdings)
    .filter(({ quantity }) => quantity !== 0)
    .reduce((sum, holding) => sum + currencyGainE4(holding, priceOf(holding.symbol).rate ?? 1), 0)

/** Profit taken on a session date, in whole ten-thousandths. */
export const realizedOn = (book: Book, date: string): number =>
  Object.values(book.holdings).reduce((sum, holding) => sum + (holding.realizedE4[date] ?? 0), 0)
