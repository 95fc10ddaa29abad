import { sharesOf } from '../book/book'
import { orderIdOf } from '../book/working'
import { type IncrementBand, incrementAt, toTick } from '../market/increment'
import { type ExitLevel, type Exits, type StopLimitBy, type Trail } from '../orders/exits'
import { type Side } from '../orders/legs'
import { type Order } from '../orders/model'
import { standingStatus } from '../orders/states'
import { refuseReplace } from './replace'
import { orderOf, report, type Seat } from './seat'

/** Shares of a security become more, each worth as much less. */
export interface Split {
  symbol: string
  /** New shares for one old, a whole number. */
  ratio: number
  /** First session of the new shares. */
  exDate: string
}

/**
 * Splits what is held of a security and what rests in it, once the last session of the old shares is over: lots and orders
 * are of as many more shares, at prices as much lower. A limit is never worse than it was asked for and no stop nearer: what
 * falls between ticks goes away from the market (common practice; for open buy orders and sell stops FINRA Rule 5330, from
 * memory).
 */
export function splitShares(seat: Seat, { symbol, ratio, exDate }: Split, at: number): void {
  const text = `${ratio} for 1 split on ${exDate}`
  for (const { orderId } of seat.book.working[symbol] ?? []) {
    if (orderOf(seat, orderId).ordStatus === 'PendingReplace')
      refuseReplace(seat, orderOf(seat, orderId), at, 'the shares were split')
    const order = orderOf(seat, orderId)
    const prices = shifted(order, seat.place.bandsOf(symbol), (price) => price / ratio)
    report(seat, orderId, 'Restated', restedStatus(order), at, {
      ...prices,
      ...{
        orderQty: order.orderQty * ratio,
        leavesQty: order.leavesQty * ratio,
        cumQty: order.cumQty * ratio,
      },
      avgPx: order.avgPx / ratio,
      ...(order.trail ? { trail: splitTrail(order.trail, ratio) } : {}),
      ...(order.exits ? { exits: splitExits(order.exits, ratio) } : {}),
      text,
    })
  }
  const held = sharesOf(seat.book, symbol)
  if (held !== 0) splitHeld(seat, { symbol, ratio, exDate }, held, at, text)
}

/** An order of the venue's own, which brings the new shares for nothing. */
function splitHeld(
  seat: Seat,
  { symbol, ratio, exDate }: Split,
  held: number,
  at: number,
  text: string,
): void {
  const orderId = orderIdOf(seat.book.count + 1)
  const added = Math.abs(held) * (ratio - 1)
  const side: Side = held > 0 ? 'Buy' : 'SellShort'
  report(seat, undefined, 'New', 'New', at, {
    ...{ orderId, clOrdId: `split/${symbol}/${exDate}`, symbol, side, orderQty: added, leavesQty: added },
    ...{ ordType: 'Market', timeInForce: 'Day', role: 'Split', cumQty: 0, avgPx: 0, text },
  })
  report(seat, orderId, 'Trade', 'Filled', at, {
    ...{ cumQty: added, leavesQty: 0, lastQty: added, lastPx: 0, commission: 0, splitRatio: ratio },
  })
}

/**
 * Lowers what waits below the market by a dividend, which is gone from the price at the open: limits of buy orders and stops of
 * sales, to the tick below. Source: FINRA Rule 5330 (from memory).
 */
export function takeDividend(seat: Seat, symbol: string, amount: number, at: number): void {
  for (const { orderId, requested } of seat.book.working[symbol] ?? []) {
    const order = orderOf(seat, orderId)
    const below = order.side === 'Buy' ? order.ordType === 'Limit' : order.stopPx !== undefined
    if (requested || !below || order.legs || order.trail || order.triggered) continue
    const bands = seat.place.bandsOf(symbol)
    const lower = (price: number) => Math.max(toTick(bands, price - amount, 'down'), incrementAt(bands, 0))
    report(seat, orderId, 'Restated', restedStatus(order), at, {
      ...(order.price === undefined ? {} : { price: lower(order.price) }),
      ...(order.stopPx === undefined ? {} : { stopPx: lower(order.stopPx) }),
      text: `lowered by a dividend of ${amount} a share`,
    })
  }
}

const restedStatus = (order: Order): Order['ordStatus'] =>
  order.ordStatus === 'PendingNew' ? 'PendingNew' : standingStatus(order)

/** Prices of an order moved, each to the tick that is further from the market. */
function shifted(
  { side, price, stopPx }: Order,
  bands: readonly IncrementBand[],
  move: (price: number) => number,
): { price?: number; stopPx?: number } {
  const buys = side === 'Buy'
  const at = (level: number, up: boolean) =>
    Math.max(toTick(bands, move(level), up ? 'up' : 'down'), incrementAt(bands, 0))
  return {
    ...(price === undefined ? {} : { price: at(price, !buys) }),
    ...(stopPx === undefined ? {} : { stopPx: at(stopPx, buys) }),
  }
}

const splitTrail = (trail: Trail, ratio: number): Trail =>
  'amount' in trail ? { amount: trail.amount / ratio } : trail

/** A level in the new shares: prices and distances a share are as much less, shares of a price and sums of money as they were. */
function splitLevel(level: ExitLevel, ratio: number): ExitLevel {
  if ('price' in level) return { price: level.price / ratio }
  if ('amount' in level) return { amount: level.amount / ratio }
  if ('ticks' in level) return { ticks: Math.max(1, Math.round(level.ticks / ratio)) }
  return 'trail' in level ? { trail: splitTrail(level.trail, ratio) } : level
}

const splitBy = (by: StopLimitBy, ratio: number): StopLimitBy =>
  'ticks' in by ? { ticks: Math.ceil(by.ticks / ratio) } : by

function splitExits(exits: Exits, ratio: number): Exits {
  const levels = ({ stop, target }: Pick<Exits, 'stop' | 'target'>) => ({
    ...(stop ? { stop: splitLevel(stop, ratio) } : {}),
    ...(target ? { target: splitLevel(target, ratio) } : {}),
  })
  const { parts, stopLimit, ...rest } = exits
  return {
    ...rest,
    ...(stopLimit ? { stopLimit: splitBy(stopLimit, ratio) } : {}),
    ...levels(exits),
    ...(parts ? { parts: parts.map((part) => ({ ...part, ...levels(part) })) } : {}),
  }
}
