import { type Book } from '../book/book'
import { type Move, needsOf } from '../book/needs'
import { type PriceOf, standing } from '../book/value'

/** What would be bought and sold of one underlying, by how many units of it there are. */
export interface Wanted {
  underlying: string
  quantity: number
  movesOf(quantity: number): Move[]
  /** Money that the order keeps itself, which is free for it; in e4. */
  keptE4: number
}

/**
 * How many units an account may take now by what its options need then: what is free of it, and its option level. Fewer
 * where that is all that can be paid; `why` says what holds back the rest.
 */
export function affordable(
  book: Book,
  { underlying, quantity: wanted, movesOf, keptE4 }: Wanted,
  priceOf: PriceOf,
  date: string,
): { quantity: number; why: string } {
  const freeE4 = Math.max(0, standing(book, priceOf, date).freeE4 + keptE4)
  let quantity = wanted
  while (quantity > 0) {
    const { moneyE4, commissionE4, level, levelBefore } = needsOf(
      book,
      underlying,
      movesOf(quantity),
      priceOf,
    )
    const neededE4 = moneyE4 + commissionE4
    if (level > book.rules.optionLevel && level > levelBefore)
      return { quantity: 0, why: 'what would be held asks for a higher option level by now' }
    if (neededE4 <= freeE4) break
    quantity = Math.min(quantity - 1, Math.floor((quantity * freeE4) / neededE4))
  }
  return { quantity, why: 'what is free does not reach for more of it' }
}
