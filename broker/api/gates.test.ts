import { describe, expect, it } from '@jest/globals'
import { type Order } from '@/core/orders/model'
import { type Gate } from '@/core/orders/gate'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

describe('gates of an account', () => {
  const wall = new Wall()
  let desk: Desk
  let folder: string
  deskFor(wall, (made, dataDir) => ([desk, folder] = [made, dataDir]))

  const set = (...gates: [name: string, rule: string, otherwise?: Gate['otherwise']][]) =>
    desk.call('PUT', '/paper/gates', {
      gates: gates.map(([name, rule, otherwise = 'Refuse']) => ({ name, rule, otherwise })),
    })
  let n = 0
  const send = (more: object = {}) =>
    desk.send({ clOrdId: `g-${n++}`, symbol: 'OSPRY', orderQty: 10, ...more })
  const stopped = async (more: object = {}) => (await problem(send(more), 422, 'stopped-by-gate')).detail
  const passes = async (more: object = {}) => {
    const answer = await send(more)
    expect([answer.status, (await answer.clone().json()).detail]).toEqual([201, undefined])
    return (await answer.json()) as Order
  }

  it('stop what their rule does not let pass, with value and limit in words; what closes passes', async () => {
    expect((await set(['largest order', 'order value <= 500'])).status).toBe(200)
    expect(await stopped({ orderQty: 100 })).toMatch(/largest order.*order value \$9\d\d.*500/)
    await passes({ orderQty: 10 })
    await desk.run(wall, 2)
    await set(['nothing', 'order value <= 1'])
    await passes({ side: 'Sell', orderQty: 10 })
    await desk.run(wall, 2)
  })

  it('know price, spread, loss, how many came today, in a minute, and the same again', async () => {
    const [{ last }] = await desk.get<{ last: number }[]>('/paper/quotes?symbols=OSPRY')
    await set(['collar', 'price away <= 2%'])
    expect(await stopped({ ordType: 'Limit', price: Math.round(last * 95) / 100 })).toContain('collar')
    await passes({ ordType: 'Limit', price: Math.round(last * 99) / 100 })
    await set(['spread', 'quoted spread <= 0.001%'])
    expect(await stopped()).toContain('spread')
    await set(['loss', 'order loss <= 5'])
    expect(await stopped({ exits: { stop: { percent: 10 } } })).toContain('loss')
    // Unknown does not pass: without a stop nobody knows the loss.
    expect(await stopped()).toContain('unknown')
    await passes({ exits: { stop: { percent: 1 } } })
    const today = (await desk.get<Order[]>('/paper/orders')).filter(
      (one) => one.role === 'Entry' && one.ordStatus !== 'Rejected' && one.side === 'Buy',
    ).length
    await set(['entries', `entries today < ${today + 1}`])
    await passes({ orderQty: 11 })
    expect(await stopped({ orderQty: 12 })).toContain('entries')
    await passes({ symbol: 'GANET', orderQty: 1 })
    await set(['pace', 'orders this minute < 1'])
    expect(await stopped({ orderQty: 13 })).toContain('pace')
    await desk.run(wall, 61)
    await passes({ orderQty: 13 })
    await set(['same again', 'minutes since same > 5'])
    expect(await stopped({ orderQty: 13 })).toContain('same again')
    await passes({ orderQty: 14 })
    await desk.run(wall, 301)
    await passes({ orderQty: 13 })
  })

  it('ask first: the order waits until another key approves it, and passes its checks again', async () => {
    await set(['ask above', 'order value <= 100', 'AskFirst'])
    const order = await passes({ clOrdId: 'big', orderQty: 20, exits: { stop: { percent: 3 } } })
    expect([order.ordStatus, order.approval]).toEqual(['PendingNew', 'ask above'])
    await desk.run(wall, 2)
    expect((await desk.order('big')).ordStatus).toBe('PendingNew')
    const own = await problem(desk.call('POST', '/paper/orders/big/approve'), 403, 'own-order')
    expect(own.mend).toContain('another key')
    const other = await desk.newKey(['manage-keys', 'see-account'])
    const token = await desk.askToken(other.keyId, other.secret)
    const approved = await desk.call('POST', '/paper/orders/big/approve', undefined, token)
    expect([approved.status, ((await approved.json()) as Order).ordStatus]).toEqual([200, 'New'])
    await desk.run(wall, 2)
    const filled = await desk.order('big')
    expect([filled.ordStatus, filled.text]).toEqual(['Filled', 'approved by test'])
    expect((await desk.order('big/stop')).ordStatus).toBe('New')
    await passes({ clOrdId: 'no', orderQty: 30 })
    const declined = await desk.call('POST', '/paper/orders/no/decline', undefined, token)
    expect(((await declined.json()) as Order).ordStatus).toBe('Rejected')
    // Its id is free again, and a change is no way around.
    await passes({ clOrdId: 'no', orderQty: 5, ordType: 'Limit', price: 5 })
    await problem(
      desk.call('PATCH', '/paper/orders/no', { clOrdId: 'no-2', orderQty: 500 }),
      422,
      'stopped-by-gate',
    )
  })

  it('stand after a restart, and what nobody approved ends with the session', async () => {
    await passes({ clOrdId: 'late', orderQty: 40, ordType: 'Limit', price: 8, timeInForce: 'GoodTillCancel' })
    await desk.reopen(folder, wall)
    expect((await desk.get<{ gates: Gate[] }>('/paper/gates')).gates).toMatchObject([{ name: 'ask above' }])
    await desk.world.setClock({ moveTo: Date.parse('2026-03-16T17:00:00-03:00') })
    const late = await desk.order('late')
    expect([late.ordStatus, late.text]).toEqual(['Expired', 'nobody approved it in this session'])
  })

  it('ask about the order only, in rule text that is sound', async () => {
    const wrong = await problem(set(['bars', 'close > 5']), 400, 'malformed-request')
    expect(wrong.detail).toContain('gates.0.rule')
    await problem(set(['typo', 'order valu <= 5']), 400, 'malformed-request')
    expect((await desk.get<{ gates: Gate[] }>('/paper/gates')).gates).toHaveLength(1)
  })
})
