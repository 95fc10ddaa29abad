import { expect, it } from '@jest/globals'
import { type OrderDraft } from '@/core/orders/draft'
import { type Order } from '@/core/orders/model'
import { changeInto, isLike, mayBecome } from './sentBefore'

const row = (part: Partial<OrderDraft> = {}): OrderDraft => ({
  ...{ clOrdId: 'r-1', symbol: 'OSPRY', side: 'Buy', sizing: { by: 'shares', shares: 20 } },
  ...{ ordType: 'Limit', price: 5, timeInForce: 'Day', ...part },
})
const order = (part: Partial<Order> = {}): Order =>
  ({
    ...{ clOrdId: 'r-1', symbol: 'OSPRY', side: 'Buy', orderQty: 20, ordType: 'Limit', price: 5 },
    ...{ timeInForce: 'Day', ordStatus: 'New', cumQty: 0, ...part },
  }) as Order

it('a row is compared with what stands under its id, field by field', () => {
  expect(isLike(row(), order())).toBe(true)
  expect(isLike(row({ sizing: { by: 'shares', shares: 10 } }), order())).toBe(false)
  expect(isLike(row({ side: 'Sell' }), order())).toBe(false)
  expect(isLike(row({ price: 5.01 }), order())).toBe(false)
  // What is sized by the equity comes to other shares at another moment.
  expect(isLike(row({ sizing: { by: 'equity', percentOfEquity: 10 } }), order({ orderQty: 77 }))).toBe(true)
  const exits = { stop: { percent: 2 }, target: { percent: 5 } }
  expect(isLike(row({ exits }), order({ exits: { target: { percent: 5 }, stop: { percent: 2 } } }))).toBe(
    true,
  )
  expect(isLike(row({ exits }), order())).toBe(false)
})

it('an order becomes what a row says if it works still and trades the same way', () => {
  const more = row({ sizing: { by: 'shares', shares: 30 }, price: 5.5 })
  expect(mayBecome(more, order())).toBe(true)
  expect(mayBecome(row({ side: 'Sell' }), order())).toBe(false)
  expect(mayBecome(more, order({ ordStatus: 'Filled', cumQty: 20 }))).toBe(false)
  expect(mayBecome(row({ sizing: { by: 'shares', shares: 5 } }), order({ cumQty: 5 }))).toBe(false)
  expect(changeInto(more, order())).toEqual({
    clOrdId: expect.stringMatching(/^r-1\./),
    orderQty: 30,
    price: 5.5,
  })
})
