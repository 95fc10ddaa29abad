import { type Whole } from '../book/wholes'
import { type PriceOf } from '../book/value'
import { findWorking } from '../book/working'
import { fromE4, toE4 } from '../market/money'
import { commissionE4 } from '../orders/margin'
import { type LegFill } from '../orders/legs'
import { directionOf } from '../orders/levels'
import { dealtAt, netE4 } from '../orders/netPrice'
import { isWorking } from '../orders/model'
import { standingStatus } from '../orders/states'
import { affordable } from './afford'
import { type Seat, orderOf, report } from './seat'
import { type Shown } from './match'
import { cancelLinked } from './contingencies'
import { cancel } from './orders'
import { shrinkCloses } from './shrink'
import { sharesOf } from '../book/book'

/** A net price, and the units that are shown at it. */
export interface NetShown {
  netE4: number
  units: number
}

/** What a multi-leg order would pay now, each leg at the best price of its side, and how many units those sizes give. */
export function netShown(whole: Pick<Whole, 'legs'>, shownOf: (symbol: string) => Shown): NetShown {
  let units = Infinity
  for (const { symbol, legSide, legRatioQty } of whole.legs) {
    const shown = shownOf(symbol)
    const size = legSide === 'Buy' ? shown.askSize : shown.bidSize
    units = Math.min(units, Math.floor(size / legRatioQty))
  }
  const net = netE4(whole.legs, ({ symbol, legSide }) => dealtAt(legSide, shownOf(symbol)))
  return { netE4: net, units }
}

/** True if a multi-leg order trades at a net price. */
export const passesNet = ({ limitE4 }: Pick<Whole, 'limitE4'>, net: number): boolean =>
  limitE4 === undefined || net <= limitE4

/**
 * Shows a multi-leg order the books of its legs at a second: it trades as many units as all of them show, at their best
 * prices, where their net is not worse than its own, and as the account may; all legs together or none. Gives the units that
 * it took.
 */
export function meetWhole(seat: Seat, whole: Whole, shownOf: (symbol: string) => Shown, at: number): number {
  const { netE4: net, units } = netShown(whole, shownOf)
  const priceOf = (symbol: string) => seat.place.pricesOf(symbol, at)
  let quantity = passesNet(whole, net) ? Math.min(whole.leavesQty, units) : 0
  let why = ''
  if (quantity > 0) {
    const may = mayTradeWhole(seat, whole, quantity, priceOf, at)
    if (may.quantity < quantity) why = may.why
    quantity = may.quantity
  }
  if (whole.atOnce === 'whole' && quantity < whole.leavesQty) quantity = 0
  if (quantity > 0) tradeWhole(seat, whole, quantity, shownOf, at)
  if (!isWorking(orderOf(seat, whole.orderId).ordStatus)) return quantity
  if (why !== '') cancel(seat, whole.orderId, at, why)
  else if (whole.atOnce !== 'no') cancel(seat, whole.orderId, at, 'what could not trade at once is canceled')
  return quantity
}

/** How many units an account may take now: no leg that closes crosses nought, and what is free reaches. */
function mayTradeWhole(
  { book, place }: Seat,
  { legs, symbol, orderId }: Whole,
  wanted: number,
  priceOf: PriceOf,
  at: number,
): { quantity: number; why: string } {
  let quantity = wanted
  for (const { symbol: leg, legSide, legRatioQty } of legs) {
    const held = sharesOf(book, leg)
    if (legSide === 'Sell') quantity = Math.min(quantity, Math.floor(Math.max(0, held) / legRatioQty))
    if (legSide === 'SellShort' && held > 0) quantity = 0
  }
  if (quantity <= 0)
    return { quantity: 0, why: 'one of its legs would sell what is not held any more, or cross what is' }
  const keptE4 = findWorking(book.working, legs[0].symbol, orderId)?.keptE4 ?? 0
  const movesOf = (units: number) =>
    legs.map(({ symbol: leg, legSide, legRatioQty }) => ({
      ...{ symbol: leg, quantity: directionOf(legSide) * legRatioQty * units },
      priceE4: dealtAt(legSide, priceOf(leg)),
    }))
  const { tradeDate } = place.stampOf(at, symbol)
  return affordable(book, { underlying: symbol, quantity, movesOf, keptE4 }, priceOf, tradeDate)
}

/** One report of all legs: they trade together or not at all, also where the broker is killed meanwhile. */
function tradeWhole(
  seat: Seat,
  { orderId, legs }: Whole,
  quantity: number,
  shownOf: (symbol: string) => Shown,
  at: number,
): void {
  const order = orderOf(seat, orderId)
  const before = new Map(legs.map(({ symbol }) => [symbol, sharesOf(seat.book, symbol)]))
  const legFills: LegFill[] = legs.map(({ symbol, legSide, legRatioQty }) => ({
    symbol,
    side: legSide,
    lastQty: quantity * legRatioQty,
    lastPx: fromE4(dealtAt(legSide, shownOf(symbol))),
    commission: fromE4(commissionE4(symbol, quantity * legRatioQty)),
  }))
  const net = netE4(legs, ({ symbol, legSide }) => dealtAt(legSide, shownOf(symbol)))
  const cumQty = order.cumQty + quantity
  let filledE4 = quantity * net
  for (const { lastQty = 0, lastPx = 0 } of order.chain) filledE4 += lastQty * toE4(lastPx)
  report(
    seat,
    orderId,
    'Trade',
    cumQty === order.orderQty ? 'Filled' : standingStatus({ ...order, cumQty }),
    at,
    {
      cumQty,
      leavesQty: order.orderQty - cumQty,
      avgPx: Math.round(filledE4 / cumQty) / 10_000,
      lastQty: quantity,
      lastPx: fromE4(net),
      commission: fromE4(legFills.reduce((sum, leg) => sum + toE4(leg.commission), 0)),
      legFills,
    },
  )
  cancelLinked(seat, order, at)
  for (const [symbol, held] of before)
    if (Math.abs(sharesOf(seat.book, symbol)) < Math.abs(held))
      shrinkCloses(seat, symbol, held > 0 ? 'Sell' : 'Buy', at)
}
