import { sharesOf, type Book } from '../book/book'
import { dayNumber } from '../market/figures'
import { fromE4, toE4 } from '../market/money'
import { firstExpiry } from '../options/payoff'
import { type Leg } from '../orders/legs'
import { directionOf } from '../orders/levels'
import { commissionE4, initialShare } from '../orders/margin'
import { type NewOrder } from '../orders/model'
import { dealtAt, netE4 } from '../orders/netPrice'
import { leastOf, type OpenLegs } from '../plans/entry'
import { originOf } from '../plans/ids'
import { type Asked } from './asked'
import { figuresAt, orderFactsAt, type Shared } from './shared'
import { capped, roomFor } from './room'
import { type Prepared } from './prepare'
import { type Held, type PlanState } from './state'
import { type ClauseFinding, type Wanted } from './verdicts'

/** Several contracts that a plan opens, holds and closes together. Net prices as in orders: above 0 paid, below 0 received. */

const CENT_E4 = 100

export const legsOf = ({ legs }: OpenLegs): Leg[] =>
  legs.map(({ contract, side, ratio }) => ({ symbol: contract, legSide: side, legRatioQty: ratio }))

/** The legs that close what others have opened. */
export const closingLegs = (legs: readonly Leg[]): Leg[] =>
  legs.map((leg) => ({ ...leg, legSide: leg.legSide === 'Buy' ? 'Sell' : 'Buy' }))

/** Units of legs that are there: as many as there are of each of them. */
export function unitsIn(sharesIn: (symbol: string) => number, legs: readonly Leg[]): number {
  const units = legs.map(({ symbol, legSide, legRatioQty }) =>
    Math.floor(Math.max(0, directionOf(legSide) * sharesIn(symbol)) / legRatioQty),
  )
  return Math.min(...units)
}

/** Units of legs that an account holds. */
export const unitsHeld = (book: Book, legs: readonly Leg[]): number =>
  unitsIn((symbol) => sharesOf(book, symbol), legs)

/** A leg of which no quote has come; undefined where all are quoted. */
const unquoted = ({ quotes }: Shared, legs: readonly Leg[]): string | undefined =>
  legs.find(({ symbol }) => !quotes[symbol])?.symbol

/** Net price of legs, at the middle of their quotes or at which they would trade now. */
function netOf({ quotes }: Shared, legs: readonly Leg[], at: 'mid' | 'dealt'): number {
  return fromE4(
    netE4(legs, ({ symbol, legSide }) => {
      const { bid, ask } = quotes[symbol]
      return at === 'mid' ? (toE4(bid) + toE4(ask)) / 2 : dealtAt(legSide, { bid: toE4(bid), ask: toE4(ask) })
    }),
  )
}

/** The order for several legs and their net price, or why there is none. */
type WholeDraft = { order: NewOrder; net: number; wanted?: Wanted } | { finding: ClauseFinding }

/** The order for several legs of the security that is looked at, priced and sized. */
export function openingLegs(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  asked: Asked,
  deed: OpenLegs,
): WholeDraft {
  const { symbol, clOrdId, at, signal, side } = asked
  const legs = legsOf(deed)
  const gone = legs.find((leg) => !shared.listed[leg.symbol])
  if (gone) return { finding: { clause: 'Do', why: 'no contract', contract: gone.symbol, verdict: 'fails' } }
  const silent = unquoted(shared, legs)
  if (silent !== undefined)
    return { finding: { clause: 'Do', why: 'no quote', contract: silent, verdict: 'unknown' } }
  const order: NewOrder = {
    ...{ clOrdId, symbol, side: 'Buy', legs, orderQty: 1, timeInForce: deed.timeInForce },
    ...priced(shared, legs, deed),
    origin: originOf(prepared.plan, 'entry', signal, prepared.sides[side].side.if.rule),
  }
  const each = fromE4(keptE4(shared, order, at))
  if ('units' in deed.size) order.orderQty = deed.size.units
  else {
    const most = (fromE4(figuresAt(shared, at).equityE4) * deed.size.loss) / 100
    order.orderQty = Math.floor(most / Math.max(each, 0.01))
    if (order.orderQty === 0)
      return { finding: { clause: 'Do', why: 'too much kept', each, most, verdict: 'fails' } }
  }
  const net = order.price ?? netOf(shared, legs, 'dealt')
  const quantity = order.orderQty
  const commission = fromE4(legs.reduce((sum, leg) => sum + commissionE4(leg.symbol, leg.legRatioQty), 0))
  const power = roomFor(prepared, state, shared, asked, {
    ...{ lent: initialShare(shared.book.rules), paid: commission / Math.max(each, 0.01) },
  })
  const most = capped(quantity, power, each, 1, leastOf(deed))
  if (most === undefined) return { order, net }
  order.orderQty = most
  return { order, net, wanted: { quantity, by: power.by! } }
}

function priced(
  shared: Shared,
  legs: readonly Leg[],
  { price }: OpenLegs,
): Pick<NewOrder, 'ordType' | 'price'> {
  if (price === 'market') return { ordType: 'Market' }
  const mid = toE4(netOf(shared, legs, 'mid'))
  // Rounded to what is easier filled: a cent more is paid, or a cent less received.
  return {
    ordType: 'Limit',
    price: fromE4(Math.ceil(mid / CENT_E4 - 1e-9) * CENT_E4 + price.worse * CENT_E4),
  }
}

/** Money that an order of several legs keeps, in e4; 0 where it keeps none. */
export const keptE4 = (shared: Shared, order: NewOrder, at: number): number =>
  Math.max(0, orderFactsAt(shared, order, at).needs?.moneyE4 ?? 0)

/** The order that closes units of legs, all together at the market. */
export const closingOrder = (
  legs: readonly Leg[],
  part: Pick<NewOrder, 'clOrdId' | 'symbol' | 'orderQty' | 'origin'>,
): NewOrder => ({ ...part, side: 'Buy', legs: closingLegs(legs), ordType: 'Market', timeInForce: 'Day' })

/** Percent of its net price that what is held has gained, at the middle of the quotes; NaN where one of them has none. */
export function netGain(shared: Shared, { legs, paid, quantity }: Held): number {
  if (!legs || unquoted(shared, legs) !== undefined) return NaN
  const opened = paid / quantity
  return (100 * (netOf(shared, legs, 'mid') - opened)) / Math.abs(opened)
}

/** Days that are left on a date until the first of some legs ends. */
export function daysLeft(legs: readonly Leg[], date: string): number {
  const expiry = firstExpiry(legs.map(({ symbol }) => symbol))
  return expiry === undefined ? Infinity : dayNumber(expiry) - dayNumber(date)
}
