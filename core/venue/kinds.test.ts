import { expect, it } from '@jest/globals'
import { toE4 } from '../market/money'
import { NewOrder } from '../orders/model'
import { seatAt, send, trades } from '@/tests/venue'
import { meetBar } from './bars'
import { workingNow } from './seat'
import { replace } from './replace'
import { meetSecond } from './trade'

/** Shows an order a second at which 120 shares stand at 50.00 and 180 a cent above. */
function second(part: Record<string, unknown>, { last = 50, cash = 1_000_000 } = {}) {
  const now = { price: toE4(last) }
  const seat = seatAt(now, cash)
  const orderId = send(seat, part)
  const show = (price: number) => {
    now.price = toE4(price)
    const order = workingNow(seat, orderId)
    const shown = { bid: now.price, ask: now.price, last: now.price, bidSize: 120, askSize: 120 }
    if (order) meetSecond(seat, order, shown, 0, 0)
  }
  show(last)
  return { seat, show, order: () => seat.book.orders[orderId] }
}

it('ImmediateOrCancel trades what is there, and the rest is canceled', () => {
  const { seat, order } = second({
    orderQty: 500,
    ordType: 'Limit',
    price: 50.01,
    timeInForce: 'ImmediateOrCancel',
  })
  expect(trades(seat)).toEqual([
    ['Buy', 'Limit', 120, 50],
    ['Buy', 'Limit', 180, 50.01],
  ])
  expect(order()).toMatchObject({ ordStatus: 'Canceled', cumQty: 300, leavesQty: 0 })
  expect(order().text).toContain('at once')
})

it('ImmediateOrCancel away from the market trades nothing and ends, its exits with it', () => {
  const { seat, order } = second({
    ...{ ordType: 'Limit', price: 49, timeInForce: 'ImmediateOrCancel', exits: { stop: { percent: 2 } } },
  })
  expect(trades(seat)).toEqual([])
  expect(order().ordStatus).toBe('Canceled')
  expect(seat.book.working).toEqual({})
})

it('FillOrKill trades all of it or nothing', () => {
  const part = { ordType: 'Limit', price: 50.01, timeInForce: 'FillOrKill' }
  const all = second({ ...part, orderQty: 300 })
  expect(all.order()).toMatchObject({ ordStatus: 'Filled', cumQty: 300 })
  const more = second({ ...part, orderQty: 301 })
  expect(more.order()).toMatchObject({ ordStatus: 'Canceled', cumQty: 0 })
  expect(more.order().text).toContain('whole')
})

it('FillOrKill trades nothing where the account could take a part only', () => {
  const { order } = second({ orderQty: 100, timeInForce: 'FillOrKill' }, { cash: 1_000 })
  expect(order()).toMatchObject({ ordStatus: 'Canceled', cumQty: 0 })
})

it('a StopLimit is set off by its trigger and never trades beyond its limit, a gap included', () => {
  const { seat, show, order } = second({ ordType: 'StopLimit', stopPx: 51, price: 51.2 })
  expect(order()).toMatchObject({ ordStatus: 'New' })
  show(52)
  expect(order()).toMatchObject({ ordStatus: 'New', triggered: true })
  show(51.2)
  expect(trades(seat)).toEqual([['Buy', 'StopLimit', 100, 51.2]])
})

it('in a whole bar likewise', () => {
  const seat = seatAt({ price: toE4(50) })
  send(seat, { ordType: 'StopLimit', stopPx: 51, price: 51.2 })
  send(seat, { ordType: 'Limit', price: 49, timeInForce: 'ImmediateOrCancel' })
  send(seat, { orderQty: 2000, timeInForce: 'FillOrKill' })
  const bar = (open: number, high: number, low: number, close: number) => ({
    ...{ open: toE4(open), high: toE4(high), low: toE4(low), close: toE4(close), volume: 10_000 },
  })
  meetBar(seat, 'OSPRY', bar(50, 50.5, 49.5, 50), 0, { slipE4: 500, share: 0.1 })
  expect(['O2', 'O3'].map((id) => seat.book.orders[id].ordStatus)).toEqual(['Canceled', 'Canceled'])
  // Opens beyond its limit, and comes back to it.
  meetBar(seat, 'OSPRY', bar(52, 52.5, 51, 51.5), 0, { slipE4: 500, share: 0.1 })
  expect(trades(seat)).toEqual([['Buy', 'StopLimit', 100, 51.2]])
})

it('an exit that was moved stays where it is when more of its entry is filled', () => {
  const seat = seatAt({ price: toE4(50) })
  const entry = send(seat, { orderQty: 200, exits: { stop: { percent: 4 }, target: { percent: 4 } } })
  const bar = { open: toE4(50), high: toE4(50), low: toE4(50), close: toE4(50), volume: 100 }
  const terms = { slipE4: 0, share: 1 }
  meetBar(seat, 'OSPRY', bar, 0, terms)
  replace(seat, seat.book.orders.O2, { clOrdId: 'moved', stopPx: 49.5 }, 0)
  meetBar(seat, 'OSPRY', bar, 0, terms)
  expect(seat.book.orders[entry].cumQty).toBe(200)
  expect(seat.book.orders.O2).toMatchObject({ stopPx: 49.5, leavesQty: 200 })
  expect(seat.book.orders.O3).toMatchObject({ price: 52, leavesQty: 200 })
})

it('what waits for a price cannot be for this moment only', () => {
  const order = { clOrdId: 'a', symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Stop', stopPx: 51 }
  const wrong = NewOrder.safeParse({ ...order, timeInForce: 'FillOrKill' })
  expect(wrong.error?.issues[0].message).toBe('a Stop order waits for its price and cannot be FillOrKill')
  expect(NewOrder.safeParse({ ...order, ordType: 'StopLimit' }).error?.issues[0].message).toBe(
    'a StopLimit order needs price',
  )
})
