import { toE4 } from '../market/money'
import { type SentTerms, termsOf } from '../orders/terms'
import {
  isInAuction,
  isRequested,
  type NewOrder,
  type Order,
  type OrderRole,
  type OrdType,
  type TimeInForce,
} from '../orders/model'
import { type Side } from '../orders/legs'
import { type Trail } from '../orders/exits'

/**
 * An order that may still trade, as matching and reckoning read it: whole numbers, every field always there, so that
 * thousands of them are walked in a moment. Amounts in whole ten-thousandths.
 */
export interface Working {
  orderId: string
  /** Its place in the order in which the account's orders came. */
  number: number
  symbol: string
  side: Side
  /** Leg: one of a multi-leg order, which stands under each of its legs. */
  role: OrderRole | 'Leg'
  ordType: OrdType
  leavesQty: number
  /** Price that it never trades worse than; 0 where it has none. */
  limitE4: number
  /** Price that sets it off; 0 where it has none. */
  stopE4: number
  triggered: boolean
  /** Waits for its entry and cannot trade yet. */
  pending: boolean
  /** Ends with the session in which it came. */
  day: boolean
  /** How far a trailing stop stays behind the best price. */
  trail: Trail | undefined
  /** Date of its last session; empty where it has none of its own. */
  until: string
  /** The auction in which it trades, and not between. */
  auction: 'no' | 'AtTheOpening' | 'AtTheClose'
  /** Trades when it comes, a part of it or the whole; else it rests. */
  atOnce: 'no' | 'part' | 'whole'
  tradeDate: string
  /** Of options: money kept for what is left of it, in e4. */
  keptE4: number
  /** Which part of the position an exit is for; 0 for all of it. */
  part: number
  /** Its cancel or change was asked for and is not done yet. */
  requested: boolean
  /** Closes what is held and opens nothing. */
  closes: boolean
  /** The entry that it is attached to; its own id where it is attached to none. */
  group: string
}

const atOnce = (good: TimeInForce): Working['atOnce'] =>
  good === 'ImmediateOrCancel' ? 'part' : good === 'FillOrKill' ? 'whole' : 'no'

type Wish = SentTerms & Pick<NewOrder, 'symbol' | 'side' | 'timeInForce' | 'expireDate' | 'positionEffect'>

/** What the compact forms of an order have in common; every field there, as its terms and time in force say. */
function working(
  order: Wish,
  own: Pick<Working, 'orderId' | 'number' | 'role' | 'leavesQty' | 'group' | 'tradeDate' | 'keptE4'>,
): Working {
  const terms = termsOf(order)
  const { timeInForce } = order
  return {
    orderId: own.orderId,
    number: own.number,
    symbol: order.symbol,
    side: order.side,
    role: own.role,
    leavesQty: own.leavesQty,
    ordType: terms.ordType,
    limitE4: 'limitE4' in terms ? terms.limitE4 : 0,
    stopE4: 'stopE4' in terms ? terms.stopE4 : 0,
    trail: 'trail' in terms ? terms.trail : undefined,
    triggered: false,
    pending: false,
    day: timeInForce === 'Day' || atOnce(timeInForce) !== 'no',
    until: order.expireDate ?? '',
    auction: isInAuction(timeInForce) ? timeInForce : 'no',
    atOnce: atOnce(timeInForce),
    tradeDate: own.tradeDate,
    keptE4: own.keptE4,
    part: 0,
    requested: false,
    closes: order.side === 'Sell' || order.positionEffect === 'Close',
    group: own.group,
  }
}

/** What a working order waits for: the market as it is, a price to trade at, or a price that sets it off. */
export type Waits = 'market' | 'limit' | 'stop'

export const waitsFor = ({
  stopE4,
  limitE4,
  triggered,
}: Pick<Working, 'stopE4' | 'limitE4' | 'triggered'>): Waits =>
  stopE4 > 0 && !triggered ? 'stop' : limitE4 > 0 ? 'limit' : 'market'

/** Ids of orders are an O and the place in which they came. */
export const orderIdOf = (number: number): string => `O${number}`
export const numberOf = (orderId: string): number => Number(orderId.slice(1))

const isExit = (role: OrderRole): boolean => role === 'Stop' || role === 'Target'

/** The compact form of an order that may still trade. */
export function workingOf(order: Order): Working {
  const { orderId, role, leavesQty, orderQty, tradeDate, kept } = order
  const one = working(order, {
    orderId,
    number: numberOf(orderId),
    role,
    leavesQty,
    tradeDate,
    keptE4: kept === undefined ? 0 : Math.round((toE4(kept) * leavesQty) / orderQty),
    group: order.parentOrderId ?? orderId,
  })
  one.triggered = order.triggered === true
  one.pending = order.ordStatus === 'PendingNew'
  one.part = order.part ?? 0
  one.requested = isRequested(order.ordStatus)
  if (isExit(role)) one.closes = true
  return one
}

/** An order that would be sent, as it would rest. */
export const workingAsSent = (order: NewOrder, keptE4 = 0): Working =>
  working(order, {
    orderId: order.clOrdId,
    number: Number.MAX_SAFE_INTEGER,
    role: 'Entry',
    leavesQty: order.orderQty,
    tradeDate: '',
    keptE4,
    group: order.clOrdId,
  })

/** Working orders by security, oldest first. A list is never changed: another takes its place, so sums over it can be kept. */
export type WorkingBook = Record<string, readonly Working[]>

/** Where an order stands among those of its security, or would stand. */
export function placeOf(there: readonly Working[], number: number): number {
  let [low, high] = [0, there.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (there[middle].number < number) low = middle + 1
    else high = middle
  }
  return low
}

/** A working order of a security by its id; undefined where it can trade no more. */
export function findWorking(index: WorkingBook, symbol: string, orderId: string): Working | undefined {
  const there = index[symbol]
  const found = there?.[placeOf(there, numberOf(orderId))]
  return found?.orderId === orderId ? found : undefined
}

/** All working orders, oldest first within a security. */
export function* allWorking(index: WorkingBook): Generator<Working> {
  for (const symbol in index) yield* index[symbol]
}
