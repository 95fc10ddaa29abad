import { toE4 } from '../market/money'
import { type ExecutionReport, type Order, type StoodDown } from '../orders/model'
import { mayFollow } from '../orders/states'
import { indexOrder } from './indexing'
import { type AccountRules, USUAL_RULES } from '../orders/accountRules'
import { type WorkingBook } from './working'

/** What is held of one security, in whole ten-thousandths. `costE4` is negative when short. */
export interface Holding {
  symbol: string
  quantity: number
  costE4: number
  /** Profit taken, by session date. */
  realizedE4: Record<string, number>
}

/**
 * An account: its orders and what it holds, folded from its execution reports. Plain JSON, so that it can be kept, sent
 * and put back. The broker folds it from its journal, the page from the stream: both get the same from the same reports.
 */
export interface Book {
  rules: AccountRules
  /** What it stands down from: by symbol, or by ALL for everything. */
  stoodDown: Record<string, StoodDown>
  /** Number of the last report; they are counted without gaps from 1. */
  seq: number
  cashE4: number
  /** How many orders have come. */
  count: number
  orders: Record<string, Order>
  /** Order that a client order id stands for; a refused order does not use its id up. */
  byClOrdId: Record<string, string>
  holdings: Record<string, Holding>
  commissionE4: Record<string, number>
  /** Orders that may still trade: nothing looks through the past for them. */
  working: WorkingBook
  /** Orders that are attached to another, by its id. */
  attached: Record<string, string[]>
}

/** Stands for every security among those that an account stands down from; no symbol has a star. */
export const ALL = '*'

/** Without a prototype, since its keys come from outside. */
const record = <T>(): Record<string, T> => Object.create(null) as Record<string, T>

export const emptyBook = (cashE4 = 0, rules: AccountRules = USUAL_RULES): Book => ({
  rules,
  stoodDown: record(),
  seq: 0,
  cashE4,
  count: 0,
  orders: record(),
  byClOrdId: record(),
  holdings: record(),
  commissionE4: record(),
  working: record(),
  attached: record(),
})

/** A book as it came back from JSON. */
export const bookOf = (json: Book): Book => {
  const book = emptyBook(json.cashE4, json.rules)
  book.seq = json.seq
  book.count = json.count
  for (const part of [
    'stoodDown',
    'orders',
    'byClOrdId',
    'holdings',
    'commissionE4',
    'working',
    'attached',
  ] as const)
    Object.assign(book[part], json[part])
  return book
}

/**
 * Takes one report into the book, in place. Reports that were taken already are passed over, so a stream
 * may repeat itself. Throws Error on a gap, or on a report that cannot follow the order's state.
 */
export function takeReport(book: Book, report: ExecutionReport): void {
  if (report.seq <= book.seq) return
  if (report.seq !== book.seq + 1) {
    throw new Error(
      `Execution report ${report.seq} follows ${book.seq}: some are missing; ask for those after ${book.seq}`,
    )
  }
  const before = book.orders[report.orderId]
  if (!mayFollow(before?.ordStatus, report.execType, report.ordStatus)) {
    throw new Error(
      `${report.execType} (${report.ordStatus}) cannot follow ${before?.ordStatus ?? 'nothing'} for order ${report.orderId}`,
    )
  }
  book.seq = report.seq
  const order = orderAfter(before, report)
  book.orders[report.orderId] = order
  if (!before) {
    book.count++
    if (order.parentOrderId !== undefined) (book.attached[order.parentOrderId] ??= []).push(order.orderId)
  }
  indexOrder(book.working, order)
  if (report.ordStatus !== 'Rejected' || book.byClOrdId[report.clOrdId] === undefined)
    book.byClOrdId[report.clOrdId] = report.orderId
  if (report.execType === 'Trade') takeTrade(book, report)
}

function orderAfter(before: Order | undefined, report: ExecutionReport): Order {
  const { seq, execId, execType, lastQty, lastPx, commission, ...fields } = report
  const step = {
    execId,
    ordStatus: report.ordStatus,
    execType,
    at: report.transactTime,
    lastQty,
    lastPx,
    commission,
    cumQty: report.cumQty,
  }
  return {
    ...fields,
    enteredTime: before?.enteredTime ?? report.transactTime,
    lastSeq: seq,
    chain: [...(before ? earlier(before.chain, execType) : []), step],
  }
}

/** The steps before a new one: of restatements that follow one another the last tells all. */
const earlier = (chain: Order['chain'], execType: ExecutionReport['execType']): Order['chain'] =>
  execType === 'Restated' && chain.at(-1)?.execType === 'Restated' ? chain.slice(0, -1) : chain

function takeTrade(book: Book, report: ExecutionReport): void {
  const quantity = (report.side === 'Buy' ? 1 : -1) * report.lastQty!
  const valueE4 = quantity * toE4(report.lastPx!)
  const commissionE4 = toE4(report.commission ?? 0)
  book.cashE4 -= valueE4 + commissionE4
  book.commissionE4[report.tradeDate] = (book.commissionE4[report.tradeDate] ?? 0) + commissionE4
  const holding = (book.holdings[report.symbol] ??= {
    symbol: report.symbol,
    quantity: 0,
    costE4: 0,
    realizedE4: {},
  })
  const closing =
    Math.sign(holding.quantity) === -Math.sign(quantity)
      ? Math.min(Math.abs(holding.quantity), Math.abs(quantity))
      : 0
  if (closing > 0) {
    const costShareE4 = Math.round((holding.costE4 * closing) / Math.abs(holding.quantity))
    const proceedsE4 = Math.sign(holding.quantity) * closing * toE4(report.lastPx!)
    holding.realizedE4[report.tradeDate] =
      (holding.realizedE4[report.tradeDate] ?? 0) + proceedsE4 - costShareE4
    holding.costE4 -= costShareE4
  }
  const opening = Math.abs(quantity) - closing
  holding.costE4 += Math.sign(quantity) * opening * toE4(report.lastPx!)
  holding.quantity += quantity
}

/** Shares held of a security; negative when short. */
export const sharesOf = (book: Pick<Book, 'holdings'>, symbol: string): number =>
  book.holdings[symbol]?.quantity ?? 0

/** Average price paid or received for what is held; 0 when nothing is. */
export const averagePrice = (holding: Holding): number =>
  holding.quantity === 0 ? 0 : Math.round(holding.costE4 / holding.quantity) / 10_000

/** The order that stands under a client order id; undefined where none does, or only a refused one. */
export function standingUnder(book: Book, clOrdId: string): Order | undefined {
  const order = book.orders[book.byClOrdId[clOrdId] ?? '']
  return order?.ordStatus === 'Rejected' ? undefined : order
}

/** Orders that are attached to an entry, oldest first. */
export const attachedOrders = ({ attached, orders }: Book, orderId: string): Order[] =>
  (attached[orderId] ?? []).map((id) => orders[id])

/** Orders that may still trade, oldest first; of one security where it is named. */
export function workingOrders({ working, orders }: Book, symbol?: string): Order[] {
  const some = symbol === undefined ? Object.values(working).flat() : (working[symbol] ?? [])
  return [...some].sort((a, b) => a.number - b.number).map((one) => orders[one.orderId])
}
