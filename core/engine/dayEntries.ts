import { type Book, isOpeningIn } from '../book/book'
import { type ExecutionReport, isWorking } from '../orders/model'

/** Orders that were to open or add to a position, by security, oldest first: of the whole account, whoever sent them. */
export type DayEntries = Record<string, string[]>

/** Notes an order that opens, before its first report is taken into the book. */
export function noteEntry(entries: DayEntries, book: Book, report: ExecutionReport): void {
  const { orderId, symbol, role, ordStatus } = report
  if (role !== 'Entry' || ordStatus === 'Rejected' || book.orders[orderId] || !isOpeningIn(book, report))
    return
  ;(entries[symbol] ??= []).push(orderId)
}

/** Entries of a security in a session: orders that work or have traded. One that ended with nothing filled was no entry. */
export function countEntries(entries: DayEntries, { orders }: Book, symbol: string, date: string): number {
  const ids = entries[symbol] ?? []
  let count = 0
  for (let i = ids.length - 1; i >= 0; i--) {
    const { tradeDate, ordStatus, cumQty } = orders[ids[i]]
    // Those of a session before stay in front.
    if (tradeDate < date) break
    if (tradeDate === date && (isWorking(ordStatus) || cumQty > 0)) count++
  }
  return count
}
