import { type OptionHolding, type OptionMargin, optionMargin } from '../options/margin'
import { isOption, multiplierOf, parseOsi, underlyingOf } from '../options/osi'
import { commissionE4, initialMarginE4, initialShare } from '../orders/margin'
import { toE4 } from '../market/money'
import { type Book } from './book'
import { converted, type PriceOf } from './sums'

/** Something that is bought (above 0) or sold, at a price in e4. */
export interface Move {
  symbol: string
  quantity: number
  priceE4: number
}

/** What moves of one underlying need of what is free of an account, and the option level. */
export interface Needs {
  moneyE4: number
  /** Commission of the moves, on top. */
  commissionE4: number
  level: OptionMargin['level']
  /** The level of what is held already. */
  levelBefore: OptionMargin['level']
}

/** Symbols that are held of an underlying: itself, and its option contracts. */
function heldOf(book: Pick<Book, 'holdings'>, underlying: string): Map<string, number> {
  const out = new Map<string, number>()
  for (const symbol in book.holdings) {
    const { quantity } = book.holdings[symbol]
    if (quantity !== 0 && underlyingOf(symbol) === underlying) out.set(symbol, quantity)
  }
  return out
}

/** Contracts that were held at a report of a book, by its holdings: most accounts hold none, and all of them are asked. */
const contracts = new WeakMap<Book['holdings'], { seq: number; symbols: readonly string[] }>()

/** Symbols of the contracts that an account holds. */
export function contractsHeld({ holdings, seq }: Pick<Book, 'holdings' | 'seq'>): readonly string[] {
  let known = contracts.get(holdings)
  if (known?.seq !== seq) {
    const symbols = Object.keys(holdings).filter(
      (symbol) => isOption(symbol) && holdings[symbol].quantity !== 0,
    )
    contracts.set(holdings, (known = { seq, symbols }))
  }
  return known.symbols
}

/** Whether short contracts of an underlying are held, which its shares may cover. */
export const isWritten = (book: Pick<Book, 'holdings' | 'seq'>, underlying: string): boolean =>
  contractsHeld(book).some(
    (symbol) => book.holdings[symbol].quantity < 0 && underlyingOf(symbol) === underlying,
  )

/** Margin of the options among what is held of one underlying. */
export function marginOf(
  { rules }: Pick<Book, 'rules'>,
  held: ReadonlyMap<string, number>,
  underlying: string,
  priceOf: PriceOf,
): OptionMargin {
  const options: OptionHolding[] = []
  for (const [symbol, quantity] of held) {
    const contract = isOption(symbol) && quantity !== 0 ? parseOsi(symbol) : undefined
    if (!contract) continue
    const { putOrCall, maturityDate, strikePrice } = contract
    const valueE4 = quantity < 0 ? priceOf(symbol).last : 0
    options.push({ putOrCall, maturityDate, strikeE4: toE4(strikePrice), quantity, valueE4 })
  }
  if (options.length === 0) return { heldE4: 0, level: 0 }
  const prices = priceOf(underlying)
  const { heldE4, level } = optionMargin(options, {
    shares: held.get(underlying) ?? 0,
    underlyingE4: prices.last,
    cashSecured: rules.optionLevel < 4,
  })
  return { heldE4: converted(heldE4, prices), level }
}

/**
 * Money that moves of one underlying take together; negative if they set money free. Cover that resting orders would take away
 * (`pending`) does not count for them.
 */
export function needsOf(
  book: Book,
  underlying: string,
  moves: readonly Move[],
  priceOf: PriceOf,
  pending: readonly Move[] = [],
): Needs {
  const before = heldOf(book, underlying)
  const after = new Map(before)
  let [moneyE4, paidE4] = [0, 0]
  for (const { symbol, quantity, priceE4 } of moves) {
    after.set(symbol, (after.get(symbol) ?? 0) + quantity)
    paidE4 += commissionE4(symbol, Math.abs(quantity))
    const prices = priceOf(underlying)
    if (isOption(symbol)) moneyE4 += converted(quantity * priceE4 * multiplierOf(symbol), prices)
    else {
      const share = initialShare(book.rules)
      const margin = (held: number) => initialMarginE4(converted(held * priceE4, prices), share)
      moneyE4 += margin(after.get(symbol)!) - margin(before.get(symbol) ?? 0)
    }
  }
  for (const held of [before, after])
    for (const { symbol, quantity } of pending) held.set(symbol, (held.get(symbol) ?? 0) + quantity)
  const [was, is] = [before, after].map((held) => marginOf(book, held, underlying, priceOf))
  return {
    ...{ moneyE4: Math.ceil(moneyE4 + is.heldE4 - was.heldE4), commissionE4: paidE4 },
    ...{ level: is.level, levelBefore: was.level },
  }
}

/** Margin held for all options of an account, in e4: beside what the contracts are worth themselves. */
export function optionMarginE4(book: Book, priceOf: PriceOf): number {
  const underlyings = new Set<string>()
  for (const symbol in book.holdings)
    if (isOption(symbol) && book.holdings[symbol].quantity !== 0) underlyings.add(underlyingOf(symbol))
  let sumE4 = 0
  for (const underlying of underlyings)
    sumE4 += marginOf(book, heldOf(book, underlying), underlying, priceOf).heldE4
  return sumE4
}
