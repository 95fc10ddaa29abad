import { halfEven, toE4 } from '../market/money'
import { multiplierOf } from '../options/osi'
import { opens } from '../orders/check'
import { type LegFill, legIdOf } from '../orders/legs'
import { directionOf } from '../orders/levels'
import { type ExecutionReport, type Order } from '../orders/model'
import { type AccountDay, type Booking, type ExpiryNotice, type StoodDown } from '../orders/views'
import { mayFollow } from '../orders/states'
import { indexOrder } from './indexing'
import { orderAfter } from './orderAfter'
import { dealLots, type Lot, splitLots } from './lots'
import { type AccountRules, USUAL_RULES } from '../orders/accountRules'
import { indexWhole, type WholeBook } from './wholes'
import { type Lately, noneLately, noteTaken } from './lately'
import { type Gate } from '../orders/gate'
import { type WorkingBook } from './working'

/** What is held of one security, in whole ten-thousandths. `costE4` is negative when short; of options it is that of all their shares. */
export interface Holding {
  symbol: string
  quantity: number
  costE4: number
  /** What it is made of, oldest first. */
  lots: Lot[]
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
  /** Money that moved without a trade, oldest first. */
  bookings: Booking[]
  /** Figures at the close of each session, oldest first. */
  days: AccountDay[]
  /** This morning's announcement of contracts that expire today or may be assigned. */
  expiring: readonly ExpiryNotice[]
  /** Contracts that the trader does not want exercised. */
  notExercised: readonly string[]
  /** What it has taken lately, for its gates. */
  lately: Lately
  gates: readonly Gate[]
  /** What groups of orders have realized and paid in commission. */
  groups: Record<string, { realizedE4: number; commissionE4: number }>
  /** What rates have brought of what was realized, by session date. */
  currencyE4: Record<string, number>
  /** What sales brought that is not settled yet, by the date on which it is. */
  unsettledE4: Record<string, number>
  /** Orders that may still trade: nothing looks through the past for them. */
  working: WorkingBook
  /** Multi-leg orders among them. */
  wholes: WholeBook
  /** Orders that are attached to another, by its id. */
  attached: Record<string, string[]>
  /** Orders of which the first that trades ends the others, by their common id. */
  linked: Record<string, string[]>
  /** Orders that another sets off, by its id. */
  waiting: Record<string, string[]>
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
  bookings: [],
  days: [],
  expiring: [],
  notExercised: [],
  lately: noneLately(),
  gates: [],
  groups: record(),
  currencyE4: record(),
  unsettledE4: record(),
  working: record(),
  wholes: record(),
  attached: record(),
  linked: record(),
  waiting: record(),
})

/** A book as it came back from JSON. */
export const bookOf = (json: Book): Book => {
  const book = emptyBook(json.cashE4, json.rules)
  book.seq = json.seq
  book.count = json.count
  book.lately = json.lately
  book.bookings = json.bookings
  book.days = json.days
  // Books of earlier builds lack both.
  book.expiring = json.expiring ?? []
  book.notExercised = json.notExercised ?? []
  book.gates = json.gates
  for (const part of [
    'stoodDown',
    'orders',
    'byClOrdId',
    'holdings',
    'commissionE4',
    'unsettledE4',
    'working',
    'wholes',
    'groups',
    'currencyE4',
    'attached',
    'linked',
    'waiting',
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
    order.legs?.forEach((_leg, i) => (book.byClOrdId[legIdOf(order.clOrdId, i)] = order.orderId))
    if (order.parentOrderId !== undefined) (book.attached[order.parentOrderId] ??= []).push(order.orderId)
    if (order.role === 'Entry' && order.ordStatus !== 'Rejected')
      noteTaken(book, order, isOpeningIn(book, order), Date.parse(order.transactTime), order.tradeDate)
    if (order.clOrdLinkId !== undefined) (book.linked[order.clOrdLinkId] ??= []).push(order.orderId)
    const triggerId = order.triggerClOrdId && book.byClOrdId[order.triggerClOrdId]
    if (triggerId) (book.waiting[triggerId] ??= []).push(order.orderId)
  }
  indexOrder(book.working, order)
  indexWhole(book.wholes, order)
  if (report.ordStatus !== 'Rejected' || book.byClOrdId[report.clOrdId] === undefined)
    book.byClOrdId[report.clOrdId] = report.orderId
  if (report.execType === 'Trade') takeTrade(book, report)
}

function takeTrade(book: Book, report: ExecutionReport): void {
  if (report.splitRatio !== undefined) return takeSplit(book.holdings[report.symbol], report.splitRatio)
  if (!report.legFills) return takeFill(book, report, report as Fill)
  report.legFills.forEach((leg, i) => takeFill(book, { ...report, execId: `${report.execId}-${i + 1}` }, leg))
}

/** Splits what is held, in place: it has cost what it had. */
function takeSplit(holding: Holding, ratio: number): void {
  holding.quantity *= ratio
  holding.lots = splitLots(holding.lots, ratio)
}

/** A trade of one security. */
type Fill = Pick<LegFill, 'symbol' | 'side' | 'lastQty' | 'lastPx'> & { commission?: number }

function takeFill(book: Book, report: ExecutionReport, fill: Fill): void {
  const { tradeDate, settlDate } = report
  const { symbol } = fill
  const multiplier = multiplierOf(symbol)
  const quantity = directionOf(fill.side) * fill.lastQty
  const priceE4 = toE4(fill.lastPx)
  const commissionE4 = toE4(fill.commission ?? 0)
  const rate = report.settlCurrFxRate ?? 1
  const tradedE4 = halfEven(quantity * priceE4 * multiplier * rate)
  const paidE4 = tradedE4 + commissionE4
  book.cashE4 -= paidE4
  book.commissionE4[tradeDate] = (book.commissionE4[tradeDate] ?? 0) + commissionE4
  // What is bought is gone from the cash at once; what is sold comes when it is settled.
  if (settlDate !== undefined && paidE4 < 0) {
    for (const date of Object.keys(book.unsettledE4)) if (date <= tradeDate) delete book.unsettledE4[date]
    book.unsettledE4[settlDate] = (book.unsettledE4[settlDate] ?? 0) - paidE4
  }
  const holding = (book.holdings[symbol] ??= { symbol, quantity: 0, costE4: 0, lots: [], realizedE4: {} })
  const { group } = report
  const dealt = {
    ...{ id: report.execId, orderId: report.orderId, opened: tradeDate, quantity, priceE4 },
    ...(group === undefined ? {} : { group }),
    ...(rate === 1 ? {} : { rate }),
  }
  const { lots, closed, realizedE4, currencyE4, byGroup } = dealLots(
    holding.lots,
    dealt,
    multiplier,
    report.lot,
  )
  holding.lots = lots
  holding.quantity += quantity
  holding.costE4 += tradedE4 + realizedE4
  if (currencyE4 !== 0) book.currencyE4[tradeDate] = (book.currencyE4[tradeDate] ?? 0) + currencyE4
  const add = (name: string, gainE4: number, paid: number) => {
    const sums = (book.groups[name] ??= { realizedE4: 0, commissionE4: 0 })
    sums.realizedE4 += gainE4
    sums.commissionE4 += paid
  }
  for (const name in byGroup) add(name, byGroup[name], 0)
  if (group !== undefined) add(group, 0, commissionE4)
  if (closed > 0) holding.realizedE4[tradeDate] = (holding.realizedE4[tradeDate] ?? 0) + realizedE4
}

/** Cash that is settled at a date: what sales bring is on the session after (T+1). */
export function settledE4(
  { cashE4, unsettledE4 }: Pick<Book, 'cashE4' | 'unsettledE4'>,
  date: string,
): number {
  let settled = cashE4
  for (const day in unsettledE4) if (day > date) settled -= unsettledE4[day]
  return settled
}

/** Whether an order opens or adds to a position of a book, any leg of it. */
export const isOpeningIn = (
  book: Pick<Book, 'holdings'>,
  order: Pick<Order, 'symbol' | 'side' | 'orderQty' | 'legs' | 'positionEffect'>,
): boolean =>
  order.legs
    ? order.legs.some(({ symbol, legSide, legRatioQty }) => {
        const leg = { side: legSide, orderQty: legRatioQty * order.orderQty }
        return opens(leg, sharesOf(book, symbol)) > 0
      })
    : order.positionEffect !== 'Close' && opens(order, sharesOf(book, order.symbol)) > 0

/** Whether what is left of a working order would open or add to a position. */
export const wouldOpen = (book: Pick<Book, 'holdings'>, order: Order): boolean =>
  order.role === 'Entry' && isOpeningIn(book, { ...order, orderQty: order.leavesQty })

/** Shares held of a security; negative when short. */
export const sharesOf = (book: Pick<Book, 'holdings'>, symbol: string): number =>
  book.holdings[symbol]?.quantity ?? 0

/** Average price paid or received for what is held; 0 when nothing is. */
export const averagePrice = (holding: Holding): number =>
  holding.quantity === 0 ? 0 : Math.round(nativeCostE4(holding) / holding.quantity) / 10_000

/** What one of a contract's shares, or all shares, have cost in the security's own currency. */
const nativeCostE4 = ({ symbol, costE4, lots }: Holding): number =>
  lots.length === 0
    ? costE4 / multiplierOf(symbol)
    : lots.reduce((sum, { quantity, priceE4 }) => sum + quantity * priceE4, 0)

/** Whether a client order id stands for an order, also for one that is of the past; a refused one leaves it free. */
export const isTaken = (
  { byClOrdId, orders }: Pick<Book, 'byClOrdId' | 'orders'>,
  clOrdId: string,
): boolean => byClOrdId[clOrdId] !== undefined && orders[byClOrdId[clOrdId]]?.ordStatus !== 'Rejected'

/** The order that stands under a client order id; undefined where none does, or only a refused one. */
export function standingUnder(book: Book, clOrdId: string): Order | undefined {
  const order = book.orders[book.byClOrdId[clOrdId] ?? '']
  return order?.ordStatus === 'Rejected' ? undefined : order
}

/** Orders that are attached to an entry, oldest first. */
export const attachedOrders = ({ attached, orders }: Book, orderId: string): Order[] =>
  (attached[orderId] ?? []).flatMap((id) => orders[id] ?? [])

/** Orders that may still trade, oldest first; of one security where it is named. */
export function workingOrders({ working, orders }: Book, symbol?: string): Order[] {
  const some = symbol === undefined ? Object.values(working).flat() : (working[symbol] ?? [])
  // A multi-leg order stands there once for each of its legs.
  const ids = new Set([...some].sort((a, b) => a.number - b.number).map((one) => one.orderId))
  return [...ids].map((id) => orders[id])
}
