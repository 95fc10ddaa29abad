import { halfEven } from '../market/money'
import { isOption } from '../options/osi'
import { directionOf, likelyPrice } from '../orders/levels'
import { commissionE4, initialMarginE4, openingQuantity } from '../orders/margin'
import { type Working } from './working'

/**
 * Sums over the working orders of a security. A list of working orders is never changed, so its sums are kept with it, and
 * an order that comes last adds to those of the list before: thousands that rest do not slow down the next.
 */

/** Prices of a security at a moment, in whole ten-thousandths. */
export interface Prices {
  bid: number
  ask: number
  last: number
  /** What a unit of its currency is worth in the account's; 1 where left out. */
  rate?: number
}

/** An amount of a security's currency in the account's, whole e4. */
export const converted = (e4: number, { rate = 1 }: Pick<Prices, 'rate'>): number =>
  rate === 1 ? e4 : halfEven(e4 * rate)

/** Prices of a security by its symbol. */
export type PriceOf = (symbol: string) => Prices

/** Shares of a security that working orders would trade already. */
export interface Promised {
  /** That sales by hand of what is held would close; stops and targets rest beside them, each fill shrinks the others. */
  sold: number
  /** That purchases by hand would buy, likewise. */
  bought: number
  /** That would be sold short. */
  short: number
}

interface Reserve {
  held: number
  /** Share of its value that what is opened holds. */
  share: number
  prices: Prices
  sumE4: number
  /** What is left of the holding for the next order to close. */
  left: number
}

type List = readonly Working[]
const promises = new WeakMap<List, Promised>()
const reserves = new WeakMap<List, Reserve>()

/** What the working orders of a security promise. */
export function promisedIn(working: List): Promised {
  let promised = promises.get(working)
  if (!promised) promises.set(working, (promised = promise(working)))
  return promised
}

function promise(working: List): Promised {
  let [sold, bought, short] = [0, 0, 0]
  for (const order of working) {
    sold += soldBy(order)
    bought += boughtBy(order)
    short += shortBy(order)
  }
  return { sold, bought, short }
}

const byHand = (role: Working['role']) => role === 'Entry' || role === 'Leg'
const soldBy = ({ side, role, leavesQty }: Working) => (side === 'Sell' && byHand(role) ? leavesQty : 0)
const boughtBy = ({ side, role, leavesQty }: Working) => (side === 'Buy' && byHand(role) ? leavesQty : 0)
const shortBy = ({ side, leavesQty }: Working) => (side === 'SellShort' ? leavesQty : 0)

/**
 * Margin kept back for working entries, in e4, each by the part of it that would open something: what one of them closes,
 * the next cannot. One of them may be left out.
 */
export function reservedIn(
  working: List,
  held: number,
  prices: Prices,
  share: number,
  without?: Working,
): number {
  if (without) return reserve(working, held, prices, share, without.orderId).sumE4
  let last = reserves.get(working)
  const same = last?.held === held && last.share === share
  if (
    !last ||
    !same ||
    last.prices.bid !== prices.bid ||
    last.prices.ask !== prices.ask ||
    last.prices.rate !== prices.rate
  )
    reserves.set(working, (last = reserve(working, held, prices, share, '')))
  return last.sumE4
}

function reserve(working: List, held: number, prices: Prices, share: number, without: string): Reserve {
  const so = { held, share, prices, sumE4: 0, left: held }
  for (const order of working) if (order.orderId !== without) keepBack(so, order)
  return so
}

function keepBack(so: Reserve, order: Working): void {
  so.sumE4 += order.keptE4
  if (order.role !== 'Entry' || order.side === 'Sell' || isOption(order.symbol)) return
  const signed = directionOf(order.side) * order.leavesQty
  const opening = openingQuantity(so.left, signed)
  if (so.left !== 0 && Math.sign(so.left) !== Math.sign(signed))
    so.left += Math.sign(signed) * (order.leavesQty - opening)
  const market = order.side === 'Buy' ? so.prices.ask : so.prices.bid
  so.sumE4 += commissionE4(order.symbol, opening)
  so.sumE4 += initialMarginE4(
    converted(opening * likelyPrice(order.side, order.limitE4, order.stopE4, market), so.prices),
    so.share,
  )
}

/** Gives a list the sums of the one before it, which lacks its last order. */
export function carrySums(before: List, after: List, last: Working): void {
  const promised = promises.get(before)
  if (promised)
    promises.set(after, {
      sold: promised.sold + soldBy(last),
      bought: promised.bought + boughtBy(last),
      short: promised.short + shortBy(last),
    })
  const so = reserves.get(before)
  if (!so) return
  const next = { ...so }
  keepBack(next, last)
  reserves.set(after, next)
}
