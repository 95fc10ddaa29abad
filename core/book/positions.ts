import { fromE4, halfEven } from '../market/money'
import { multiplierOf } from '../options/osi'
import { type Position } from '../orders/views'
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
      const exits = (book.working[holding.symbol] ?? []).filter((o) => o.role !== 'Entry' && !o.pending)
      const stop = exits.find((one) => one.role === 'Stop')
      const target = exits.find((one) => one.role === 'Target')
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
        stopPx: stop && fromE4(stop.stopE4),
        targetPx: target && fromE4(target.limitE4),
      }
    })
    .sort((a, b) => (a.symbol < b.symbol ? -1 : 1))
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
