import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { seatAt, send } from '@/tests/venue'
import { emptyBook, sharesOf, takeReport } from '../book/book'
import { holdingsOf } from '../book/holdings'
import { cancel } from './orders'
import { replace } from './replace'
import { workingNow } from './seat'
import { splitShares, takeDividend } from './corporate'
import { meetSecond } from './trade'

/** An account that has bought 100 at 50, with exits on them. */
function holding(exits?: object) {
  const now = { price: 500_000 }
  const seat = seatAt(now)
  const buy = send(seat, { clOrdId: 'in', exits })
  const at = (id: string, price: number) => {
    now.price = price * 10_000
    const [bid, last] = [now.price, now.price]
    const shown = { bid, ask: bid, last, bidSize: 1e6, askSize: 1e6 }
    meetSecond(seat, workingNow(seat, id)!, shown, 0, 0)
  }
  at(buy, 50)
  return { seat, now, at }
}
const SPLIT = { symbol: 'OSPRY', ratio: 3, exDate: '2026-03-17' }

describe('a split', () => {
  it('of what is held: as many more shares for the same money, from the same day', () => {
    const { seat } = holding()
    const { costE4 } = seat.book.holdings.OSPRY
    splitShares(seat, SPLIT, 0)
    expect(seat.book.holdings.OSPRY).toMatchObject({ quantity: 300, costE4 })
    expect(seat.book.holdings.OSPRY.lots).toMatchObject([{ quantity: 300, opened: '2026-03-16' }])
    expect(seat.told.at(-1)).toMatchObject({ role: 'Split', lastQty: 200, lastPx: 0, splitRatio: 3 })
    // What the page adds up from the reports is the same.
    expect(holdingsOf(seat.told).OSPRY.at(-1)).toMatchObject({ shares: 300, averagePrice: 16.6667 })
  })

  it('of what rests: exits close as many more at as much lower prices, and then all that is held', () => {
    const { seat, at } = holding({ stop: { price: 47 }, target: { price: 60 } })
    splitShares(seat, SPLIT, 0)
    expect(seat.book.orders.O2).toMatchObject({ role: 'Stop', orderQty: 300, stopPx: 15.66 })
    expect(seat.book.orders.O3).toMatchObject({ role: 'Target', orderQty: 300, price: 20 })
    at('O3', 20)
    expect(sharesOf(seat.book, 'OSPRY')).toBe(0)
    expect(seat.book.orders.O2.ordStatus).toBe('Canceled')
  })

  it.each([
    [{ ordType: 'Limit', price: 40.01 }, { price: 13.33 }],
    [{ side: 'SellShort', ordType: 'Limit', price: 70.01 }, { price: 23.34 }],
    [{ ordType: 'Stop', stopPx: 70.01 }, { stopPx: 23.34 }],
    [
      { side: 'SellShort', ordType: 'StopLimit', stopPx: 40.01, price: 40 },
      { stopPx: 13.33, price: 13.34 },
    ],
    [{ side: 'SellShort', ordType: 'TrailingStop', trail: { amount: 3 } }, { trail: { amount: 1 } }],
    [{ ordType: 'Limit', price: 40, exits: { stop: { amount: 3 }, target: { percent: 5 } } }, {}],
  ])('%j between ticks goes away from the market', (order, wanted) => {
    const seat = seatAt({ price: 500_000 })
    const id = send(seat, { timeInForce: 'GoodTillCancel', ...order })
    splitShares(seat, SPLIT, 0)
    expect(seat.book.orders[id]).toMatchObject({ orderQty: 300, leavesQty: 300, ordStatus: 'New', ...wanted })
    if ('exits' in order)
      expect(seat.book.orders[id].exits).toEqual({ stop: { amount: 1 }, target: { percent: 5 } })
  })

  it('of an order that is filled in part, and of one that waits: each stays in its state, and goes on', () => {
    const { seat, at } = holding()
    const part = send(seat, { ordType: 'Limit', price: 45, timeInForce: 'GoodTillCancel', clOrdId: 'part' })
    const after = send(seat, { clOrdId: 'after', triggerClOrdId: 'part', timeInForce: 'GoodTillCancel' })
    const shown = { bid: 450_000, ask: 450_000, last: 450_000, bidSize: 100, askSize: 40 }
    meetSecond(seat, workingNow(seat, part)!, shown, 0, 0)
    splitShares(seat, SPLIT, 0)
    expect(seat.book.orders[part]).toMatchObject({
      ...{ ordStatus: 'PartiallyFilled', orderQty: 300, cumQty: 120, leavesQty: 180, avgPx: 15 },
    })
    expect(seat.book.orders[after]).toMatchObject({ ordStatus: 'PendingNew', orderQty: 300 })
    replace(seat, seat.book.orders[part], { clOrdId: 'part-2', price: 15.5 }, 0)
    at(part, 15.5)
    expect(seat.book.orders[part]).toMatchObject({ ordStatus: 'Filled', cumQty: 300 })
    expect(seat.book.orders[after].ordStatus).toBe('New')
    cancel(seat, after, 0)
    expect(sharesOf(seat.book, 'OSPRY')).toBe(600)
  })

  it('makes nobody richer, whatever is held: cash and cost stay, and all is sold for the profit that it had', () => {
    const fills = fc.array(
      fc.tuple(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 2_000, max: 9_000 })),
      {
        minLength: 1,
        maxLength: 6,
      },
    )
    fc.assert(
      fc.property(fills, fc.constantFrom(2, 3, 5), fc.boolean(), (bought, ratio, long) => {
        const now = { price: 0 }
        const seat = seatAt(now)
        const deal = (side: string, orderQty: number, priceE4: number) => {
          now.price = priceE4
          const id = send(seat, { side, orderQty })
          const shown = { bid: priceE4, ask: priceE4, last: priceE4, bidSize: 1e9, askSize: 1e9 }
          meetSecond(seat, workingNow(seat, id)!, shown, 0, 0)
        }
        for (const [quantity, cents] of bought) deal(long ? 'Buy' : 'SellShort', quantity, cents * 100)
        const { cashE4 } = seat.book
        const { costE4, quantity } = seat.book.holdings.OSPRY
        splitShares(seat, { ...SPLIT, ratio }, 0)
        expect(seat.book.cashE4).toBe(cashE4)
        deal(long ? 'Sell' : 'Buy', Math.abs(quantity) * ratio, 300_000)
        const { realizedE4 } = seat.book.holdings.OSPRY
        const gain = Object.values(realizedE4).reduce((a, b) => a + b, 0)
        // A lot whose price falls between ten-thousandths is rounded once.
        expect(Math.abs(gain - (quantity * ratio * 300_000 - costE4))).toBeLessThanOrEqual(bought.length)
        const again = emptyBook(10_000 * 1_000_000)
        for (const report of seat.told) takeReport(again, report)
        expect(again.holdings).toEqual(seat.book.holdings)
      }),
      { numRuns: cases(30) },
    )
  })
})

// FINRA Rule 5330 (from memory): open buy orders and stop orders to sell are reduced by a cash dividend, to the increment
// below; sell orders and stop orders to buy are not.
describe('a dividend', () => {
  it.each([
    [{ ordType: 'Limit', price: 48 }, { price: 47.76 }],
    [{ side: 'SellShort', ordType: 'Stop', stopPx: 48 }, { stopPx: 47.76 }],
    [
      { side: 'SellShort', ordType: 'StopLimit', stopPx: 48, price: 47.5 },
      { stopPx: 47.76, price: 47.26 },
    ],
    [{ side: 'SellShort', ordType: 'Limit', price: 52 }, { price: 52 }],
    [{ ordType: 'Stop', stopPx: 52 }, { stopPx: 52 }],
  ])('of 0.236 leaves %j at %j', (order, wanted) => {
    const seat = seatAt({ price: 500_000 })
    const id = send(seat, { timeInForce: 'GoodTillCancel', ...order })
    takeDividend(seat, 'OSPRY', 0.236, 0)
    expect(seat.book.orders[id]).toMatchObject({ orderQty: 100, ordStatus: 'New', ...wanted })
  })

  it('lowers the stop of what is held as well', () => {
    const { seat } = holding({ stop: { percent: 3 }, target: { percent: 7 } })
    takeDividend(seat, 'OSPRY', 0.25, 0)
    expect(seat.book.orders.O2).toMatchObject({
      stopPx: 48.25,
      text: 'lowered by a dividend of 0.25 a share',
    })
    expect(seat.book.orders.O3).toMatchObject({ price: 53.5 })
  })
})
