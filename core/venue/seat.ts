import { attachedOrders, type Book, takeReport } from '../book/book'
import { type Prices } from '../book/sums'
import { findWorking, type Working } from '../book/working'
import { toldOf } from './told'
import { type IncrementBand } from '../market/increment'
import { type ExecType, type ExecutionReport, isWorking, type Order, type OrdStatus } from '../orders/model'

/** What a venue knows of its securities, besides what is asked at a moment. */
export interface Place {
  bandsOf(symbol: string): readonly IncrementBand[]
  /** Whole quantities of a security are multiples of this. */
  lotOf(symbol: string): number
  /** A moment as it stands in reports: text with the venue's offset, and the session's date. */
  stampOf(at: number, symbol: string): { transactTime: string; tradeDate: string }
  /** Date on which the cash of a trade at a moment is settled. */
  settlesAt(at: number, symbol: string): string
  /** What a security is traded in. */
  currencyOf(symbol: string): string
  /** Prices of any security at a moment, with the rate of its currency. */
  pricesOf(symbol: string, at: number): Prices
}

/** An account at a venue. Whatever happens to it is a report, which is taken into the book at once and then told. */
export interface Seat {
  readonly book: Book
  readonly place: Place
  readonly tell: (report: ExecutionReport) => void
}

/** Fields of a report that change the order it is about. */
export type Change = Partial<Omit<ExecutionReport, 'seq' | 'execId' | 'execType' | 'ordStatus'>>

export const orderOf = ({ book }: Seat, orderId: string): Order => book.orders[orderId]

export const exitsOf = ({ book }: Seat, entryId: string): Order[] => attachedOrders(book, entryId)

/** The compact form of a working order; undefined once it can trade no more. */
export const workingNow = ({ book }: Seat, orderId: string): Working | undefined =>
  findWorking(book.working, book.orders[orderId].symbol, orderId)

/** When a trade is settled, and of one in another currency the rate by which it is converted. */
function settling({ place }: Seat, symbol: string, at: number): Change {
  const { rate } = place.pricesOf(symbol, at)
  return {
    settlDate: place.settlesAt(at, symbol),
    ...(rate === undefined ? {} : { currency: place.currencyOf(symbol), settlCurrFxRate: rate }),
  }
}

/** Reports something of an order, or of a new one where `orderId` is undefined and `change` says all of it. */
export function report(
  seat: Seat,
  orderId: string | undefined,
  execType: ExecType,
  ordStatus: OrdStatus,
  at: number,
  change: Change,
): void {
  const seq = seat.book.seq + 1
  const told = toldOf(orderId === undefined ? undefined : orderOf(seat, orderId), change)
  told.seq = seq
  told.execId = `E${seq}`
  told.execType = execType
  told.ordStatus = ordStatus
  const { transactTime, tradeDate } = seat.place.stampOf(at, told.symbol)
  told.transactTime = transactTime
  told.tradeDate = tradeDate
  if (execType === 'Trade') Object.assign(told, settling(seat, told.symbol, at))
  takeReport(seat.book, told)
  seat.tell(told)
  if (!isWorking(ordStatus)) followEnd(seat, orderOf(seat, told.orderId), at)
}

/** After an order has ended: exits of what never filled end with it, and what it was to set off begins, or ends too. */
function followEnd(seat: Seat, ended: Order, at: number): void {
  const { cumQty, orderQty, orderId } = ended
  const over = (other: Order, text: string) => {
    if (other.ordStatus === 'PendingNew')
      report(seat, other.orderId, 'Canceled', 'Canceled', at, { leavesQty: 0, text })
  }
  if (cumQty === 0) for (const exit of exitsOf(seat, orderId)) over(exit, 'its entry was not filled')
  for (const id of seat.book.waiting[orderId] ?? []) {
    const other = orderOf(seat, id)
    const lot = other.legs ? 1 : seat.place.lotOf(other.symbol)
    const part = Math.floor((other.orderQty * cumQty) / orderQty / lot) * lot
    if (part === 0) over(other, `${ended.clOrdId}, which was to set it off, was not filled`)
    else if (other.ordStatus === 'PendingNew' && other.approval === undefined)
      report(seat, id, 'New', 'New', at, {
        orderQty: part,
        leavesQty: part,
        text: `${ended.clOrdId} set it off`,
      })
  }
}
