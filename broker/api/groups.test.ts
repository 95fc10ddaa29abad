import { describe, expect, it } from '@jest/globals'
import { type Order } from '@/core/orders/model'
import { type GroupView, type Position } from '@/core/orders/views'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

describe('groups of orders', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))
  const groups = () => desk.get<GroupView[]>('/paper/groups')

  it('a pair is one line with one profit, and is closed together', async () => {
    await desk.send({ clOrdId: 'own', symbol: 'GANET', orderQty: 30 })
    for (const [clOrdId, symbol, side] of [
      ['pair-1', 'GANET', 'Buy'],
      ['pair-2', 'OSPRY', 'SellShort'],
    ] as const)
      expect((await desk.send({ clOrdId, symbol, side, orderQty: 20, group: 'pair' })).status).toBe(201)
    await desk.run(wall, 2)
    const [pair, ...others] = await groups()
    expect(others).toEqual([])
    expect(pair.legs.map(({ symbol, quantity }) => [symbol, quantity])).toEqual([
      ['GANET', 20],
      ['OSPRY', -20],
    ])
    expect(pair.profit).toBeCloseTo(pair.unrealized - 0.2, 4)
    const closed = await desk.call('POST', '/paper/groups/pair/close', { clOrdId: 'out' })
    expect(((await closed.json()) as Order[]).map(({ clOrdId, side }) => [clOrdId, side])).toEqual([
      ['out.GANET', 'Sell'],
      ['out.OSPRY', 'Buy'],
    ])
    await desk.run(wall, 2)
    const [after] = await groups()
    expect([after.legs, after.unrealized, after.commission]).toEqual([[], 0, 0.4])
    expect(after.profit).toBeCloseTo(after.realized - 0.4, 4)
    // What was bought beside the group stays, also where it was bought first.
    const held = (await desk.get<Position[]>('/paper/positions')).filter(({ quantity }) => quantity !== 0)
    expect(held.map(({ symbol, quantity }) => [symbol, quantity])).toEqual([['GANET', 30]])
    await problem(desk.call('POST', '/paper/groups/pair/close', { clOrdId: 'again' }), 409, 'not-possible')
  })
})

describe('what orders may say besides', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))

  it('an amount of money instead of a quantity: whole lots of it, and what it came from', async () => {
    const origin = { from: 'Plan' as const, name: 'first range', version: '3', signal: '2026-03-16 09:45' }
    const sent = await desk.send({
      clOrdId: 'cash',
      symbol: 'OSPRY',
      orderQty: undefined,
      cashOrderQty: 1000,
      origin,
    })
    const order = (await sent.json()) as Order
    const [{ ask }] = await desk.get<{ ask: number }[]>('/paper/quotes?symbols=OSPRY')
    expect(order.orderQty).toBe(Math.floor(1000 / ask))
    expect(order.origin).toEqual(origin)
    const little = await problem(
      desk.send({ clOrdId: 'little', symbol: 'OSPRY', orderQty: undefined, cashOrderQty: 3 }),
      422,
      'quantity-not-whole',
    )
    expect(little.mend).toContain(String(ask))
    await problem(desk.send({ clOrdId: 'both', symbol: 'OSPRY', cashOrderQty: 3 }), 400, 'malformed-request')
  })

  it('a short sale of what cannot be borrowed is refused, with how many there are', async () => {
    const world = desk.world
    const date = world.market.sessionsBegunBy(world.clock.now()).at(-1)!.date
    const hard = world.market.listing.find((one) => world.markets.borrowableOf(one, date) !== undefined)!
    const most = world.markets.borrowableOf(hard, date)!
    const refused = await problem(
      desk.send({ clOrdId: 'hard', symbol: hard.symbol, side: 'SellShort', orderQty: most + 1 }),
      422,
      'shares-not-to-be-borrowed',
    )
    expect(refused.detail).toContain(`there are ${most} to be had`)
  })

  it('a close-only Buy of what is not short, and an order that nothing would set off, are refused', async () => {
    await problem(
      desk.send({ clOrdId: 'close', symbol: 'OSPRY', positionEffect: 'Close' }),
      422,
      'shares-not-held',
    )
    await problem(
      desk.send({ clOrdId: 'after', symbol: 'OSPRY', triggerClOrdId: 'nobody' }),
      422,
      'trigger-not-working',
    )
  })
})
