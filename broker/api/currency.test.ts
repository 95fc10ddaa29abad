import { describe, expect, it } from '@jest/globals'
import { halfEven } from '@/core/market/money'
import { type Rate } from '@/core/market/wire'
import { type ExecutionReport, type Order } from '@/core/orders/model'
import { type Account, type LotView, type Position } from '@/core/orders/views'
import { type Desk, deskFor, Wall } from '@/tests/broker'

describe('an account that trades in another currency', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))
  const account = () => desk.get<Account>('/paper/account')
  const rate = async (date = '') => {
    const rates = await desk.get<Rate[]>(`/paper/rates${date && `?date=${date}`}`)
    return rates.find(({ from, to }) => from === 'EUR' && to === 'USD')!.rate
  }

  it('pays by the rate of the session before, told with the fill', async () => {
    const before = await account()
    const euro = await rate()
    expect(await rate('2026-03-16')).toBe(euro)
    expect((await desk.send({ clOrdId: 'euro', symbol: 'SUVAN', orderQty: 30 })).status).toBe(201)
    await desk.run(wall, 2)
    const order = await desk.order('euro')
    expect(order.ordStatus).toBe('Filled')
    // In the venue's own time.
    expect(order.transactTime).toMatch(/\+02:00$/)
    const fills = (await desk.get<ExecutionReport[]>('/paper/executions')).filter(
      (one) => one.execType === 'Trade',
    )
    let paidE4 = 0
    for (const { currency, settlCurrFxRate, lastQty, lastPx, commission } of fills) {
      expect([currency, settlCurrFxRate]).toEqual(['EUR', euro])
      paidE4 += halfEven(lastQty! * Math.round(lastPx! * 10_000) * euro) + Math.round(commission! * 10_000)
    }
    const after = await account()
    expect(after.cash).toBeCloseTo(before.cash - paidE4 / 10_000, 4)
    const [held] = await desk.get<Position[]>('/paper/positions')
    expect(held).toMatchObject({
      symbol: 'SUVAN',
      quantity: 30,
      avgPx: order.avgPx,
      rate: euro,
      currencyGain: 0,
    })
    expect(held.marketValue).toBeCloseTo(30 * held.last * euro, 3)
    // Cash, what is held and what it earned add up.
    expect(after.equity).toBeCloseTo(after.cash + held.marketValue, 4)
    expect(after.marginHeld).toBeCloseTo(held.marketValue / 2, 3)
  })

  it('tells what the rate has brought apart, as part of the profit', async () => {
    await desk.world.setClock({ moveTo: Date.parse('2026-03-24T10:42:00-03:00') })
    const now = await rate()
    const [[held], [lot]] = [
      await desk.get<Position[]>('/paper/positions'),
      await desk.get<LotView[]>('/paper/lots'),
    ]
    const was = (await desk.get<ExecutionReport[]>('/paper/executions')).find(
      (one) => one.settlCurrFxRate,
    )!.settlCurrFxRate!
    expect(now).not.toBe(was)
    expect(held.currencyGain).toBeCloseTo(30 * lot.price * (now - was), 3)
    expect(held.unrealized).toBeCloseTo(30 * held.last * now - 30 * lot.price * was, 3)
    expect((await account()).currencyGain).toBe(held.currencyGain)
    await desk.send({ clOrdId: 'out', symbol: 'SUVAN', side: 'Sell', orderQty: 30 })
    await desk.run(wall, 3)
    const { avgPx } = (await desk.order('out')) as Order
    const after = await account()
    expect([after.currencyGain, after.currencyRealizedToday]).toEqual([0, held.currencyGain])
    expect(after.realizedToday).toBeCloseTo(30 * avgPx * now - 30 * lot.price * was, 2)
  })

  it('lives through both venues in time order: their orders end with their own sessions', async () => {
    await desk.world.setClock({ moveTo: Date.parse('2026-03-25T09:40:00-03:00') })
    for (const [clOrdId, symbol] of [
      ['north', 'SUVAN'],
      ['home', 'OSPRY'],
    ])
      await desk.send({ clOrdId, symbol, orderQty: 10, ordType: 'Limit', price: 1 })
    await desk.world.setClock({ moveTo: Date.parse('2026-03-25T23:00:00-03:00') })
    const [north, home] = [await desk.order('north'), await desk.order('home')]
    expect([north.ordStatus, home.ordStatus]).toEqual(['Expired', 'Expired'])
    expect(Date.parse(north.transactTime)).toBeLessThan(Date.parse(home.transactTime))
    const times = (await desk.get<ExecutionReport[]>('/paper/executions')).map((one) =>
      Date.parse(one.transactTime),
    )
    expect(times).toEqual(times.toSorted((a, b) => a - b))
  })
})
