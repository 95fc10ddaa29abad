import { type Book } from '../book/book'
import { underlyingOf, isOption, parseOsi } from '../options/osi'
import { isWorking, type NewOrder } from '../orders/model'
import { type ExpiryNotice } from '../orders/views'
import { type DeliveryRules, type Due, type Hindrance, takeDelivery } from './delivery'
import { inTheMoney, settle, worthE4 } from './exercise'
import { cancel, submit } from './orders'
import { type Seat, orderOf, report } from './seat'

/**
 * How contracts expire within the rules of their account. A contract that is in the money by a cent at the close is exercised or
 * assigned (common practice of US clearing). If the account cannot take the shares, the contract is closed at the market
 * 15 minutes before the close. If it still cannot at the close, a long contract is not exercised and a written one is closed
 * for its exercise value. Written calls are assigned the evening before an ex-date if their time value is below the dividend.
 */

/** Least exercise value a share at which a contract is exercised, in e4. */
const LEAST_E4 = 100

/** A written contract counts as in the money 15 minutes before the close if its strike is this near, as a share of the price. */
const NEAR = 0.02

/** Time before the close at which contracts are closed whose shares the account cannot take, in milliseconds. */
export const CLOSED_BEFORE = 15 * 60_000

/** What the expiry rules need to know about a session of a venue. */
export interface Expiring {
  /** Session date. */
  date: string
  isHere(symbol: string): boolean
  /** Shares that can be borrowed; see DeliveryRules. */
  borrowable(underlying: string): number | undefined
  /** The dividend of the next session in currency units a share, at a price of the underlying in e4; 0 without one. */
  dividend(underlying: string, priceE4: number): number
}

const WHY: Record<Hindrance, string> = {
  money: 'the account cannot pay for the shares',
  short: 'the account may not sell short',
  borrow: 'the shares cannot be borrowed',
}

const endsOn = (symbol: string, date: string): boolean =>
  isOption(symbol) && parseOsi(symbol)?.maturityDate === date

/** Long and written contracts of an account at a venue, by underlying. */
function contractsOf({ holdings }: Book, isHere: Expiring['isHere']): Map<string, Due[]> {
  const out = new Map<string, Due[]>()
  for (const { symbol, quantity } of Object.values(holdings)) {
    if (quantity === 0 || !isOption(symbol) || !isHere(symbol)) continue
    const underlying = underlyingOf(symbol)
    out.set(underlying, [...(out.get(underlying) ?? []), { symbol, quantity }])
  }
  return out
}

/** Whether a written call is assigned the evening before an ex-date: in the money, with a time value below the dividend. */
const isEarly = (seat: Seat, { symbol, quantity }: Due, dividend: number, at: number): boolean => {
  if (quantity > 0 || dividend === 0 || parseOsi(symbol)!.putOrCall !== 'Call') return false
  const worth = worthE4(symbol, seat.place.pricesOf(underlyingOf(symbol), at).last)
  const { bid, ask } = seat.place.pricesOf(symbol, at)
  return worth >= LEAST_E4 && (bid + ask) / 2 - worth < dividend * 10_000
}

/** Positive if the contracts bring shares. */
const sharesBrought = ({ symbol, quantity }: Due): number =>
  (parseOsi(symbol)!.putOrCall === 'Call' ? 1 : -1) * quantity

/** Contracts of one underlying that a session would exercise or assign, at the prices of a moment; `near` adds written ones close to the money. */
function dueOf(seat: Seat, contracts: readonly Due[], about: Expiring, at: number, near: boolean): Due[] {
  const underlying = underlyingOf(contracts[0].symbol)
  const { last } = seat.place.pricesOf(underlying, at)
  const dividend = about.dividend(underlying, last)
  return contracts.filter((one) => {
    if (!endsOn(one.symbol, about.date)) return isEarly(seat, one, dividend, at)
    if (one.quantity > 0 && seat.book.notExercised.includes(one.symbol)) return false
    const room = near && one.quantity < 0 ? last * NEAR : -LEAST_E4
    return worthE4(one.symbol, last) >= -room
  })
}

const rulesOf = (seat: Seat, underlying: string, about: Expiring, at: number): DeliveryRules => ({
  priceOf: (symbol) => seat.place.pricesOf(symbol, at),
  date: about.date,
  borrowable: about.borrowable(underlying),
})

/** What will happen to the contracts of an account that expire in a session or may be assigned, as it looks at a moment. */
export function outlook(seat: Seat, about: Expiring, at: number): ExpiryNotice[] {
  const out: ExpiryNotice[] = []
  for (const [underlying, contracts] of contractsOf(seat.book, about.isHere)) {
    const due = dueOf(seat, contracts, about, at, false)
    const early = (one: Due) => !endsOn(one.symbol, about.date)
    const { left } = takeDelivery(seat.book, underlying, due, rulesOf(seat, underlying, about, at))
    for (const one of contracts) {
      const isDue = due.some(({ symbol }) => symbol === one.symbol)
      if (early(one) && !isDue) continue
      const cannot = left.find(({ symbol }) => symbol === one.symbol)
      const { outcome, text } = outcomeOf(seat, one, { isDue, early: early(one), cannot }, about, at)
      out.push({ symbol: one.symbol, quantity: one.quantity, date: about.date, outcome, text })
    }
  }
  return out
}

function outcomeOf(
  seat: Seat,
  { symbol, quantity }: Due,
  { isDue, early, cannot }: { isDue: boolean; early: boolean; cannot?: Due & { why: Hindrance } },
  { dividend }: Expiring,
  at: number,
): Pick<ExpiryNotice, 'outcome' | 'text'> {
  const underlying = underlyingOf(symbol)
  const { last } = seat.place.pricesOf(underlying, at)
  const worth = worthE4(symbol, last)
  const held = quantity > 0
  if (held && seat.book.notExercised.includes(symbol))
    return { outcome: 'NotExercised', text: 'It expires today and is not exercised, as you asked.' }
  if (!isDue)
    return {
      outcome: 'Lapse',
      text: `It expires today, out of the money at the price now. If it is in the money by a cent at the close, it is ${held ? 'exercised' : 'assigned'}; otherwise it ends without value.`,
    }
  const is = early
    ? `${underlying} pays a dividend of ${dividend(underlying, last)} a share in the next session, more than the time value that is left`
    : `It expires today and is ${inTheMoney(worth)}`
  if (!cannot) {
    const becomes = early ? 'assigned at today’s close' : `${held ? 'exercised' : 'assigned'} at the close`
    return {
      outcome: early ? 'AssignEarly' : held ? 'Exercise' : 'Assign',
      text: `${is}, so it is ${becomes}.`,
    }
  }
  const [count, all] = [Math.abs(cannot.quantity), Math.abs(quantity)]
  const goes = `${held ? 'sold' : 'bought back'} at the market 15 minutes before the close`
  const which = count === all ? (all === 1 ? 'it is' : `all ${all} are`) : `${count} of ${all} are`
  const left = all - count
  const others = left === 1 ? 'The other one is' : `The other ${left} are`
  const rest = left === 0 ? '' : ` ${others} ${held ? 'exercised' : 'assigned'}.`
  return { outcome: 'CloseOut', text: `${is}. But ${WHY[cannot.why]}, so ${which} ${goes}.${rest}` }
}

/** Closes at the market the contracts whose shares the account could not take at the close. Returns the ids of the orders. */
export function closeOut(seat: Seat, about: Expiring, at: number): string[] {
  const ids: string[] = []
  for (const [underlying, contracts] of contractsOf(seat.book, about.isHere)) {
    const due = dueOf(seat, contracts, about, at, true)
    if (due.length === 0) continue
    const { left } = takeDelivery(seat.book, underlying, due, rulesOf(seat, underlying, about, at))
    for (const { symbol, quantity, why } of left) {
      const text = `closed before expiry: ${WHY[why]}`
      for (const { orderId, role } of seat.book.working[symbol] ?? [])
        if (role !== 'Leg' && isWorking(orderOf(seat, orderId).ordStatus)) cancel(seat, orderId, at, text)
      const order: NewOrder = {
        ...{ clOrdId: `close-out/${symbol.replaceAll(' ', '')}/${about.date}`, symbol, text },
        ...{ side: quantity > 0 ? 'Sell' : 'Buy', orderQty: Math.abs(quantity), positionEffect: 'Close' },
        ...{ ordType: 'Market', timeInForce: 'Day' },
      }
      ids.push(submit(seat, order, [], at).orderId)
    }
  }
  return ids
}

/** At the close: ends the contracts that expire, and assigns early what is due. */
export function endContracts(seat: Seat, about: Expiring, close: number): void {
  endOrders(seat, about, close)
  for (const [underlying, contracts] of contractsOf(seat.book, about.isHere)) {
    const due = dueOf(seat, contracts, about, close, false)
    const rules = rulesOf(seat, underlying, about, close)
    const { taken, left } = takeDelivery(seat.book, underlying, due, rules)
    const { last } = seat.place.pricesOf(underlying, close)
    // Deliveries that bring shares come first, so that those that take shares find them.
    for (const { symbol, quantity } of taken.sort((a, b) => sharesBrought(b) - sharesBrought(a))) {
      const early = endsOn(symbol, about.date) ? 'at expiry' : 'before a dividend'
      const fate = quantity > 0 ? 'exercised' : 'assigned'
      const text = `${fate} ${early}, ${inTheMoney(worthE4(symbol, last))}, on ${about.date}`
      settle(seat, { symbol, quantity, fate, priceE4: 0, text }, close)
    }
    for (const { symbol, quantity, why } of left) {
      if (!endsOn(symbol, about.date)) continue
      const text = quantity > 0 ? `not exercised: ${WHY[why]}` : `closed at expiry: ${WHY[why]}`
      const priceE4 = quantity > 0 ? 0 : worthE4(symbol, last)
      const fate = quantity > 0 ? 'ended' : 'closed'
      settle(seat, { symbol, quantity, fate, priceE4, text: `${text}, on ${about.date}` }, close)
    }
    const rest = contracts.filter((one) => !due.some(({ symbol }) => symbol === one.symbol))
    for (const { symbol, quantity } of rest.filter(({ symbol: of }) => endsOn(of, about.date))) {
      const asked = quantity > 0 && worthE4(symbol, last) >= LEAST_E4
      const text = asked ? 'not exercised, as you asked' : 'ended without value'
      settle(seat, { symbol, quantity, fate: 'ended', priceE4: 0, text: `${text}, on ${about.date}` }, close)
    }
  }
}

function endOrders(seat: Seat, { date, isHere }: Expiring, close: number): void {
  for (const symbol of Object.keys(seat.book.working).filter((one) => endsOn(one, date) && isHere(one)))
    for (const { orderId } of seat.book.working[symbol] ?? []) {
      if (!isWorking(orderOf(seat, orderId).ordStatus)) continue
      report(seat, orderId, 'Expired', 'Expired', close, { leavesQty: 0, text: 'its contract has ended' })
    }
}
