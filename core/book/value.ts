import { isOption, multiplierOf } from '../options/osi'
import { optionMarginE4 } from './needs'
import { buyingPowerE4, initialMarginE4, initialShare } from '../orders/margin'
import { type Book, settledE4 } from './book'
import { converted, type PriceOf, reservedIn } from './sums'
import { type Working } from './working'

export type { PriceOf } from './sums'

/** An account's figures at a moment, in whole ten-thousandths. */
export interface Standing {
  equityE4: number
  marginE4: number
  reservedE4: number
  /** What is neither held nor kept. */
  freeE4: number
  buyingPowerE4: number
  unrealizedE4: number
}

/** Values an account at a session date: equity, margin held, and what may still be bought. */
export function standing(book: Book, priceOf: PriceOf, date: string): Standing {
  const { valueE4, marginE4, costE4 } = held(book, priceOf)
  const equityE4 = book.cashE4 + valueE4
  const reservedE4 = reserved(book, priceOf)
  const ownedE4 = ownE4(book, equityE4, marginE4, date)
  return {
    equityE4,
    marginE4,
    reservedE4,
    freeE4: ownedE4 - reservedE4,
    buyingPowerE4: buyingPowerE4(ownedE4 + marginE4, marginE4, reservedE4, initialShare(book.rules)),
    unrealizedE4: valueE4 - costE4,
  }
}

/** Shares of its value that a stock position holds as long as it is held. Source: FINRA rule 4210 (from memory). */
const MAINTENANCE = { long: 0.25, short: 0.3 }

/** What the equity of an account must not fall below, in e4; a cash account, which borrows nothing, has no such bound. */
export function maintenanceE4(book: Book, priceOf: PriceOf): number {
  if (!book.rules.margin) return 0
  let sumE4 = optionMarginE4(book, priceOf)
  for (const symbol in book.holdings) {
    const { quantity } = book.holdings[symbol]
    if (quantity === 0) continue
    const prices = priceOf(symbol)
    const worthE4 = converted(quantity * prices.last * multiplierOf(symbol), prices)
    sumE4 += isOption(symbol)
      ? worthE4
      : Math.ceil(Math.abs(worthE4) * (quantity > 0 ? MAINTENANCE.long : MAINTENANCE.short))
  }
  return sumE4
}

/** What of the equity is not held already: of a cash account no more than its settled cash, since it borrows nothing. */
const ownE4 = (book: Book, equityE4: number, marginE4: number, date: string): number =>
  book.rules.margin ? equityE4 - marginE4 : Math.min(equityE4 - marginE4, settledE4(book, date))

function held(book: Book, priceOf: PriceOf) {
  let [valueE4, marginE4, costE4] = [0, optionMarginE4(book, priceOf), 0]
  const share = initialShare(book.rules)
  for (const symbol in book.holdings) {
    const holding = book.holdings[symbol]
    if (holding.quantity === 0) continue
    const prices = priceOf(symbol)
    const worthE4 = converted(holding.quantity * prices.last * multiplierOf(symbol), prices)
    valueE4 += worthE4
    // Options are paid in full: they lend nothing, and what short ones hold is reckoned together.
    marginE4 += isOption(symbol) ? worthE4 : initialMarginE4(worthE4, share)
    costE4 += holding.costE4
  }
  return { valueE4, marginE4, costE4 }
}

/** Margin kept back for working entries, in e4. One of them may be left out. */
export function reserved(book: Book, priceOf: PriceOf, without?: Working): number {
  let sumE4 = 0
  const share = initialShare(book.rules)
  for (const symbol in book.working) {
    const held = book.holdings[symbol]?.quantity ?? 0
    const left = without?.symbol === symbol ? without : undefined
    sumE4 += reservedIn(book.working[symbol], held, priceOf(symbol), share, left)
  }
  return sumE4
}

/** What is free of the equity for a working order, its own reserve left out, in e4. */
export function freeFor(book: Book, order: Working, priceOf: PriceOf, date: string): number {
  const { valueE4, marginE4 } = held(book, priceOf)
  const ownedE4 = ownE4(book, book.cashE4 + valueE4, marginE4, date)
  return ownedE4 - reserved(book, priceOf, order)
}
