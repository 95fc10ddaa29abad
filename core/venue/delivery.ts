import { type Book, sharesOf } from '../book/book'
import { converted, type PriceOf } from '../book/sums'
import { standing } from '../book/value'
import { toE4 } from '../market/money'
import { CONTRACT_MULTIPLIER, parseOsi } from '../options/osi'

/** Contracts to be exercised (quantity above 0) or assigned (below 0): shares change hands at the strike. */
export interface Due {
  symbol: string
  quantity: number
}

/** Why an account cannot take a delivery. */
export type Hindrance = 'money' | 'short' | 'borrow'

/** What limits a delivery of shares to an account. */
export interface DeliveryRules {
  priceOf: PriceOf
  /** Session date. */
  date: string
  /** Shares of the underlying that can be borrowed, those borrowed already among them; undefined where it is easy. */
  borrowable: number | undefined
}

/** Shares that a delivery brings (negative: takes), and what they cost at the strike, in the underlying's currency and e4. */
function deliveryOf(due: readonly Due[]): { shares: number; paidE4: number } {
  let [shares, paidE4] = [0, 0]
  for (const { symbol, quantity } of due) {
    const { putOrCall, strikePrice } = parseOsi(symbol)!
    const moved = (putOrCall === 'Call' ? 1 : -1) * quantity * CONTRACT_MULTIPLIER
    shares += moved
    paidE4 += moved * toE4(strikePrice)
  }
  return { shares, paidE4 }
}

/** The book as it would be after a delivery: holdings and cash only. */
function after(book: Book, underlying: string, due: readonly Due[], priceOf: PriceOf): Book {
  const { shares, paidE4 } = deliveryOf(due)
  const holdings = { ...book.holdings }
  const move = (symbol: string, by: number) => {
    const held = holdings[symbol] ?? { symbol, quantity: 0, costE4: 0, lots: [], realizedE4: {} }
    holdings[symbol] = { ...held, quantity: held.quantity + by }
  }
  for (const { symbol, quantity } of due) move(symbol, -quantity)
  move(underlying, shares)
  return { ...book, holdings, cashE4: book.cashE4 - converted(paidE4, priceOf(underlying)) }
}

/**
 * Why an account cannot take a delivery of one underlying: too little money for what it would hold, no right to sell short, or no
 * shares to borrow. Undefined if it can.
 */
export function hindranceOf(
  book: Book,
  underlying: string,
  due: readonly Due[],
  { priceOf, date, borrowable }: DeliveryRules,
): Hindrance | undefined {
  const held = sharesOf(book, underlying)
  const later = after(book, underlying, due, priceOf)
  const short = Math.max(0, -sharesOf(later, underlying))
  if (short > Math.max(0, -held)) {
    if (!book.rules.short) return 'short'
    if (borrowable !== undefined && short > borrowable) return 'borrow'
  }
  // An account that lacks money already may take a delivery that does not make it worse.
  const least = Math.min(0, standing(book, priceOf, date).freeE4)
  return standing(later, priceOf, date).freeE4 >= least ? undefined : 'money'
}

/** The part of a delivery that an account can take, and the rest with the reason. */
export interface Taken {
  taken: Due[]
  left: (Due & { why: Hindrance })[]
}

/**
 * As much of a delivery of one underlying as the account can take. First all of it is tried together, since exercised contracts
 * may deliver the shares of assigned ones. If that is too much, long contracts are left out first, from the highest strike
 * down, then written ones. Of the last one as many stay as possible.
 */
export function takeDelivery(
  book: Book,
  underlying: string,
  due: readonly Due[],
  rules: DeliveryRules,
): Taken {
  const taken = due.map((one) => ({ ...one }))
  const left: Taken['left'] = []
  const strike = (one: Due) => parseOsi(one.symbol)!.strikePrice
  const first = [...taken].sort(
    (a, b) => Number(b.quantity > 0) - Number(a.quantity > 0) || strike(b) - strike(a),
  )
  for (const one of first) {
    const why = hindranceOf(book, underlying, taken, rules)
    if (why === undefined) break
    const whole = one.quantity
    // What brings shares costs money: with too many of it money lacks, with too few the shares that others take. What takes shares brings money.
    const bringsShares = deliveryOf([one]).shares > 0
    let [can, tooFew, tooMany] = [0, -1, Math.abs(whole)]
    while (tooMany - tooFew > 1) {
      const middle = (tooFew + tooMany) >> 1
      one.quantity = Math.sign(whole) * middle
      const lacks = hindranceOf(book, underlying, taken, rules)
      if (lacks === undefined) can = tooFew = middle
      else if ((lacks === 'money') === bringsShares) tooMany = middle
      else tooFew = middle
    }
    one.quantity = Math.sign(whole) * can
    left.push({ symbol: one.symbol, quantity: whole - one.quantity, why })
  }
  return { taken: taken.filter(({ quantity }) => quantity !== 0), left }
}
