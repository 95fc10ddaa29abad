import { describe, expect, it } from '@jest/globals'
import { fromE4, toE4 } from '@/core/market/money'
import { standing } from '@/core/book/value'
import { emptyBook, takeReport } from '@/core/book/book'
import { ClOrdId, isWorking, type NewOrder, type Order } from '@/core/orders/model'
import { openWorld, order, reportsOf, runOn, type Wall, worldForEach } from '@/tests/broker'
import { type World } from './world'

let folder: string
let wall: Wall
let world: World
worldForEach(
  (...made) => ([world, folder, wall] = made),
  () => world,
)

const run = (seconds: number) => runOn(world, wall, seconds)

const find = (clOrdId: string): Order => world.main.book.orders[world.main.book.byClOrdId[clOrdId]]
const bracket = { exits: { stop: { percent: 3 }, target: { percent: 7 } } }

describe('an account comes back from its journal', () => {
  it('the same orders, holdings, cash and clock after a restart', async () => {
    await world.submit(order('r-1', bracket))
    await world.submit(order('r-2', { ordType: 'Limit', price: 2, timeInForce: 'GoodTillCancel' }))
    await run(30)
    await world.submit(order('r-3', { side: 'Sell', orderQty: 5000 }))
    const before = { ...world.main.book, at: world.clock.now() }
    await world.close()
    world = await openWorld(folder, wall)
    expect(world.main.book.orders).toEqual(before.orders)
    expect(world.main.book.holdings).toEqual(before.holdings)
    expect(world.main.book.cashE4).toBe(before.cashE4)
    expect(world.clock.now()).toBe(before.at)
  })

  it('an order acknowledged but not yet shown to the book fills after the restart', async () => {
    const { order: sent } = await world.act(() => world.main.submit(order('late'), world.clock.now()))
    expect(sent.ordStatus).toBe('New')
    await world.close()
    world = await openWorld(folder, wall)
    await run(3)
    expect(find('late').ordStatus).toBe('Filled')
  })

  it('reports folded from the stream give the broker’s own book', async () => {
    await world.submit(order('f-1', bracket))
    await run(20)
    const folded = emptyBook(toE4(50_000))
    for (const report of reportsOf(world)) takeReport(folded, report)
    for (const report of reportsOf(world)) takeReport(folded, report)
    expect(folded.orders).toEqual(world.main.book.orders)
    expect(folded.cashE4).toBe(world.main.book.cashE4)
    expect(() => takeReport(folded, { ...reportsOf(world)[0], seq: folded.seq + 2 })).toThrow(
      'some are missing',
    )
  })
})

describe('orders in the market', () => {
  it('a Limit order never trades worse than its limit, and waits for it', async () => {
    const { last } = world.market.quoteAt(world.market.find('OSPRY')!, world.clock.now())
    const price = fromE4(Math.floor((last * 0.995) / 100) * 100)
    await world.submit(order('l-1', { ordType: 'Limit', price, timeInForce: 'GoodTillCancel' }))
    for (let day = 0; day < 15 && isWorking(find('l-1').ordStatus); day++)
      await world.setClock({ moveTo: world.market.nextSession(world.clock.now()).close + 1000 })
    const { chain, ordStatus } = find('l-1')
    expect(ordStatus).toBe('Filled')
    for (const step of chain.filter((s) => s.lastPx)) expect(step.lastPx).toBeLessThanOrEqual(price)
  })

  it('one exit filled cancels the other, and the position is closed once', async () => {
    await world.submit(order('o-1', { exits: { stop: { percent: 0.5 }, target: { percent: 0.5 } } }))
    await run(5)
    for (let day = 0; day < 15 && isWorking(find('o-1/stop').ordStatus); day++)
      await world.setClock({ moveTo: world.market.nextSession(world.clock.now()).close + 1000 })
    const states = [find('o-1/stop').ordStatus, find('o-1/target').ordStatus].sort()
    expect(states).toEqual(['Canceled', 'Filled'])
    expect(world.main.book.holdings.OSPRY.quantity).toBe(0)
  })

  it('a Day order ends with the session, with the exits of what never filled', async () => {
    await world.submit(order('d-1', { ordType: 'Limit', price: 2, ...bracket }))
    await world.setClock({ moveTo: world.market.nextSession(world.clock.now()).close + 1000 })
    expect([find('d-1'), find('d-1/stop'), find('d-1/target')].map((o) => o.ordStatus)).toEqual([
      'Expired',
      'Canceled',
      'Canceled',
    ])
  })

  it('a Stop order is set off by a trade at its level, then trades at the market', async () => {
    const { last } = world.market.quoteAt(world.market.find('OSPRY')!, world.clock.now())
    const stopPx = fromE4(Math.ceil((last * 1.004) / 100) * 100)
    await world.submit(order('s-1', { ordType: 'Stop', stopPx, timeInForce: 'GoodTillCancel' }))
    for (let day = 0; day < 15 && isWorking(find('s-1').ordStatus); day++)
      await world.setClock({ moveTo: world.market.nextSession(world.clock.now()).close + 1000 })
    expect(find('s-1').chain.map((s) => s.execType)).toEqual(
      expect.arrayContaining(['New', 'TriggeredOrActivatedBySystem', 'Trade']),
    )
  })
})

describe('nothing is opened that was not asked for, nor paid for', () => {
  const refusal = async (clOrdId: string, part: Partial<NewOrder>) =>
    (await world.submit(order(clOrdId, part))).refused?.code
  const quantity = (symbol = 'OSPRY') => world.main.book.holdings[symbol]?.quantity ?? 0
  const quote = () => world.market.quoteAt(world.market.find('OSPRY')!, world.clock.now())

  it('a price that is typed does not make an order cheap', async () => {
    expect(await refusal('a', { side: 'SellShort', orderQty: 100_000, ordType: 'Limit', price: 0.01 })).toBe(
      'buying-power',
    )
    expect(await refusal('b', { orderQty: 100_000, ordType: 'Stop', stopPx: 0.5 })).toBe('buying-power')
    expect(quantity()).toBe(0)
  })

  it('shares held short are covered once, however many orders would', async () => {
    await world.submit(order('short', { side: 'SellShort', orderQty: 200 }))
    await run(60)
    expect(quantity()).toBe(-200)
    const limit = { ordType: 'Limit' as const, price: fromE4(quote().bid - 500), orderQty: 200 }
    expect(await refusal('c-0', limit)).toBeUndefined()
    for (let k = 1; k < 5; k++) expect(await refusal(`c-${k}`, limit)).toBe('shares-held')
    expect(await refusal('more', { orderQty: 201 })).toBe('shares-held')
  })

  it('a Buy that closes a short position takes no exits, and none is left that would open one', async () => {
    await world.submit(order('short', { side: 'SellShort', orderQty: 50, ...bracket }))
    await run(60)
    expect(quantity()).toBe(-50)
    expect(await refusal('with', { orderQty: 50, exits: { stop: { percent: 0.5 } } })).toBe('shares-held')
    expect(await refusal('plain', { orderQty: 50 })).toBeUndefined()
    for (let day = 0; day < 30; day++)
      await world.setClock({ moveTo: world.market.nextSession(world.clock.now()).close + 1000 })
    expect(quantity()).toBe(0)
  })

  it('a resting short sale and a purchase do not cross each other', async () => {
    const above = { ordType: 'Limit' as const, price: fromE4(quote().ask + 1_000) }
    expect(await refusal('rests', { side: 'SellShort', orderQty: 10, ...above })).toBeUndefined()
    expect(await refusal('buys', { orderQty: 5 })).toBe('shares-held')
    await world.cancel(find('rests'))
    const below = { ordType: 'Limit' as const, price: fromE4(quote().bid - 1_000) }
    expect(await refusal('waits', { orderQty: 5, ...below })).toBeUndefined()
    expect(await refusal('shorts', { side: 'SellShort', orderQty: 10 })).toBe('shares-held')
  })

  it('a stop above where a Buy would be filled is refused, whatever its limit says', async () => {
    const ask = fromE4(quote().ask)
    const far = { price: Math.round((ask + 1.2) * 100) / 100, exits: { stop: { price: 0 } } }
    far.exits.stop.price = Math.round((ask + 0.6) * 100) / 100
    expect(await refusal('d', { ordType: 'Limit', ...far })).toBe('exit-side')
  })

  it('an id of an attached exit cannot be taken by a sender', async () => {
    await world.submit(order('px', bracket))
    expect(find('px/stop').role).toBe('Stop')
    expect(ClOrdId.safeParse('px/stop').success).toBe(false)
  })

  it('what was reckoned when it was sent is reckoned again when it trades', async () => {
    const power = standing(
      world.main.book,
      world.main.exchange.pricesAt(world.clock.now()),
      '2026-03-16',
    ).buyingPowerE4
    // Half a cent of commission a share takes twice as much buying power.
    const most = Math.floor(power / (quote().ask + 100))
    expect(await refusal('all', { orderQty: most })).toBeUndefined()
    for (let day = 0; day < 3; day++)
      await world.setClock({ moveTo: world.market.nextSession(world.clock.now()).close + 1000 })
    const { chain, avgPx, cumQty } = find('all')
    // Regulation T (12 CFR 220.12): half of what was bought is paid for by the account.
    expect(Math.round(cumQty * avgPx)).toBeLessThanOrEqual(100_000)
    expect(chain.length).toBeGreaterThan(1)
    expect(['Filled', 'Canceled']).toContain(find('all').ordStatus)
  })
})
