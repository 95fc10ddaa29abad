import { type Holding } from '../market/holdings'
import { type ExecutionReport } from '../orders/model'
import { type Position } from '../orders/views'
import { averagePrice, emptyBook, takeReport } from './book'

/**
 * What an account held of each security from fill to fill, folded from all of its execution reports in their order, as
 * rules ask for it (see rules/words/position). Throws Error on a gap, as the book does.
 */
export function holdingsOf(reports: Iterable<ExecutionReport>): Record<string, Holding[]> {
  const book = emptyBook()
  const out: Record<string, Holding[]> = {}
  for (const report of reports) {
    takeReport(book, report)
    if (report.execType !== 'Trade') continue
    const since = Date.parse(report.transactTime)
    for (const { symbol } of report.legFills ?? [report]) {
      const held = book.holdings[symbol]
      const all = (out[symbol] ??= [])
      const before = all.at(-1)
      const goesOn = before !== undefined && Math.sign(before.shares) === Math.sign(held.quantity)
      all.push({
        since,
        shares: held.quantity,
        averagePrice: held.quantity === 0 ? NaN : averagePrice(held),
        opened: goesOn ? before.opened : since,
      })
    }
  }
  return out
}

/** Shares that are held at the end of what was held from fill to fill, by symbol. */
export const sharesIn = (folded: Readonly<Record<string, readonly Holding[]>>): Record<string, number> =>
  Object.fromEntries(Object.entries(folded).map(([symbol, all]) => [symbol, all.at(-1)?.shares ?? 0]))

/** What was folded from reports and what the broker tells of one security, where that is not the same. */
export interface Unlike {
  symbol: string
  folded: number
  told: number
}

/** Holds shares that were folded from reports, by symbol, against what the broker tells; empty where both are the same. */
export function unlike(
  folded: Readonly<Record<string, number>>,
  told: readonly Pick<Position, 'symbol' | 'quantity'>[],
): Unlike[] {
  const toldOf = new Map(told.map(({ symbol, quantity }) => [symbol, quantity]))
  const symbols = new Set([...Object.keys(folded), ...toldOf.keys()])
  return [...symbols].sort().flatMap((symbol) => {
    const one = { symbol, folded: folded[symbol] ?? 0, told: toldOf.get(symbol) ?? 0 }
    return one.folded === one.told ? [] : [one]
  })
}
