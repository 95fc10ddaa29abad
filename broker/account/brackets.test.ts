import { expect, it } from '@jest/globals'
import { type Position } from '@/core/orders/views'
import { type Desk, deskFor, Wall } from '@/tests/broker'

const wall = new Wall()
let desk: Desk
deskFor(wall, (opened) => (desk = opened))

it('a position lists every stop and target with its shares, and the shares that no stop covers', async () => {
  const bracket = (clOrdId: string, orderQty: number, stop: number, target: number) =>
    desk.send({
      clOrdId,
      symbol: 'OSPRY',
      orderQty,
      exits: { stop: { percent: stop }, target: { percent: target } },
    })
  await bracket('first', 60, 10, 20)
  await bracket('second', 40, 5, 30)
  await desk.run(wall, 5)
  // And thirty without anything.
  await desk.send({ clOrdId: 'bare', symbol: 'OSPRY', orderQty: 30 })
  await desk.run(wall, 5)
  const [held] = await desk.get<Position[]>('/paper/positions')
  const shown = held.exits.map(({ role, quantity }) => [role, quantity])
  // The nearest first: 5 %, 10 %, 20 % and 30 % away.
  expect(shown).toEqual([
    ...[
      ['Stop', 40],
      ['Stop', 60],
      ['Target', 60],
      ['Target', 40],
    ],
  ])
  expect([held.quantity, held.withoutStop, held.stopPx, held.targetPx]).toEqual([
    ...[130, 30, held.exits[0].price, held.exits[2].price],
  ])
  // A stop by hand covers what was bare.
  await desk.send({
    ...{ clOrdId: 'by-hand', symbol: 'OSPRY', side: 'Sell', orderQty: 30, ordType: 'Stop' },
    ...{ stopPx: Math.floor(held.last * 80) / 100, timeInForce: 'GoodTillCancel' },
  })
  await desk.run(wall, 5)
  const [covered] = await desk.get<Position[]>('/paper/positions')
  expect([covered.withoutStop, covered.exits.length]).toEqual([0, 5])
})
