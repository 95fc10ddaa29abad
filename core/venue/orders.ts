import { type Trail } from '../orders/exits'
import { merged, without } from '../orders/fields'
import { fromE4 } from '../market/money'
import { type Finding, refusal } from '../orders/findings'
import { trailedPrice } from '../orders/levels'
import { sayFinding } from '../orders/say'
import { allWorking, orderIdOf } from '../book/working'
import { isWorking, type NewOrder, type Order, type OrdRejReason, ON_REQUEST } from '../orders/model'
import { type CheckCode } from '../orders/checks'
import { attachExits } from './contingencies'
import { type Seat, orderOf, report } from './seat'

/** Why an order is refused, as FIX says it. */
const REASON: Record<CheckCode, OrdRejReason> = {
  security: 'UnknownSymbol',
  orderable: 'Other',
  quantity: 'IncorrectQuantity',
  tick: 'InvalidPriceIncrement',
  price: 'Other',
  'client-order-id': 'DuplicateOrder',
  'market-open': 'ExchangeClosed',
  expiry: 'Other',
  'standing-down': 'Other',
  legs: 'Other',
  trigger: 'Other',
  locate: 'OrderExceedsLimit',
  'option-level': 'Other',
  gate: 'OrderExceedsLimit',
  'exit-side': 'Other',
  'shares-held': 'IncorrectQuantity',
  'buying-power': 'OrderExceedsLimit',
}

/**
 * Takes an order or refuses it, by what was found when it was checked. A refused one is kept too, as Rejected, and leaves its id
 * free; a second one under an id that stands is not kept: it was most likely a request repeated, and the first one answers.
 * `kept` is the money that options in it keep while it works, `sentBy` the key that sent it.
 */
export function submit(
  seat: Seat,
  order: NewOrder,
  findings: readonly Finding[],
  at: number,
  { kept, sentBy }: { kept?: number; sentBy?: string } = {},
): { orderId: string; refused?: Finding } {
  const refused = refusal(findings)
  if (refused?.code === 'client-order-id') return { orderId: seat.book.byClOrdId[order.clOrdId], refused }
  const orderId = orderIdOf(seat.book.count + 1)
  const { exits } = order
  const entry = merged(without(order, NOT_KEPT), {
    orderId,
    role: 'Entry' as const,
    kept: refused ? undefined : kept,
    sentBy,
    approval: refused ? undefined : approvalOf(findings),
    contingencyType: contingencyOf(order),
    cumQty: 0,
    leavesQty: refused ? 0 : order.orderQty,
    avgPx: 0,
  })
  if (refused) {
    const { sentence, mend } = sayFinding(refused)
    const text = [sentence, mend].filter(Boolean).join(' ')
    const ordRejReason = REASON[refused.code]
    report(seat, undefined, 'Rejected', 'Rejected', at, merged(entry, { ordRejReason, text }))
    return { orderId, refused }
  }
  const state = order.triggerClOrdId === undefined && !entry.approval ? 'New' : 'PendingNew'
  report(
    seat,
    undefined,
    state,
    state,
    at,
    order.trail ? merged(entry, trailedFrom(seat, order.trail, order, at)) : entry,
  )
  if (exits) attachExits(seat, orderId, order, at)
  return { orderId }
}

/** What of an order as it is sent is not part of it as it stands: sessions are told as a date. */
const NOT_KEPT = new Set(['expireSessions'] as const)

const contingencyOf = ({ exits, clOrdLinkId, triggerClOrdId }: NewOrder): Order['contingencyType'] =>
  exits || triggerClOrdId !== undefined
    ? 'OneTriggersTheOther'
    : clOrdLinkId === undefined
      ? undefined
      : 'OneCancelsTheOther'

/** The gate for which an order waits; undefined where it need not. */
const approvalOf = (findings: readonly Finding[]): string | undefined => {
  const found = findings.find((one) => one.code === 'gate' && one.why === 'asks first')
  return found?.code === 'gate' ? found.gate : undefined
}

/** Lets an order that waited for approval work, or wait on for what sets it off. */
export function approve(seat: Seat, order: Order, at: number, by: string): void {
  const state = order.triggerClOrdId === undefined ? 'New' : 'PendingNew'
  report(seat, order.orderId, state === 'New' ? 'New' : 'Restated', state, at, {
    approval: undefined,
    text: `approved by ${by}`,
  })
}

/** Refuses an order that waited for approval. */
export function decline(seat: Seat, { orderId }: Order, at: number, by: string): void {
  report(seat, orderId, 'Rejected', 'Rejected', at, {
    ...{ approval: undefined, leavesQty: 0, ordRejReason: 'Other' as const },
    text: `declined by ${by}`,
  })
}

/** Where a trailing stop begins: behind the last price. */
function trailedFrom(
  { place }: Seat,
  trail: Trail,
  { symbol, side }: NewOrder,
  at: number,
): { stopPx: number } {
  const last = fromE4(place.pricesOf(symbol, at).last)
  return { stopPx: trailedPrice(trail, side, last, place.bandsOf(symbol)) }
}

/** Cancels a working order, and with an entry that nothing was filled of, its exits. */
export function cancel(seat: Seat, orderId: string, at: number, text = ON_REQUEST): void {
  report(seat, orderId, 'Canceled', 'Canceled', at, { leavesQty: 0, text })
}

/** Takes the wish to cancel an order, which is done later unless it is filled before. */
export function askCancel(seat: Seat, orderId: string, at: number): void {
  report(seat, orderId, 'PendingCancel', 'PendingCancel', at, { asked: undefined })
}

/** Ends what lasts no longer than a session, or than one before it, at its close; of securities of that venue. */
export function endSession(
  seat: Seat,
  date: string,
  close: number,
  isHere: (symbol: string) => boolean = () => true,
): void {
  const ending = [...allWorking(seat.book.working)].filter(
    (one) =>
      // What protects is there as long as what it waits for may be filled.
      ((one.day && one.tradeDate <= date && (one.role === 'Entry' || !one.pending)) ||
        (one.until !== '' && one.until <= date) ||
        (one.pending && orderOf(seat, one.orderId).approval !== undefined)) &&
      isHere(one.symbol),
  )
  for (const { orderId } of ending.sort((a, b) => a.number - b.number)) {
    // One that ended may have taken others with it.
    if (!isWorking(orderOf(seat, orderId).ordStatus)) continue
    report(seat, orderId, 'Expired', 'Expired', close, {
      leavesQty: 0,
      text: orderOf(seat, orderId).approval
        ? 'nobody approved it in this session'
        : orderOf(seat, orderId).expireDate
          ? 'it was good until this date'
          : 'a Day order ends with the session',
    })
  }
}
