import { expect, it } from '@jest/globals'
import { bookAsTold } from '@/core/book/asTold'
import { USUAL_RULES } from '@/core/orders/accountRules'
import { type SheetRow } from '@/core/formats/orderSheet'
import { USUAL_INCREMENTS } from '@/core/market/increment'
import { type Security } from '@/core/market/security'
import { type Order } from '@/core/orders/model'
import { type Side } from '@/core/orders/legs'
import { type Position } from '@/core/orders/views'
import { priceRows } from './priceRows'
import { type Sent } from './sheetStore'

const OSPRY: Security = {
  ...{ symbol: 'OSPRY', name: 'Osprey Lantern', kind: 'Stock', sector: 'Instruments', venue: 'XBKW' },
  ...{ country: 'CA', currency: 'USD', lot: 1, increments: [...USUAL_INCREMENTS], indices: [] },
  orderable: true,
}

const row = (line: number, side: Side, shares: number): SheetRow => ({
  ...{ line, cells: {}, errors: {} },
  order: {
    ...{ clOrdId: `row-${line}`, symbol: 'OSPRY', side, sizing: { by: 'shares', shares } },
    ...{ ordType: 'Market', timeInForce: 'Day' },
  },
})

/** Rows as they are said, with so many shares held and these orders at the broker. */
function priced(
  rows: SheetRow[],
  held: number,
  orders: Partial<Order>[] = [],
  sent: Record<number, Sent> = {},
) {
  const standing = orders.map((order, i) => ({
    ...{ orderId: `O${i + 1}`, clOrdId: `o-${i}`, symbol: 'OSPRY', ordStatus: 'New', role: 'Entry' },
    ...{ ordType: 'Limit', price: 80, timeInForce: 'Day', tradeDate: '2026-03-16', ...order },
  })) as Order[]
  return priceRows(rows, {
    sent,
    securities: new Map([['OSPRY', OSPRY]]),
    quotes: { OSPRY: { bid: 49.99, ask: 50, last: 50 } },
    account: { equity: 50_000, buyingPower: 20_000, currency: 'USD', rules: USUAL_RULES },
    book: bookAsTold(standing, [{ symbol: 'OSPRY', quantity: held, avgPx: 48 } as Position], {
      rules: USUAL_RULES,
      stoodDown: [],
      gates: [],
    }),
    now: '2026-03-16T10:42:00-03:00',
    session: { open: true, venue: 'Brackwater Exchange', opens: '09:30' },
  })
}

it('two rows cannot sell the same shares', () => {
  const [first, second] = priced([row(2, 'Sell', 100), row(3, 'Sell', 100)], 100)
  expect(first.state).toBe('ready')
  expect(second.state).toBe('wrong')
  expect(JSON.stringify(second.errors)).toContain('Of 100 OSPRY held, 100 are promised')
})

it('a row cannot sell what a working order at the broker sells already', () => {
  const resting = { side: 'Sell' as const, leavesQty: 60 }
  const [first, second] = priced([row(2, 'Sell', 40), row(3, 'Sell', 1)], 100, [resting])
  expect([first.state, second.state]).toEqual(['ready', 'wrong'])
  expect(JSON.stringify(second.errors)).toContain('Of 100 OSPRY held, 100 are promised')
})

it('a row on its way counts for those after it, before the broker tells of it', () => {
  const rows = [row(2, 'Sell', 100), row(3, 'Sell', 100)]
  const [first, second] = priced(rows, 100, [], { 2: { is: 'sending' } })
  expect([first.state, second.state]).toEqual(['sending', 'wrong'])
})

it('two rows cannot cover the same short position, nor cross one another', () => {
  const covers = priced([row(2, 'Buy', 50), row(3, 'Buy', 50)], -50)
  expect(covers.map((one) => one.state)).toEqual(['ready', 'wrong'])
  const crossing = priced([row(2, 'SellShort', 10), row(3, 'Buy', 10)], 0)
  expect(crossing.map((one) => one.state)).toEqual(['ready', 'wrong'])
})

it('each row leaves less buying power to the next', () => {
  const rows = priced([row(2, 'Buy', 300), row(3, 'Buy', 200)], 0)
  expect(rows.map((one) => one.state)).toEqual(['ready', 'wrong'])
  expect(rows[1].why).toBe(
    'Not enough buying power: the order needs $10,002.00, there are $4,997.00. Order at most 99.',
  )
})

it('an id that stands at the broker is not sent again; one that a refused order left free is', () => {
  const before = (ordStatus: Order['ordStatus']) =>
    priced([row(2, 'Buy', 1)], 0, [
      {
        clOrdId: 'row-2',
        side: 'Buy',
        orderQty: 1,
        ordType: 'Market',
        price: undefined,
        leavesQty: 0,
        ordStatus,
      },
    ])[0].state
  expect([before('Filled'), before('Rejected')]).toEqual(['before', 'ready'])
  // A corrected row is another order than the one that stands under its id.
  const [corrected] = priced([row(2, 'Sell', 20)], 0, [{ clOrdId: 'row-2', side: 'Buy', orderQty: 10 }])
  expect(corrected.state).toBe('differs')
})

it('thousands of rows of one security are priced in one go', () => {
  const rows = priced(
    Array.from({ length: 5_000 }, (_, k) => row(k + 2, 'Sell', 1)),
    4_000,
  )
  expect(rows.filter((one) => one.state === 'ready')).toHaveLength(4_000)
})
