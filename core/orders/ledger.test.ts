import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { fromE4, toE4 } from '../market/money'
import { averagePrice, emptyLedger, type Ledger, takeReport, workingOrders } from './ledger'
import { type ExecutionReport, type Side } from './model'

/** One fill of an order of its own. */
interface Deal {
  side: Side
  quantity: number
  /** In cents. */
  price: number
}

const DATE = '2026-03-16'

function report(ledger: Ledger, part: Partial<ExecutionReport>): ExecutionReport {
  const seq = ledger.seq + 1
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
function deal(ledger: Ledger, { side, quantity, price }: Deal): void {
  const opened = report(ledger, { side, orderQty: quantity, leavesQty: quantity })
  takeReport(ledger, opened)
  takeReport(ledger, {
    ...opened,
    seq: ledger.seq + 1,
    execId: `E${ledger.seq + 1}`,
    execType: 'Trade',
    ordStatus: 'Filled',
    cumQty: quantity,
    leavesQty: 0,
    avgPx: price / 100,
    lastQty: quantity,
    lastPx: price / 100,
    commission: fromE4(quantity * 50),
  })
}

/** Average cost the plain way, share by share: closing takes the average of what is open, opening adds to it. */
function plain(deals: readonly Deal[]) {
  let [quantity, cost, realized, cash] = [0, 0, 0, 0]
  for (const { side, quantity: n, price } of deals) {
    const sign = side === 'Buy' ? 1 : -1
    cash -= sign * n * price
    for (let i = 0; i < n; i++) {
      if (quantity * sign >= 0) cost += sign * price
      else {
        const average = cost / quantity
        realized += -sign * (price - average)
        cost -= -sign * average
      }
      quantity += sign
      if (quantity === 0) cost = 0
    }
  }
  return { quantity, cost, realized, cash }
}

const deals = fc.array(
  fc.record({
    side: fc.constantFrom<Side>('Buy', 'Sell', 'SellShort'),
    quantity: fc.integer({ min: 1, max: 60 }),
    price: fc.integer({ min: 100, max: 9000 }),
  }),
  { maxLength: 25 },
)

describe('holdings by average cost (common practice)', () => {
  it('bought 100 at 10 and 100 at 12, sold 150 at 13: 50 left at 11, 300 taken', () => {
    const ledger = emptyLedger(toE4(10_000))
    deal(ledger, { side: 'Buy', quantity: 100, price: 1000 })
    deal(ledger, { side: 'Buy', quantity: 100, price: 1200 })
    deal(ledger, { side: 'Sell', quantity: 150, price: 1300 })
    const holding = ledger.holdings.get('OSPRY')!
    expect([holding.quantity, averagePrice(holding), fromE4(holding.realizedE4[DATE])]).toEqual([50, 11, 300])
    expect(fromE4(ledger.cashE4)).toBe(10_000 - 1000 - 1200 + 1950 - 350 * 0.005)
  })

  it('sold short 100 at 20, bought back 150 at 18: 200 taken, 50 long at 18', () => {
    const ledger = emptyLedger()
    deal(ledger, { side: 'SellShort', quantity: 100, price: 2000 })
    deal(ledger, { side: 'Buy', quantity: 150, price: 1800 })
    const holding = ledger.holdings.get('OSPRY')!
    expect([holding.quantity, averagePrice(holding), fromE4(holding.realizedE4[DATE])]).toEqual([50, 18, 200])
  })

  it('agree with the plain reading, share by share', () => {
    fc.assert(
      fc.property(deals, (list) => {
        const ledger = emptyLedger()
        for (const one of list) deal(ledger, one)
        const wanted = plain(list)
        const holding = ledger.holdings.get('OSPRY') ?? { quantity: 0, costE4: 0, realizedE4: {} }
        expect(holding.quantity).toBe(wanted.quantity)
        // Costs are rounded to a ten-thousandth at each close.
        expect(Math.abs(holding.costE4 / 100 - wanted.cost)).toBeLessThan(0.02 * (list.length + 1))
        const realized = Object.values(holding.realizedE4).reduce((a, b) => a + b, 0)
        expect(Math.abs(realized / 100 - wanted.realized)).toBeLessThan(0.02 * (list.length + 1))
        const commission = 50 * list.reduce((sum, d) => sum + d.quantity, 0)
        expect(ledger.cashE4).toBe(wanted.cash * 100 - commission)
      }),
    )
  })

  it('cash, cost and profit taken always add up', () => {
    fc.assert(
      fc.property(deals, (list) => {
        const ledger = emptyLedger()
        for (const one of list) deal(ledger, one)
        const holding = ledger.holdings.get('OSPRY')
        const realized = Object.values(holding?.realizedE4 ?? {}).reduce((a, b) => a + b, 0)
        const commission = Object.values(ledger.commissionE4).reduce((a, b) => a + b, 0)
        expect(ledger.cashE4 + (holding?.costE4 ?? 0) - realized + commission).toBe(0)
      }),
    )
  })
})

describe('reports', () => {
  it('a stream may repeat itself, but not skip', () => {
    const ledger = emptyLedger()
    const first = report(ledger, {})
    takeReport(ledger, first)
    takeReport(ledger, first)
    expect(ledger.orders.size).toBe(1)
    expect(() => takeReport(ledger, report(ledger, { seq: 3 }))).toThrow('ask for those after 1')
  })

  it('one that cannot follow is refused', () => {
    const ledger = emptyLedger()
    const first = report(ledger, {})
    takeReport(ledger, first)
    takeReport(ledger, { ...first, seq: 2, execType: 'Canceled', ordStatus: 'Canceled', leavesQty: 0 })
    expect(() => takeReport(ledger, { ...first, seq: 3, execType: 'Trade', ordStatus: 'Filled' })).toThrow(
      'Trade (Filled) cannot follow Canceled',
    )
    expect(workingOrders(ledger)).toEqual([])
  })

  it('a refused order leaves its client order id to the next', () => {
    const ledger = emptyLedger()
    takeReport(
      ledger,
      report(ledger, { clOrdId: 'x', execType: 'Rejected', ordStatus: 'Rejected', leavesQty: 0 }),
    )
    takeReport(ledger, report(ledger, { clOrdId: 'x', orderId: 'O9' }))
    expect(ledger.byClOrdId.get('x')).toBe('O9')
  })
})
