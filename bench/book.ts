import { Exchange } from '@/broker/account/exchange'
import { Markets } from '@/broker/market/markets'
import { emptyBook } from '@/core/book/book'
import { type NewOrder } from '@/core/orders/model'
import { type Line, lineOf, timeRuns } from './measure'

const NOW = Date.parse('2026-03-16T13:42:00Z')

/** Limits far below the market, which rest, over some securities. */
const SYMBOLS = ['OSPRY', 'GANET', 'KIPPR', 'HERRG', 'BUOYS', 'CHNDL', 'SUNDG', 'TERNW']
const resting = (k: number): NewOrder => ({
  ...{ clOrdId: `rest-${k}`, symbol: SYMBOLS[k % SYMBOLS.length], side: 'Buy', orderQty: 1 },
  ...{ ordType: 'Limit', price: 0.05, timeInForce: 'GoodTillCancel' },
})

/** An exchange with so many orders resting, and so many in the past. */
function exchangeWith(rest: number, past: number): Exchange {
  const markets = new Markets('bench', '2026-01-12', '2026-06-30')
  const exchange = new Exchange(markets, emptyBook(500_000_000), () => undefined)
  for (let k = 0; k < past; k++) {
    const { orderId } = exchange.submit(resting(k), NOW)
    exchange.cancel(exchange.book.orders[orderId], NOW)
  }
  for (let k = 0; k < rest; k++) exchange.submit(resting(past + k), NOW)
  exchange.workFresh(NOW)
  return exchange
}

/** How long a check of one order takes beside few and many others, and a session lived through with thousands resting. */
export function benchBook(): Line[] {
  const wish: NewOrder = { ...resting(0), clOrdId: 'wish' }
  const checks = (rest: number, past: number) => {
    const exchange = exchangeWith(rest, past)
    return timeRuns(() => exchange.check(wish, NOW), 31)
  }
  const plain = lineOf('one check, 100 resting', checks(100, 0), 'ms', undefined)
  const day = exchangeWith(5_000, 0)
  const [open, close] = [NOW, Date.parse('2026-03-16T19:00:00Z')]
  return [
    plain,
    lineOf('one check, 4,000 resting', checks(4_000, 0), 'ms', plain),
    lineOf('one check, 100 resting, 50,000 in the past', checks(100, 50_000), 'ms', plain),
    lineOf(
      'a session lived through, 5,000 resting',
      timeRuns(() => day.advance(open, close), 5, 1),
      'ms',
      plain,
    ),
  ]
}
