import { describe, expect, it } from '@jest/globals'
import { type Order } from '@/core/orders/model'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

let desk: Desk
const wall = new Wall()

deskFor(wall, (opened) => (desk = opened))

const sent = async (order: object): Promise<Order> =>
  (await (await desk.send({ symbol: 'OSPRY', orderQty: 10, ...order } as never)).json()) as Order
const move = (body: object) => desk.call('POST', '/paper/market-time', body)
const dayBar = async (date: string) =>
  (
    await desk.get<{ bars: { open: number; close: number }[] }>(
      `/paper/securities/OSPRY/bars?every=1%20day&from=${date}&to=${date}&prices=as-traded`,
    )
  ).bars[0]

describe('orders that last until a date', () => {
  it('say their last session, in sessions or by a date that is none, and end with it', async () => {
    const limit = { ordType: 'Limit', price: 1.5, timeInForce: 'GoodTillDate' }
    expect(await sent({ ...limit, clOrdId: 'g-1', expireSessions: 1 })).toMatchObject({
      expireDate: '2026-03-16',
    })
    // 2026-03-21 is a Saturday (ISO 8601 calendar): Friday is the last session before it.
    expect(await sent({ ...limit, clOrdId: 'g-2', expireDate: '2026-03-21' })).toMatchObject({
      expireDate: '2026-03-20',
    })
    expect(await sent({ ...limit, clOrdId: 'g-6', expireSessions: 6 })).toMatchObject({
      expireDate: '2026-03-23',
    })
    const past = desk.send({ symbol: 'OSPRY', ...limit, clOrdId: 'g-0', expireDate: '2026-03-13' } as never)
    await problem(past, 422, 'expiry-past')
    await move({ jumpTo: 'close' })
    const states = async () =>
      Promise.all(['g-1', 'g-2', 'g-6'].map(async (id) => (await desk.order(id)).ordStatus))
    expect(await states()).toEqual(['Expired', 'New', 'New'])
    for (let day = 0; day < 4; day++) await move({ jumpTo: 'close' })
    expect(await states()).toEqual(['Expired', 'Expired', 'New'])
  })

  it.each([
    [{ timeInForce: 'GoodTillDate' }, 'expireDate or expireSessions'],
    [{ expireDate: '2026-05-01' }, 'takes no expireDate'],
    [{ ordType: 'TrailingStop' }, 'needs trail'],
    [{ ordType: 'Market', trail: { percent: 2 } }, 'takes no trail'],
    [{ ordType: 'Stop', stopPx: 5, timeInForce: 'AtTheClose' }, 'waits for its price'],
    [{ exits: { target: { risk: 2 } } }, 'give a stop'],
  ])('%j is refused by name', async (order, why) => {
    const full = { clOrdId: 'odd', symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Market', ...order }
    const refused = await problem(desk.call('POST', '/paper/orders', full), 400, 'malformed-request')
    expect(refused.detail).toContain(why)
  })
})

describe('orders of an auction', () => {
  it('trade at the open and at the close of the day’s bar', async () => {
    // After the close: it waits for the next day.
    await sent({ clOrdId: 'open', timeInForce: 'AtTheOpening' })
    await sent({ clOrdId: 'close', timeInForce: 'AtTheClose' })
    await desk.run(wall, 5)
    expect((await desk.order('open')).ordStatus).toBe('New')
    await move({ jumpTo: 'open' })
    const [{ date }] = await desk.get<{ date: string }[]>('/paper/venues')
    expect(await desk.order('open')).toMatchObject({ ordStatus: 'Filled', tradeDate: date })
    expect((await desk.order('close')).ordStatus).toBe('New')
    await move({ jumpTo: 'close' })
    const { open, close } = await dayBar(date)
    expect((await desk.order('open')).avgPx).toBe(open)
    expect(await desk.order('close')).toMatchObject({ ordStatus: 'Filled', avgPx: close })
  })
})

describe('a stop that trails', () => {
  it('stands behind the highest price of the minutes since it came', async () => {
    await move({ jumpTo: 'open' })
    await sent({ clOrdId: 'held' })
    await desk.run(wall, 60)
    const stop = await sent({
      ...{ clOrdId: 'trail', side: 'Sell', ordType: 'TrailingStop', trail: { amount: 0.5 } },
      timeInForce: 'GoodTillCancel',
    })
    const from = stop.transactTime
    await move({ step: 1800 })
    const now = await desk.order('trail')
    const { bars } = await desk.get<{ bars: { high: number }[] }>(
      `/paper/securities/OSPRY/bars?every=1%20min&from=${encodeURIComponent(from)}&prices=as-traded&soFar=true`,
    )
    const best = Math.max(...bars.map((bar) => bar.high))
    expect(now.stopPx).toBeLessThanOrEqual(best - 0.5 + 1e-9)
    expect(now.stopPx).toBeGreaterThan(stop.stopPx!)
    // The highest of the seconds, which is what it sees, lies at or below that of the minutes.
    expect(now.stopPx).toBeGreaterThan(best - 0.5 - 0.05)
    expect(now.chain.filter((step) => step.execType === 'Restated')).toHaveLength(1)
  })
})

describe('a large order', () => {
  it('takes no more than what is displayed and then what is traded, each part at a worse price at first', async () => {
    await move({ jumpTo: 'open' })
    await desk.run(wall, 60)
    const { usualVolume } = desk.world.markets.find('HERRG')!
    const cash = { account: 'LARGE', cash: 1_000_000_000, margin: false }
    expect((await desk.call('POST', '/paper/accounts', cash)).status).toBe(201)
    const orderQty = Math.round(usualVolume / 2)
    const began = desk.world.clock.now()
    const order = { clOrdId: 'large', symbol: 'HERRG', side: 'Buy', ordType: 'Market' } as const
    const fills = async () =>
      (await desk.get<Order[]>('/paper/orders?account=LARGE'))[0].chain.flatMap(({ lastQty, lastPx }) =>
        lastQty ? [{ lastQty, lastPx: lastPx! }] : [],
      )
    await desk.call('POST', '/paper/orders', { ...order, orderQty, account: 'LARGE' })
    await desk.run(wall, 2)
    const first = await fills()
    expect(first.length).toBeGreaterThan(3)
    for (let i = 1; i < 5; i++) expect(first[i].lastPx).toBeGreaterThanOrEqual(first[i - 1].lastPx)
    await desk.run(wall, 600)
    const { market } = desk.world
    const taken = (await fills()).reduce((sum, { lastQty }) => sum + lastQty, 0)
    const traded = market.tradedBetween(market.find('HERRG')!, began, desk.world.clock.now())!.volume
    const displayed = 10 * Math.max(100, Math.round(usualVolume / 2_500 / 100) * 100) + 1000
    expect(taken).toBeGreaterThan(0.5 * traded)
    expect(taken).toBeLessThan(traded + displayed)
  })
})
