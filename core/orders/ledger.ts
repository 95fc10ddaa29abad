import { fromE4, toE4 } from '../market/money'
import { type ExecutionReport, isWorking, type Order } from './model'
import { mayFollow } from './states'

/** What is held of one security, in whole ten-thousandths. `costE4` is negative when short. */
export interface Holding {
  symbol: string
  quantity: number
  costE4: number
  /** Profit taken, by session date. */
  realizedE4: Record<string, number>
}

/**
 * An account's orders and holdings, folded from its execution reports. The broker keeps it from its journal,
 * the interface from the stream: both get the same from the same reports.
 */
export interface Ledger {
  seq: number
  cashE4: number
  orders: Map<string, Order>
  /** Order that a client order id stands for; a refused order does not use its id up. */
  byClOrdId: Map<string, string>
  holdings: Map<string, Holding>
  commissionE4: Record<string, number>
  /** Orders that may still trade, oldest first, in all and of each security: nothing looks through the past for them. */
  working: Map<string, Order>
  workingIn: Map<string, Map<string, Order>>
  /** Orders that are attached to another, by its id. */
  attached: Map<string, string[]>
}

export const emptyLedger = (cashE4 = 0): Ledger => ({
  seq: 0,
  cashE4,
  orders: new Map(),
  byClOrdId: new Map(),
  holdings: new Map(),
  commissionE4: {},
  working: new Map(),
  workingIn: new Map(),
  attached: new Map(),
})

/**
 * Takes one report into the ledger, in place. Reports that were taken already are passed over, so a stream
 * may repeat itself. Throws Error on a gap, or on a report that cannot follow the order's state.
 */
export function takeReport(ledger: Ledger, report: ExecutionReport): void {
  if (report.seq <= ledger.seq) return
  if (report.seq !== ledger.seq + 1) {
    throw new Error(
      `Execution report ${report.seq} follows ${ledger.seq}: some are missing; ask for those after ${ledger.seq}`,
    )
  }
  const before = ledger.orders.get(report.orderId)
  if (!mayFollow(before?.ordStatus, report.execType, report.ordStatus)) {
    throw new Error(
      `${report.execType} (${report.ordStatus}) cannot follow ${before?.ordStatus ?? 'nothing'} for order ${report.orderId}`,
    )
  }
  ledger.seq = report.seq
  const order = orderAfter(before, report)
  ledger.orders.set(report.orderId, order)
  keepIndex(ledger, order, before === undefined)
  const standing = ledger.byClOrdId.get(report.clOrdId)
  if (report.ordStatus !== 'Rejected' || standing === undefined)
    ledger.byClOrdId.set(report.clOrdId, report.orderId)
  if (report.execType === 'Trade') takeTrade(ledger, report)
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
    chain: [...(before?.chain ?? []), step],
  }
}

function keepIndex({ working, workingIn, attached }: Ledger, order: Order, isNew: boolean): void {
  const { orderId, symbol, parentOrderId } = order
  if (isNew && parentOrderId !== undefined)
    attached.set(parentOrderId, [...(attached.get(parentOrderId) ?? []), orderId])
  let there = workingIn.get(symbol)
  if (isWorking(order.ordStatus)) {
    if (!there) workingIn.set(symbol, (there = new Map()))
    working.set(orderId, order)
    there.set(orderId, order)
  } else {
    working.delete(orderId)
    there?.delete(orderId)
    if (there?.size === 0) workingIn.delete(symbol)
  }
}

function takeTrade(ledger: Ledger, report: ExecutionReport): void {
  const quantity = (report.side === 'Buy' ? 1 : -1) * report.lastQty!
  const valueE4 = quantity * toE4(report.lastPx!)
  const commissionE4 = toE4(report.commission ?? 0)
  ledger.cashE4 -= valueE4 + commissionE4
  ledger.commissionE4[report.tradeDate] = (ledger.commissionE4[report.tradeDate] ?? 0) + commissionE4
  const holding = ledger.holdings.get(report.symbol) ?? {
    symbol: report.symbol,
    quantity: 0,
    costE4: 0,
    realizedE4: {},
  }
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
  ledger.holdings.set(report.symbol, holding)
}

/** Average price paid or received for what is held; 0 when nothing is. */
export const averagePrice = (holding: Holding): number =>
  holding.quantity === 0 ? 0 : Math.round(holding.costE4 / holding.quantity) / 10_000

/** Orders that may still trade, oldest first; of one security where it is named. */
export const workingOrders = ({ working, workingIn }: Ledger, symbol?: string): Order[] => [
  ...((symbol === undefined ? working : workingIn.get(symbol))?.values() ?? []),
]

/** Orders that are attached to an entry, oldest first. */
export const attachedOrders = ({ attached, orders }: Ledger, orderId: string): Order[] =>
  (attached.get(orderId) ?? []).map((id) => orders.get(id)!)

/** Shares of a holding that working orders would close already; a stop and target pair counts once. */
export function promisedShares(ledger: Ledger, symbol: string, side: 'Sell' | 'Buy'): number {
  const pairs = new Map<string, number>()
  for (const order of workingOrders(ledger, symbol)) {
    // Exits of a short position rest beside what is bought by hand; each fill shrinks them.
    if (order.side !== side || (side === 'Buy' && order.role !== 'Entry')) continue
    if (order.ordStatus === 'PendingNew') continue
    const key = order.parentOrderId ?? order.orderId
    pairs.set(key, Math.max(pairs.get(key) ?? 0, order.leavesQty))
  }
  return [...pairs.values()].reduce((sum, quantity) => sum + quantity, 0)
}

/** Shares that working orders would sell short. */
export const offeredShort = (ledger: Ledger, symbol: string): number =>
  workingOrders(ledger, symbol).reduce(
    (sum, order) => (order.side === 'SellShort' ? sum + order.leavesQty : sum),
    0,
  )

/** Value of a holding at a price, in currency units. */
export const marketValue = (holding: Holding, last: number): number => fromE4(holding.quantity * toE4(last))
