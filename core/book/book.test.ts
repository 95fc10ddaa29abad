import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { fromE4, toE4 } from '../market/money'
import { averagePrice, type Book, emptyBook, settledE4, takeReport, workingOrders } from './book'
import { holdingsOf, sharesIn, unlike } from './holdings'
import { type ExecutionReport } from '../orders/model'
import { type Side } from '../orders/legs'

/** One fill of an order of its own. */
interface Deal {
  side: Side
  quantity: number
  /** In cents. */
  price: number
}

const DATE = '2026-03-16'

function report(book: Book, part: Partial<ExecutionReport>): ExecutionReport {
  const seq = book.seq + 1
  return {
    seq,
    execId: `E${seq}`,
    execType: 'New',
    orderId: `O${seq}`,
    clOrdId: `c-${seq}`,
    symbol: 'OSPRY',
    side: 'Buy',
    orderQty: 1,
    ordType: 'Market',
    timeInForce: 'Day',
    ordStatus: 'New',
    cumQty: 0,
    leavesQty: 1,
    avgPx: 0,
    role: 'Entry',
    transactTime: '2026-03-16T10:42:00-03:00',
    tradeDate: DATE,
    ...part,
  }
}

/** Takes an order that fills at once. */
function deal(book: Book, { side, quantity, price }: Deal, lot?: string, settlDate?: string): void {
  const opened = report(book, { side, orderQty: quantity, leavesQty: quantity, lot })
  takeReport(book, opened)
  takeReport(book, {
    ...opened,
    seq: book.seq + 1,
    execId: `E${book.seq + 1}`,
    execType: 'Trade',
    ordStatus: 'Filled',
    cumQty: quantity,
    leavesQty: 0,
    avgPx: price / 100,
    lastQty: quantity,
    lastPx: price / 100,
    commission: fromE4(quantity * 50),
    settlDate,
  })
}

/** Lots the plain way, share by share: each that closes takes the oldest that is open. */
function plain(deals: readonly Deal[]) {
  let [realized, cash] = [0, 0]
  const open: { sign: number; price: number }[] = []
  for (const { side, quantity: n, price } of deals) {
    const sign = side === 'Buy' ? 1 : -1
    cash -= sign * n * price
    for (let i = 0; i < n; i++) {
      if (open.length === 0 || open[0].sign === sign) open.push({ sign, price })
      else realized += -sign * (price - open.shift()!.price)
    }
  }
  const cost = open.reduce((sum, one) => sum + one.sign * one.price, 0)
  return { quantity: open.reduce((sum, one) => sum + one.sign, 0), cost, realized, cash }
}

const deals = fc.array(
  fc.record({
    side: fc.constantFrom<Side>('Buy', 'Sell', 'SellShort'),
    quantity: fc.integer({ min: 1, max: 60 }),
    price: fc.integer({ min: 100, max: 9000 }),
  }),
  { maxLength: 25 },
)

describe('holdings by lot, the oldest closed first (IRS Publication 550, from memory)', () => {
  it('bought 100 at 10 and 100 at 12, sold 150 at 13: 50 left at 12, 350 taken', () => {
    const book = emptyBook(toE4(10_000))
    deal(book, { side: 'Buy', quantity: 100, price: 1000 })
    deal(book, { side: 'Buy', quantity: 100, price: 1200 })
    deal(book, { side: 'Sell', quantity: 150, price: 1300 })
    const holding = book.holdings.OSPRY
    expect([holding.quantity, averagePrice(holding), fromE4(holding.realizedE4[DATE])]).toEqual([50, 12, 350])
    expect(fromE4(book.cashE4)).toBe(10_000 - 1000 - 1200 + 1950 - 350 * 0.005)
  })

  it('a close takes the lot that it names first', () => {
    const book = emptyBook()
    deal(book, { side: 'Buy', quantity: 100, price: 1000 })
    deal(book, { side: 'Buy', quantity: 100, price: 1200 })
    const [, dear] = book.holdings.OSPRY.lots
    deal(book, { side: 'Sell', quantity: 150, price: 1300 }, dear.id)
    // 100 at 12 and 50 at 10: 100 and 150 taken.
    expect(fromE4(book.holdings.OSPRY.realizedE4[DATE])).toBe(250)
    expect(book.holdings.OSPRY.lots).toMatchObject([{ quantity: 50, priceE4: 100_000 }])
  })

  it('what is sold settles on the day that its report says, and is not settled before', () => {
    const book = emptyBook(toE4(1000))
    deal(book, { side: 'Buy', quantity: 10, price: 5000 })
    deal(book, { side: 'Sell', quantity: 10, price: 6000 }, undefined, '2026-03-17')
    const total = fromE4(book.cashE4)
    expect(fromE4(settledE4(book, DATE))).toBeCloseTo(total - 600 + 0.05, 4)
    expect(fromE4(settledE4(book, '2026-03-17'))).toBe(total)
  })

  it('sold short 100 at 20, bought back 150 at 18: 200 taken, 50 long at 18', () => {
    const book = emptyBook()
    deal(book, { side: 'SellShort', quantity: 100, price: 2000 })
    deal(book, { side: 'Buy', quantity: 150, price: 1800 })
    const holding = book.holdings.OSPRY
    expect([holding.quantity, averagePrice(holding), fromE4(holding.realizedE4[DATE])]).toEqual([50, 18, 200])
  })

  it('agree with the plain reading, share by share', () => {
    fc.assert(
      fc.property(deals, (list) => {
        const book = emptyBook()
        for (const one of list) deal(book, one)
        const wanted = plain(list)
        const holding = book.holdings.OSPRY ?? { quantity: 0, costE4: 0, realizedE4: {} }
        expect(holding.quantity).toBe(wanted.quantity)
        expect(holding.costE4 / 100).toBe(wanted.cost)
        const realized = Object.values(holding.realizedE4).reduce((a, b) => a + b, 0)
        expect(realized / 100).toBe(wanted.realized)
        expect(book.holdings.OSPRY?.lots.reduce((sum, lot) => sum + lot.quantity, 0) ?? 0).toBe(
          wanted.quantity,
        )
        const commission = 50 * list.reduce((sum, d) => sum + d.quantity, 0)
        expect(book.cashE4).toBe(wanted.cash * 100 - commission)
      }),
    )
  })

  it('cash, cost and profit taken always add up', () => {
    fc.assert(
      fc.property(deals, (list) => {
        const book = emptyBook()
        for (const one of list) deal(book, one)
        const holding = book.holdings.OSPRY
        const realized = Object.values(holding?.realizedE4 ?? {}).reduce((a, b) => a + b, 0)
        const commission = Object.values(book.commissionE4).reduce((a, b) => a + b, 0)
        expect(book.cashE4 + (holding?.costE4 ?? 0) - realized + commission).toBe(0)
      }),
    )
  })
})

describe('reports', () => {
  it('a stream may repeat itself, but not skip', () => {
    const book = emptyBook()
    const first = report(book, {})
    takeReport(book, first)
    takeReport(book, first)
    expect(Object.keys(book.orders)).toHaveLength(1)
    expect(() => takeReport(book, report(book, { seq: 3 }))).toThrow('ask for those after 1')
  })

  it('one that cannot follow is refused', () => {
    const book = emptyBook()
    const first = report(book, {})
    takeReport(book, first)
    takeReport(book, { ...first, seq: 2, execType: 'Canceled', ordStatus: 'Canceled', leavesQty: 0 })
    expect(() => takeReport(book, { ...first, seq: 3, execType: 'Trade', ordStatus: 'Filled' })).toThrow(
      'Trade (Filled) cannot follow Canceled',
    )
    expect(workingOrders(book)).toEqual([])
  })

  it('a refused order leaves its client order id to the next', () => {
    const book = emptyBook()
    takeReport(
      book,
      report(book, { clOrdId: 'x', execType: 'Rejected', ordStatus: 'Rejected', leavesQty: 0 }),
    )
    takeReport(book, report(book, { clOrdId: 'x', orderId: 'O9' }))
    expect(book.byClOrdId.x).toBe('O9')
  })
})

it('what is held is folded from multi-leg trades too, and held against what the broker tells', () => {
  const legs = ['OSPRY 260417C00012000', 'OSPRY 260417C00013000']
  const common = {
    ...{ orderId: 'O1', clOrdId: 'w', symbol: 'OSPRY', side: 'Buy', orderQty: 2, ordType: 'Market' },
    ...{
      timeInForce: 'Day',
      role: 'Entry',
      transactTime: '2026-03-16T10:42:00-03:00',
      tradeDate: '2026-03-16',
    },
    legs: legs.map((symbol, i) => ({ symbol, legSide: i === 0 ? 'Buy' : 'SellShort', legRatioQty: 1 })),
  }
  const reports = [
    { ...common, seq: 1, execId: 'E1', execType: 'New', ordStatus: 'New', cumQty: 0, leavesQty: 2, avgPx: 0 },
    {
      ...{ ...common, seq: 2, execId: 'E2', execType: 'Trade', ordStatus: 'Filled', cumQty: 2, leavesQty: 0 },
      ...{ avgPx: 0.4, lastQty: 2, lastPx: 0.4 },
      legFills: legs.map((symbol, i) => ({
        ...{
          symbol,
          side: i === 0 ? 'Buy' : 'SellShort',
          lastQty: 2,
          lastPx: i === 0 ? 0.6 : 0.2,
          commission: 1.3,
        },
      })),
    },
  ] as unknown as ExecutionReport[]
  const folded = holdingsOf(reports)
  expect(legs.map((symbol) => folded[symbol].at(-1)!.shares)).toEqual([2, -2])
  expect(
    unlike(sharesIn(folded), [
      { symbol: legs[0], quantity: 2 },
      { symbol: legs[1], quantity: -2 },
    ]),
  ).toEqual([])
  expect(unlike(sharesIn(folded), [{ symbol: legs[0], quantity: 1 }])).toEqual([
    { symbol: legs[0], folded: 2, told: 1 },
    { symbol: legs[1], folded: -2, told: 0 },
  ])
})
