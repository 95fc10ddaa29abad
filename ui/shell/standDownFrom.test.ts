import { expect, it } from '@jest/globals'
import { type Broker } from '@/client'
import { type NewOrder, type Order } from '@/core/orders/model'
import { originOf } from '@/core/plans/ids'
import { endPlanAt } from './standDownFrom'

const PUT = 'BUOYS 260619P00072500'
const CALL = 'BUOYS 260619C00092500'
const LEGS = [
  { symbol: PUT, legSide: 'SellShort' as const, legRatioQty: 1 },
  { symbol: CALL, legSide: 'Buy' as const, legRatioQty: 2 },
]

it('a plan that is stood down from takes back its entries and closes what it holds, contracts together as far as they are there', async () => {
  const origin = (id: string) => originOf({ id, name: id, version: 1 }, 'entry', 'a signal')
  const order = (part: Partial<Order>) => ({ ordStatus: 'New', cumQty: 0, ...part }) as Order
  const working = [
    order({ clOrdId: 'own', symbol: 'OSPRY', origin: origin('mine') }),
    order({ clOrdId: 'other', symbol: 'OSPRY', origin: origin('theirs') }),
  ]
  const all = [
    ...working,
    order({ clOrdId: 'whole', symbol: 'BUOYS', legs: LEGS, cumQty: 5, origin: origin('mine') }),
  ]
  const canceled: string[] = []
  const sent: NewOrder[] = []
  const broker = {
    orders: (which: string) => Promise.resolve(which === 'all' ? all : working),
    // A hand has closed two of five.
    positions: () =>
      Promise.resolve([
        { symbol: PUT, quantity: -3 },
        { symbol: CALL, quantity: 10 },
      ]),
    cancel: (id: string) => Promise.resolve(canceled.push(id)),
    send: (one: NewOrder) =>
      one.symbol === 'GANET' ? Promise.reject(new Error('halted')) : Promise.resolve(sent.push(one)),
  } as unknown as Broker
  const done = await endPlanAt(broker, 'mine', { BUOYS: 5, OSPRY: -40, GANET: 7 })
  expect(canceled).toEqual(['own'])
  expect(sent).toMatchObject([
    {
      ...{ symbol: 'BUOYS', side: 'Buy', orderQty: 3, ordType: 'Market' },
      legs: [
        { symbol: PUT, legSide: 'Buy', legRatioQty: 1 },
        { symbol: CALL, legSide: 'Sell', legRatioQty: 2 },
      ],
    },
    { symbol: 'OSPRY', side: 'Buy', orderQty: 40, positionEffect: 'Close' },
  ])
  expect(done).toMatchObject({ canceled: ['own'], left: [expect.stringMatching(/GANET.*halted/)] })
  expect(done.closing).toHaveLength(2)
})
