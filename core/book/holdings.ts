import { type Holding } from '../market/holdings'
import { type ExecutionReport } from '../orders/model'
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
    const held = book.holdings[report.symbol]
    const all = (out[report.symbol] ??= [])
    const before = all.at(-1)
    const since = Date.parse(report.transactTime)
    const goesOn = before !== undefined && Math.sign(before.shares) === Math.sign(held.quantity)
    all.push({
      since,
      shares: held.quantity,
      averagePrice: held.quantity === 0 ? NaN : averagePrice(held),
      opened: goesOn ? before.opened : since,
    })
  }
  return out
}
