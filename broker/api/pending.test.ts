import { describe, expect, it } from '@jest/globals'
import { type Order } from '@/core/orders/model'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

describe('cancel and change in the stand-in for live, which take their time', () => {
  const wall = new Wall()
  let desk: Desk
  let token: string
  let folder: string
  deskFor(wall, (made, dataDir) => ([desk, folder] = [made, dataDir]))

  const live = async (method: string, path: string, body?: unknown): Promise<Order> => {
    if (!token) {
      const { keyId, secret } = await desk.newKey(['see-market', 'see-account', 'send-orders'], 'live')
      token = await desk.askToken(keyId, secret, 'live')
    }
    return (await (await desk.call(method, `/live${path}`, body, token)).json()) as Order
  }
  const limit = (clOrdId: string, price: number, more = {}) =>
    live('POST', '/orders', {
      ...{ clOrdId, symbol: 'OSPRY', side: 'Buy', orderQty: 10, ordType: 'Limit', price, ...more },
    })

  it('are pending until the next second, also after a restart, and then done', async () => {
    await limit('far', 5)
    await limit('other', 5)
    const pending = await live('DELETE', '/orders/far')
    expect([pending.ordStatus, pending.allows]).toEqual(['PendingCancel', { cancel: false, replace: [] }])
    const asked = await live('PATCH', '/orders/other', { clOrdId: 'other-2', price: 6 })
    expect([asked.ordStatus, asked.price, asked.asked?.price]).toEqual(['PendingReplace', 5, 6])
    await desk.reopen(folder, wall)
    token = ''
    expect((await live('GET', '/orders/far')).ordStatus).toBe('PendingCancel')
    await desk.run(wall, 2)
    expect((await live('GET', '/orders/far')).ordStatus).toBe('Canceled')
    expect(await live('GET', '/orders/other')).toMatchObject({
      ...{ ordStatus: 'New', price: 6, clOrdId: 'other-2', origClOrdId: 'other' },
    })
  })

  it('lose the race against a fill', async () => {
    await limit('race', 5)
    await live('PATCH', '/orders/race', { clOrdId: 'race-2', price: 500 })
    await desk.run(wall, 2)
    expect((await live('GET', '/orders/race')).ordStatus).toBe('Filled')
    await problem(desk.call('DELETE', '/live/orders/race-2', undefined, token), 409, 'order-not-working')
  })
})

describe('halts', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))

  it('let orders rest, of options too, until trading goes on', async () => {
    const halted = await desk.call('POST', '/paper/halts', { symbol: 'OSPRY', seconds: 600 })
    expect(halted.status).toBe(201)
    const checked = await desk.call('POST', '/paper/orders/check', {
      ...{ clOrdId: 'x', symbol: 'OSPRY', side: 'Buy', orderQty: 10, ordType: 'Market' },
    })
    expect(JSON.stringify(await checked.json())).toContain('halted')
    await desk.send({ clOrdId: 'wait', symbol: 'OSPRY', orderQty: 10 })
    await desk.send({ clOrdId: 'goes', symbol: 'GANET', orderQty: 10 })
    await desk.run(wall, 300)
    expect([(await desk.order('wait')).ordStatus, (await desk.order('goes')).ordStatus]).toEqual([
      'New',
      'Filled',
    ])
    const [quote] = await desk.get<{ halted?: boolean }[]>('/paper/quotes?symbols=OSPRY')
    expect(quote.halted).toBe(true)
    await desk.run(wall, 302)
    const filled = await desk.order('wait')
    expect(filled.ordStatus).toBe('Filled')
    expect(Date.parse(filled.transactTime) - Date.parse(filled.enteredTime)).toBe(600_000)
  })

  it('are ended by hand, and one that is not on cannot be', async () => {
    await desk.call('POST', '/paper/halts', { symbol: 'OSPRY' })
    expect(await desk.get('/paper/halts')).toHaveLength(1)
    expect((await desk.call('DELETE', '/paper/halts/OSPRY')).status).toBe(200)
    expect(await desk.get('/paper/halts')).toEqual([])
    await problem(desk.call('DELETE', '/paper/halts/OSPRY'), 409, 'not-possible')
    await problem(desk.call('POST', '/paper/halts', { symbol: 'NOBOD' }), 422, 'unknown-security')
  })
})
