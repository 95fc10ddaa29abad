import { expect, it } from '@jest/globals'
import { fromE4 } from '@/core/market/money'
import { type ExecutionReport, type NewOrder, type Order } from '@/core/orders/model'
import { type Check } from '@/core/orders/checks'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

const wall = new Wall()
let desk: Desk
deskFor(wall, (made) => (desk = made))

const quote = () => desk.world.market.quoteAt(desk.world.market.find('OSPRY')!, desk.world.clock.now())
const near = (steps: number) => fromE4(quote().last + steps * 100)
const change = (clOrdId: string, body: object) => desk.call('PATCH', `/paper/orders/${clOrdId}`, body)
const changed = async (clOrdId: string, body: object): Promise<Order> => {
  const answer = await change(clOrdId, body)
  expect(answer.status).toBe(200)
  return (await answer.json()) as Order
}
const resting = (
  clOrdId: string,
  part: Partial<NewOrder> = {},
): Partial<NewOrder> & Record<string, unknown> => ({
  ...{ clOrdId, symbol: 'OSPRY', side: 'Buy', orderQty: 100, ordType: 'Limit', price: near(-200) },
  ...{ timeInForce: 'GoodTillCancel', text: 'a note', ...part },
})
const run = (seconds: number) => desk.run(wall, seconds)
const standing = (clOrdId: string): Order =>
  desk.world.main.book.orders[desk.world.main.book.byClOrdId[clOrdId]]

it('changes price and quantity; both ids stand for the order, which keeps its note and its chain', async () => {
  await desk.send(resting('a-1'))
  const order = await changed('a-1', { clOrdId: 'a-2', orderQty: 60, price: near(-300) })
  expect(order).toMatchObject({
    ...{ clOrdId: 'a-2', origClOrdId: 'a-1', orderQty: 60, leavesQty: 60, price: near(-300) },
    ...{ ordStatus: 'New', text: 'a note', timeInForce: 'GoodTillCancel' },
  })
  expect(order.chain.map((step) => step.execType)).toEqual(['New', 'Replaced'])
  for (const id of ['a-1', 'a-2']) {
    const found = await desk.order(id)
    expect(found.orderId).toBe(order.orderId)
  }
  const reports = await desk.get<ExecutionReport[]>('/paper/executions?after=0')
  expect(reports.at(-1)).toMatchObject({ execType: 'Replaced', origClOrdId: 'a-1' })
})

it('an id that was ever used is not used again, before a change or after it', async () => {
  const body = await problem(
    change('a-2', { clOrdId: 'a-1', price: near(-250) }),
    409,
    'duplicate-client-order-id',
  )
  expect(body.order).toMatchObject({ clOrdId: 'a-2' })
  await problem(desk.send(resting('a-1')), 409, 'duplicate-client-order-id')
})

it('a change to where the market is trades at once', async () => {
  await changed('a-2', { clOrdId: 'a-3', price: near(30) })
  await run(5)
  expect(standing('a-1')).toMatchObject({ ordStatus: 'Filled', cumQty: 60 })
})

it('a change that lost the race against a fill says how the order stands', async () => {
  const body = await problem(change('a-3', { clOrdId: 'a-4', price: 1 }), 409, 'order-not-working')
  expect(body.order).toMatchObject({ ordStatus: 'Filled', cumQty: 60 })
})

it('is checked as a new order would be, its own reserve apart', async () => {
  const most = 2 * Math.floor(40_000 / near(-200))
  await desk.send(resting('b-1', { orderQty: most }))
  // It keeps back most of the buying power itself: as many again are not too many.
  await changed('b-1', { clOrdId: 'b-2', price: near(-201) })
  const body = await problem(
    change('b-2', { clOrdId: 'b-3', orderQty: 3 * most }),
    422,
    'not-enough-buying-power',
  )
  expect((body.checks as Check[]).find((one) => one.code === 'buying-power')).toMatchObject({
    verdict: 'fails',
  })
  await problem(change('b-2', { clOrdId: 'b-3', price: 11.005 }), 422, 'price-off-tick')
  expect(standing('b-2')).toMatchObject({ clOrdId: 'b-2', orderQty: most })
})

it.each([
  [{ stopPx: 9 }, 'order-not-replaceable', 'has no stopPx'],
  [{}, 'malformed-request', 'give orderQty, price, stopPx or timeInForce'],
  [{ symbol: 'GANET' }, 'malformed-request', 'symbol'],
])('%j is refused as %s', async (part, kind, words) => {
  const body = await problem(
    change('b-2', { clOrdId: 'c-1', ...part }),
    kind === 'malformed-request' ? 400 : 409,
    kind,
  )
  expect(body.detail).toContain(words)
})

it('an exit is moved by its price, and is as many as its entry', async () => {
  await desk.call('DELETE', '/paper/orders/b-2')
  await desk.send({
    ...{ clOrdId: 'd-1', symbol: 'OSPRY', side: 'Buy', orderQty: 40, ordType: 'Market' },
    exits: { stop: { percent: 5 }, target: { percent: 6 } },
  })
  await run(5)
  const stop = encodeURIComponent('d-1/stop')
  const moved = await changed(stop, { clOrdId: 'd-2', stopPx: near(-20) })
  expect(moved).toMatchObject({ stopPx: near(-20), leavesQty: 40, role: 'Stop', ordStatus: 'New' })
  await problem(change('d-2', { clOrdId: 'd-3', orderQty: 10 }), 409, 'order-not-replaceable')
  const target = encodeURIComponent('d-1/target')
  await changed(target, { clOrdId: 'd-4', price: near(40) })
})

it('what is filled stays filled: a quantity below it is refused', async () => {
  await desk.send(resting('e-1', { symbol: 'OSPRY', orderQty: 2_000, price: near(2) }))
  await run(1)
  const order = standing('e-1')
  if (order.ordStatus !== 'PartiallyFilled') throw new Error(`it is ${order.ordStatus}`)
  const body = await problem(
    change('e-1', { clOrdId: 'e-2', orderQty: order.cumQty }),
    409,
    'order-not-replaceable',
  )
  expect(body.mend).toContain(`above ${order.cumQty}`)
  const after = await changed('e-1', { clOrdId: 'e-2', orderQty: order.cumQty + 7, price: near(-100) })
  expect(after).toMatchObject({ ordStatus: 'PartiallyFilled', leavesQty: 7, cumQty: order.cumQty })
})
