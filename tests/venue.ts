import { type Book, emptyBook } from '@/core/book/book'
import { toE4 } from '@/core/market/money'
import { type Security } from '@/core/market/security'
import { BRACKWATER } from '@/core/market/venue'
import { type ExecutionReport, NewOrder } from '@/core/orders/model'
import { type Seat } from '@/core/venue/seat'
import { submit } from '@/core/venue/orders'

/** The security of most tests. */
export const OSPRY: Security = {
  symbol: 'OSPRY',
  name: 'Osprey Lantern',
  kind: 'Stock',
  sector: 'Instruments',
  venue: 'XBKW',
  country: 'CA',
  currency: 'USD',
  lot: 1,
  increments: [...BRACKWATER.increments],
  indices: [],
  orderable: true,
}

/** An account with so much cash at a venue where OSPRY is the only security, at the price that `now` holds. */
export function seatAt(
  now: { price: number },
  cash = 1_000_000,
): Seat & { told: ExecutionReport[]; book: Book } {
  const told: ExecutionReport[] = []
  return {
    told,
    book: emptyBook(toE4(cash)),
    place: {
      lotOf: () => 1,
      bandsOf: () => [{ from: 0, step: 0.01 }],
      stampOf: () => ({ transactTime: '2026-03-16T10:42:00-03:00', tradeDate: '2026-03-16' }),
      currencyOf: () => 'USD',
      settlesAt: () => '2026-03-17',
      pricesOf: () => ({ bid: now.price, ask: now.price, last: now.price }),
    },
    tell: (report) => told.push(report),
  }
}

/** An order as it was sent, of a quantity. */
export const newOrder = (sent: unknown): NewOrder => NewOrder.parse(sent) as NewOrder

let count = 0
/** Sends an order that was not checked; gives its id. */
export const send = (seat: Seat, part: Record<string, unknown>) =>
  submit(
    seat,
    newOrder({
      ...{ clOrdId: `b-${count++}`, symbol: 'OSPRY', side: 'Buy', orderQty: 100, ordType: 'Market' },
      ...part,
    }),
    [],
    0,
  ).orderId

/** What was traded, oldest first: side, kind, shares, price. */
export const trades = (seat: { told: ExecutionReport[] }) =>
  seat.told.filter((r) => r.execType === 'Trade').map((r) => [r.side, r.ordType, r.lastQty, r.lastPx])
