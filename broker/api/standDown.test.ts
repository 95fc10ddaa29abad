import { expect, it } from '@jest/globals'
import { type Order } from '@/core/orders/model'
import { type Account } from '@/core/orders/views'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

let desk: Desk
let folder: string
const wall = new Wall()

deskFor(wall, (opened, dataDir) => {
  desk = opened
  folder = dataDir
})

const post = (path: string, body: object, token?: string) => desk.call('POST', `/paper/${path}`, body, token)
const status = async (id: string) => (await desk.order(id)).ordStatus

it('refuses what opens, from every sender; what closes or protects passes and stays', async () => {
  await desk.send({ clOrdId: 'held', symbol: 'OSPRY', exits: { stop: { percent: 4 } } })
  await desk.run(wall, 5)
  await desk.send({ clOrdId: 'more', symbol: 'OSPRY', ordType: 'Limit', price: 1.5, orderQty: 5 })
  await desk.send({
    clOrdId: 'less',
    symbol: 'OSPRY',
    side: 'Sell',
    ordType: 'Limit',
    price: 90,
    orderQty: 5,
  })
  const done = (await (await post('stand-down', {})).json()) as { canceled: string[] }
  expect(done.canceled).toEqual(['more'])
  expect(await Promise.all(['held/stop', 'less'].map(status))).toEqual(['New', 'New'])
  const sender = await desk.newKey(['send-orders', 'see-account', 'see-market'])
  const script = await desk.askToken(sender.keyId, sender.secret)
  const order = { symbol: 'GANET', side: 'Buy', orderQty: 1, ordType: 'Market' }
  const refused = await problem(post('orders', { ...order, clOrdId: 'new' }, script), 422, 'stood-down')
  expect(refused.mend).toContain('by hand')
  await desk.call('DELETE', '/paper/orders/less')
  const close = { ...order, symbol: 'OSPRY', side: 'Sell', orderQty: 100, clOrdId: 'close' }
  expect((await post('orders', close, script)).status).toBe(201)
  // A script that only sends orders does not lift it.
  await problem(desk.call('DELETE', '/paper/stand-down', undefined, script), 403, 'missing-scope')
})

it('outlives a restart, and a hand lifts it', async () => {
  const [before] = (await desk.get<Account>('/paper/account')).stoodDown
  expect(before.since).toMatch(/^2026-03-16T10:42/)
  await desk.reopen(folder, wall)
  expect(await desk.get('/paper/stand-down')).toEqual([before])
  expect(await (await desk.call('DELETE', '/paper/stand-down')).json()).toEqual([])
  await problem(desk.call('DELETE', '/paper/stand-down'), 409, 'not-possible')
  expect((await desk.send({ clOrdId: 'again', symbol: 'GANET', orderQty: 1 })).status).toBe(201)
})

it('stands down from one security, with all that is held of it', async () => {
  await desk.run(wall, 5)
  await desk.send({ clOrdId: 'other', symbol: 'HERRG', orderQty: 3 })
  await desk.run(wall, 5)
  await post('stand-down', { symbol: 'GANET', flatten: true })
  await desk.run(wall, 5)
  const held = await desk.get<{ symbol: string; quantity: number }[]>('/paper/positions')
  const of = (symbol: string) => held.find((one) => one.symbol === symbol)!.quantity
  expect([of('GANET'), of('HERRG')]).toEqual([0, 3])
  await problem(desk.send({ clOrdId: 'g', symbol: 'GANET', orderQty: 1 }), 422, 'stood-down')
  expect((await desk.send({ clOrdId: 'h', symbol: 'HERRG', orderQty: 1 })).status).toBe(201)
  expect(
    ((await (await desk.call('DELETE', '/paper/stand-down?symbol=GANET')).json()) as Order[]).length,
  ).toBe(0)
})
