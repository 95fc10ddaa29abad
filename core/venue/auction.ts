import { type Working } from '../book/working'
import { cancel } from './orders'
import { type Seat, workingNow } from './seat'
import { fill } from './trade'

/** What an auction comes to: one price in e4, and the shares that change hands at it. */
export interface Auction {
  kind: 'AtTheOpening' | 'AtTheClose'
  priceE4: number
  volume: number
}

/** Share of an auction's volume that the account gets at most. */
const SHARE = 0.2

/**
 * Shows the orders that wait for an auction its price, the oldest first: all trade at that one price, as far as their
 * limits allow and a fifth of its volume reaches; what is left is canceled, since the auction comes once.
 */
export function meetAuction(
  seat: Seat,
  symbol: string,
  { kind, priceE4, volume }: Auction,
  at: number,
): void {
  let left = Math.floor(volume * SHARE)
  for (const order of (seat.book.working[symbol] ?? []).filter((one) => one.auction === kind)) {
    const passes = within(order, priceE4)
    const quantity = passes ? Math.min(order.leavesQty, left) : 0
    if (quantity > 0) left -= fill(seat, order.orderId, [{ quantity, priceE4 }], at)
    if (workingNow(seat, order.orderId))
      cancel(
        seat,
        order.orderId,
        at,
        passes ? 'the auction had no more for it' : 'the price of the auction was beyond its limit',
      )
  }
}

const within = ({ side, limitE4 }: Working, priceE4: number): boolean =>
  limitE4 === 0 || (side === 'Buy' ? priceE4 <= limitE4 : priceE4 >= limitE4)
