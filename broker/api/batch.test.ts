import { expect, it } from '@jest/globals'
import fc from 'fast-check'
import { type Order } from '@/core/orders/model'
import { cases } from '@/tests/cases'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'
import { makeApp } from './app'
import { Pace } from './pace'

let desk: Desk
deskFor(new Wall(), (made) => (desk = made))

const batch = (orders: unknown) => desk.call('POST', '/paper/orders/batch', { orders })
type Told = { clOrdId: string; order?: Order; problem?: { type: string; order?: Order } }

const limit = { symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Limit', price: 0.5 }

it('gives the same as the orders sent one after the other', async () => {
  const row = fc.record({
    id: fc.integer({ min: 0, max: 5 }),
    symbol: fc.constantFrom('OSPRY', 'GANET', 'NOSUCH'),
    side: fc.constantFrom('Buy', 'Sell'),
    orderQty: fc.constantFrom(1, 100, 5_000_000),
    price: fc.constantFrom(0.5, 0.513, 9_000),
  })
  let run = 0
  // What is told of an order, but for what tells the two accounts apart.
  const plain = ({ order, problem }: Told) => [
    order && [order.symbol, order.side, order.orderQty, order.price],
    problem && [problem.type, problem.order?.orderQty],
  ]
  await fc.assert(
    fc.asyncProperty(fc.array(row, { minLength: 1, maxLength: 12 }), async (rows) => {
      const [one, many] = [`A${++run}`, `B${run}`]
      for (const account of [one, many])
        await desk.call('POST', '/paper/accounts', { account, cash: 100_000 })
      const sent = (account: string) =>
        rows.map(({ id, ...fields }) => ({ ...fields, clOrdId: `${id}`, ordType: 'Limit', account }))
      const alone: Told[] = []
      for (const order of sent(one)) {
        const answer = await desk.call('POST', '/paper/orders', order)
        const told = (await answer.json()) as Order & { type: string }
        alone.push({
          clOrdId: order.clOrdId,
          ...(answer.status === 201 ? { order: told } : { problem: told as never }),
        })
      }
      const together = (await (await batch(sent(many))).json()) as Told[]
      expect(together.map(plain)).toEqual(alone.map(plain))
      expect(together.map(({ clOrdId }) => clOrdId)).toEqual(rows.map(({ id }) => `${id}`))
    }),
    { numRuns: cases(25) },
  )
})

it('sends nothing where one of them cannot be read, and says which', async () => {
  const refused = await problem(
    batch([
      { ...limit, clOrdId: 'good' },
      { ...limit, clOrdId: 'bad', orderQty: -1 },
    ]),
    400,
    'malformed-request',
  )
  expect(refused.detail).toContain('orders.1.orderQty')
  for (const orders of [[], Array.from({ length: 51 }, (_, i) => ({ ...limit, clOrdId: `m-${i}` }))])
    await problem(batch(orders), 400, 'malformed-request')
  expect(await desk.get('/paper/orders?which=all')).toEqual([])
})

it('takes none for an account of which the key does not speak', async () => {
  const { keyId, secret } = await desk.newKey(['send-orders'], 'paper', { accounts: ['PAPER-2'] })
  const token = await desk.askToken(keyId, secret)
  await desk.call('POST', '/paper/accounts', { account: 'PAPER-2', cash: 1000 })
  const send = (...orders: object[]) => desk.call('POST', '/paper/orders/batch', { orders }, token)
  const own = { ...limit, clOrdId: 'own' }
  await problem(send(own, { ...limit, clOrdId: 'theirs', account: 'PAPER-1' }), 404, 'unknown-account')
  expect((await desk.call('GET', '/paper/orders/own?account=PAPER-2')).status).toBe(404)
  expect((await send(own)).status).toBe(200)
  expect((await desk.call('GET', '/paper/orders/own?account=PAPER-2')).status).toBe(200)
})

it('counts each order against the pace of the key', async () => {
  const pace = new Pace({ perSecond: 2, atOnce: 4 }, () => 0)
  const app = makeApp({ worlds: desk.worlds, tokens: desk.tokens, pace })
  const ask = (method: string, path: string, body?: unknown) =>
    app.request(path, {
      method,
      headers: { Authorization: `Bearer ${desk.token}`, 'Content-Type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    })
  const orders = Array.from({ length: 9 }, (_, i) => ({ ...limit, clOrdId: `p-${i}` }))
  expect((await ask('POST', '/paper/orders/batch', { orders })).status).toBe(200)
  // Nine of four: five too many, and one that is asked now, at two a second.
  const refused = await ask('GET', '/paper/account')
  expect([refused.status, refused.headers.get('retry-after')]).toEqual([429, '3'])
})
