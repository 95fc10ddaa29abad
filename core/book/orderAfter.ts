import { type ExecutionReport, type Order } from '../orders/model'

/** An order after a report about it. Every field is named: a hundred thousand of them lie in memory, and all of one shape take a third of the room. */
export function orderAfter(before: Order | undefined, report: ExecutionReport): Order {
  const { seq, execId, execType, lastQty, lastPx, commission } = report
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
    orderId: report.orderId,
    clOrdId: report.clOrdId,
    account: report.account,
    origClOrdId: report.origClOrdId,
    symbol: report.symbol,
    side: report.side,
    legs: report.legs,
    kept: report.kept,
    orderQty: report.orderQty,
    ordType: report.ordType,
    price: report.price,
    stopPx: report.stopPx,
    trail: report.trail,
    timeInForce: report.timeInForce,
    expireDate: report.expireDate,
    lot: report.lot,
    cashOrderQty: report.cashOrderQty,
    positionEffect: report.positionEffect,
    clOrdLinkId: report.clOrdLinkId,
    triggerClOrdId: report.triggerClOrdId,
    group: report.group,
    origin: report.origin,
    sentBy: report.sentBy,
    approval: report.approval,
    ordStatus: report.ordStatus,
    cumQty: report.cumQty,
    leavesQty: report.leavesQty,
    avgPx: report.avgPx,
    role: report.role,
    parentOrderId: report.parentOrderId,
    asked: report.asked,
    part: report.part,
    contingencyType: report.contingencyType,
    exits: report.exits,
    ordRejReason: report.ordRejReason,
    text: report.text,
    triggered: report.triggered,
    transactTime: report.transactTime,
    tradeDate: report.tradeDate,
    enteredTime: before?.enteredTime ?? report.transactTime,
    lastSeq: seq,
    chain: [...(before ? earlier(before.chain, execType) : []), step],
    // Told when it is asked for.
    allows: undefined,
  } satisfies { [Field in keyof Required<Order>]: Order[Field] }
}

/** The steps before a new one: of restatements that follow one another the last tells all. */
const earlier = (chain: Order['chain'], execType: ExecutionReport['execType']): Order['chain'] =>
  execType === 'Restated' && chain.at(-1)?.execType === 'Restated' ? chain.slice(0, -1) : chain
