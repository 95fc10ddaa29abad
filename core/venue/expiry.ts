import { type Book, sharesOf } from '../book/book'
import { orderIdOf } from '../book/working'
import { fromE4, priceText, toE4 } from '../market/money'
import { CONTRACT_MULTIPLIER, isOption, parseOsi } from '../options/osi'
import { type Leg } from '../orders/legs'
import { isWorking } from '../orders/model'
import { type Seat, orderOf, report } from './seat'
import { shrinkCloses } from './shrink'

/** In the money by so much a contract is exercised at its end (common practice of US clearing: a cent). */
const LEAST_E4 = 100

/**
 * Ends the contracts whose last day a session was: orders in them expire; what is held is exercised where it is in the money,
 * and what is written assigned, at the underlying's last price, shares against the strike; else it ends without value.
 */
export function endContracts(
  seat: Seat,
  date: string,
  close: number,
  isHere: (symbol: string) => boolean = () => true,
): void {
  endOrders(seat, date, close, isHere)
  for (const [symbol, quantity] of endingIn(seat.book, date)) {
    if (!isHere(symbol)) continue
    const { underlyingSymbol, putOrCall, strikePrice } = parseOsi(symbol)!
    const lastE4 = seat.place.pricesOf(underlyingSymbol, close).last
    const worthE4 = (putOrCall === 'Call' ? 1 : -1) * (lastE4 - toE4(strikePrice))
    settle(seat, { symbol, quantity, worthE4, close })
  }
}

const endsOn = (symbol: string, date: string): boolean =>
  isOption(symbol) && parseOsi(symbol)?.maturityDate === date

const endingIn = ({ holdings }: Book, date: string): [string, number][] =>
  Object.values(holdings)
    .filter(({ symbol, quantity }) => quantity !== 0 && endsOn(symbol, date))
    .map(({ symbol, quantity }) => [symbol, quantity])

function endOrders(seat: Seat, date: string, close: number, isHere: (symbol: string) => boolean): void {
  for (const symbol of Object.keys(seat.book.working).filter((one) => endsOn(one, date) && isHere(one)))
    for (const { orderId } of seat.book.working[symbol] ?? []) {
      if (!isWorking(orderOf(seat, orderId).ordStatus)) continue
      report(seat, orderId, 'Expired', 'Expired', close, { leavesQty: 0, text: 'its contract has ended' })
    }
}

interface Ending {
  symbol: string
  quantity: number
  /** What exercise brings a share, in e4. */
  worthE4: number
  close: number
}

/** An order of the venue's own: the contract is closed for nothing, and where it is exercised the shares change hands at the strike. */
function settle(seat: Seat, { symbol, quantity, worthE4, close }: Ending): void {
  const { underlyingSymbol, putOrCall, strikePrice, maturityDate } = parseOsi(symbol)!
  const exercised = worthE4 >= LEAST_E4
  const contracts = Math.abs(quantity)
  const long = quantity > 0
  const buys = (putOrCall === 'Call') === long
  const before = sharesOf(seat.book, underlyingSymbol)
  const legs: Leg[] = [{ symbol, legSide: long ? 'Sell' : 'Buy', legRatioQty: 1 }]
  if (exercised) {
    const legSide = buys ? 'Buy' : before > 0 ? 'Sell' : 'SellShort'
    legs.push({ symbol: underlyingSymbol, legSide, legRatioQty: CONTRACT_MULTIPLIER })
  }
  const text = exercised
    ? `${long ? 'exercised' : 'assigned'} at its end, ${priceText(fromE4(worthE4))} in the money`
    : 'ended without value'
  const orderId = orderIdOf(seat.book.count + 1)
  const order = {
    ...{
      orderId,
      clOrdId: `end/${symbol.replaceAll(' ', '')}/${orderId}`,
      symbol: underlyingSymbol,
      legs,
      text,
    },
    ...{
      side: 'Buy' as const,
      ordType: 'Market' as const,
      timeInForce: 'Day' as const,
      role: 'Exercise' as const,
    },
    orderQty: contracts,
    avgPx: 0,
  }
  report(seat, undefined, 'New', 'New', close, { ...order, cumQty: 0, leavesQty: contracts })
  report(seat, orderId, 'Trade', 'Filled', close, {
    ...{ cumQty: contracts, leavesQty: 0, lastQty: contracts, lastPx: 0, commission: 0 },
    legFills: legs.map((leg) => ({
      ...{ symbol: leg.symbol, side: leg.legSide, lastQty: contracts * leg.legRatioQty, commission: 0 },
      lastPx: leg.symbol === symbol ? 0 : strikePrice,
    })),
    text: `${text} on ${maturityDate}`,
  })
  if (exercised && Math.abs(sharesOf(seat.book, underlyingSymbol)) < Math.abs(before))
    shrinkCloses(seat, underlyingSymbol, before > 0 ? 'Sell' : 'Buy', close)
}
