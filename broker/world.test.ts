import { afterEach, beforeEach, describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { fromE4, toE4 } from '@/core/market/money'
import { standing } from '@/core/book/value'
import { attachedOrders, type Book, bookOf, emptyBook, takeReport, workingOrders } from '@/core/book/book'
import {
  ClOrdId,
  type ExecutionReport,
  hasLimit,
  hasStop,
  isAtOnce,
  isInAuction,
  isWorking,
  type NewOrder,
  type Order,
  type OrdType,
  TimeInForce,
  waitsForPrice,
} from '@/core/orders/model'
import { type Side } from '@/core/orders/legs'
import { type Exits } from '@/core/orders/exits'
import { openWorld, tempDir, Wall } from '@/tests/broker'
import { type World } from './world'

let dir: Awaited<ReturnType<typeof tempDir>>
let wall: Wall
let world: World
beforeEach(async () => {
  dir = await tempDir()
  wall = new Wall()
  world = await openWorld(dir.path, wall)
})
afterEach(async () => {
  await world.close()
  await dir.remove()
})

const order = (clOrdId: string, part: Partial<NewOrder> = {}): NewOrder => ({
  clOrdId,
  symbol: 'OSPRY',
  side: 'Buy',
  orderQty: 100,
  ordType: 'Market',
  timeInForce: 'Day',
  ...part,
})

async function run(seconds: number): Promise<void> {
  wall.pass(seconds)
  await world.tick()
  await world.tick()
}

const find = (clOrdId: string): Order => world.main.book.orders[world.main.book.byClOrdId[clOrdId]]
const bracket = { exits: { stop: { percent: 3 }, target: { percent: 7 } } }

/** All reports of the first account, oldest first. */
const reportsOf = (of: World): ExecutionReport[] =>
  Array.from({ length: of.main.reports.length }, (_, i) => of.main.reports.get(i + 1))

describe('an account comes back from its journal', () => {
  it('the same orders, holdings, cash and clock after a restart', async () => {
    await world.submit(order('r-1', bracket))
    await world.submit(order('r-2', { ordType: 'Limit', price: 2, timeInForce: 'GoodTillCancel' }))
    await run(30)
    await world.submit(order('r-3', { side: 'Sell', orderQty: 5000 }))
    const before = { ...world.main.book, at: world.clock.now() }
    await world.close()
    world = await openWorld(dir.path, wall)
    expect(world.main.book.orders).toEqual(before.orders)
    expect(world.main.book.holdings).toEqual(before.holdings)
    expect(world.main.book.cashE4).toBe(before.cashE4)
    expect(world.clock.now()).toBe(before.at)
  })

  it('an order acknowledged but not yet shown to the book fills after the restart', async () => {
    const { order: sent } = await world.act(() => world.main.submit(order('late'), world.clock.now()))
    expect(sent.ordStatus).toBe('New')
    await world.close()
    world = await openWorld(dir.path, wall)
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
    const most = Math.floor(power / quote().ask)
    await world.submit(order('all', { orderQty: most }))
    for (let day = 0; day < 3; day++)
      await world.setClock({ moveTo: world.market.nextSession(world.clock.now()).close + 1000 })
    const { chain, avgPx, cumQty } = find('all')
    // Regulation T (12 CFR 220.12): half of what was bought is paid for by the account.
    expect(Math.round(cumQty * avgPx)).toBeLessThanOrEqual(100_000)
    expect(chain.length).toBeGreaterThan(1)
    expect(['Filled', 'Canceled']).toContain(find('all').ordStatus)
  })
})

/** What must be true of an account whatever was done to it. */
function expectWhole(): void {
  // What is looked up instead of looked for.
  const { book } = world.main
  expect(bookOf(JSON.parse(JSON.stringify(book)) as Book)).toEqual(JSON.parse(JSON.stringify(book)))
  const all = Object.values(book.orders)
  const working = all.filter((one) => isWorking(one.ordStatus))
  expect(workingOrders(book)).toEqual(working)
  expect(Object.keys(book.working).sort()).toEqual([...new Set(working.map((o) => o.symbol))].sort())
  for (const symbol of Object.keys(book.working))
    expect(workingOrders(book, symbol)).toEqual(working.filter((one) => one.symbol === symbol))
  for (const { orderId } of all)
    expect(attachedOrders(book, orderId)).toEqual(all.filter((one) => one.parentOrderId === orderId))
  const bought = new Map<string, number>()
  let cashE4 = toE4(50_000)
  const seen = new Map<string, ExecutionReport>()
  reportsOf(world).forEach((report, i) => {
    expect(report.seq).toBe(i + 1)
    const before = seen.get(report.orderId)
    if (before && !isWorking(before.ordStatus))
      throw new Error(`${report.orderId} went on after ${before.ordStatus}`)
    expect(report.cumQty).toBeGreaterThanOrEqual(before?.cumQty ?? 0)
    if (isWorking(report.ordStatus)) expect(report.cumQty + report.leavesQty).toBe(report.orderQty)
    else if (report.ordStatus !== 'Filled') expect(report.leavesQty).toBe(0)
    if (report.lastQty) {
      const signed = (report.side === 'Buy' ? 1 : -1) * report.lastQty
      bought.set(report.symbol, (bought.get(report.symbol) ?? 0) + signed)
      cashE4 -= signed * toE4(report.lastPx!) + toE4(report.commission!)
    }
    seen.set(report.orderId, report)
  })
  for (const { amount } of world.main.book.bookings) cashE4 += toE4(amount)
  expect(world.main.book.cashE4).toBe(cashE4)
  for (const [symbol, quantity] of bought) expect(world.main.book.holdings[symbol].quantity).toBe(quantity)
  const active = Object.values(world.main.book.orders).filter((o) => o.ordStatus !== 'Rejected')
  expect(new Set(active.map((o) => o.clOrdId)).size).toBe(active.length)
  // Exits never promise more than their entry has bought, less what the other exit has sold already.
  for (const exit of active.filter(
    (o) => o.role !== 'Entry' && (o.ordStatus === 'New' || o.ordStatus === 'PartiallyFilled'),
  )) {
    const entry = world.main.book.orders[exit.parentOrderId!]
    expect(exit.leavesQty).toBeLessThanOrEqual(entry.cumQty)
  }
  // Neither exits nor closes by hand rest on more than is held, however they rest beside each other.
  for (const symbol of Object.keys(book.working)) {
    const held = Math.abs(bought.get(symbol) ?? 0)
    const resting = workingOrders(book, symbol).filter((one) => one.ordStatus !== 'PendingNew')
    const groups = new Map<string, number>()
    for (const { role, parentOrderId, part = 0, leavesQty } of resting) {
      const key = `${parentOrderId} ${part}`
      if (role !== 'Entry') groups.set(key, Math.max(groups.get(key) ?? 0, leavesQty))
    }
    expect([...groups.values()].reduce((sum, n) => sum + n, 0)).toBeLessThanOrEqual(held)
    const sold = resting.filter((one) => one.role === 'Entry' && one.side === 'Sell')
    expect(sold.reduce((sum, one) => sum + one.leavesQty, 0)).toBeLessThanOrEqual(held)
  }
  const { equityE4, marginE4, reservedE4 } = standing(
    world.main.book,
    world.main.exchange.pricesAt(world.clock.now()),
    world.main.today(world.clock.now()),
  )
  const worthE4 = [...bought].reduce(
    (sum, [symbol, n]) => sum + n * world.market.quoteAt(world.market.find(symbol)!, world.clock.now()).last,
    0,
  )
  expect(equityE4).toBe(cashE4 + worthE4)
  expect(Math.min(marginE4, reservedE4)).toBeGreaterThanOrEqual(0)
}

type Act =
  | {
      do: 'send'
      side: Side
      symbol: string
      quantity: number
      type: OrdType
      good: TimeInForce
      off: number
      exits: Exits | undefined
      id: number
      tied: Partial<NewOrder>
    }
  | { do: 'cancel'; which: number }
  | { do: 'replace'; which: number; quantity: number; off: number; id: number }
  | { do: 'run'; seconds: number }
  | { do: 'restart' }

const acts: fc.Arbitrary<Act> = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constant('send' as const),
      side: fc.constantFrom<Side>('Buy', 'Sell', 'SellShort'),
      symbol: fc.constantFrom('OSPRY', 'GANET', 'HERRG'),
      quantity: fc.integer({ min: 1, max: 900 }),
      type: fc.constantFrom<OrdType>('Market', 'Limit', 'Stop', 'StopLimit', 'TrailingStop'),
      good: fc.constantFrom<TimeInForce>(...TimeInForce.options),
      off: fc.integer({ min: -8, max: 8 }),
      exits: fc.constantFrom<Exits | undefined>(
        undefined,
        { stop: { ticks: 6 }, target: { ticks: 9 } },
        { stop: { trail: { amount: 0.05 } }, target: { risk: 1.5 } },
        { stop: { total: 12 }, target: { amount: 0.09 } },
        { parts: [{ share: 40, target: { ticks: 7 }, stop: { ticks: 5 } }, { stop: { ticks: 8 } }] },
        { stop: { ticks: 6 }, wrongSide: 'Refuse' },
      ),
      tied: fc.constantFrom<Partial<NewOrder>>(
        {},
        {},
        { clOrdLinkId: 'either' },
        { triggerClOrdId: 'm-3' },
        { triggerClOrdId: 'm-7', clOrdLinkId: 'either' },
        { group: 'pair' },
        { positionEffect: 'Close' },
      ),
      // Few ids, so that some are used twice.
      id: fc.integer({ min: 0, max: 30 }),
    }),
  },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('cancel' as const), which: fc.nat(20) }) },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('replace' as const),
      which: fc.nat(20),
      quantity: fc.integer({ min: 1, max: 900 }),
      off: fc.integer({ min: -8, max: 8 }),
      id: fc.integer({ min: 0, max: 60 }),
    }),
  },
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('run' as const),
      seconds: fc.constantFrom(1, 5, 60, 900, 7200, 86_400),
    }),
  },
  { weight: 1, arbitrary: fc.constant({ do: 'restart' as const }) },
)

async function perform(act: Act): Promise<void> {
  if (act.do === 'run') return run(act.seconds)
  if (act.do === 'restart') {
    await world.close()
    world = await openWorld(dir.path, wall)
    return
  }
  if (act.do === 'cancel') {
    const working = Object.values(world.main.book.orders).filter((o) => isWorking(o.ordStatus))
    if (working.length > 0) await world.cancel(working[act.which % working.length])
    return
  }
  if (act.do === 'replace') {
    const working = workingOrders(world.main.book)
    if (working.length === 0) return
    const before = working[act.which % working.length]
    const { last } = world.market.quoteAt(world.market.find(before.symbol)!, world.clock.now())
    const price = fromE4(last + act.off * 100)
    const change = {
      clOrdId: `m-${act.id}`,
      ...(before.role === 'Entry' ? { orderQty: act.quantity } : {}),
      ...(hasLimit(before.ordType) ? { price } : {}),
      ...(hasStop(before.ordType) ? { stopPx: price } : {}),
    }
    await world.act(() => world.main.exchange.replace(before, change, world.clock.now()))
    return
  }
  const { last } = world.market.quoteAt(world.market.find(act.symbol)!, world.clock.now())
  const price = fromE4(last + act.off * 100)
  await world.submit(
    order(`m-${act.id}`, {
      symbol: act.symbol,
      side: act.side,
      orderQty: act.quantity,
      ordType: act.type,
      ...(hasLimit(act.type) ? { price } : {}),
      ...(hasStop(act.type) ? { stopPx: price } : {}),
      ...(act.type === 'TrailingStop' ? { trail: { amount: 0.03 } } : {}),
      timeInForce:
        waitsForPrice(act.type) && (isAtOnce(act.good) || isInAuction(act.good)) ? 'Day' : act.good,
      ...(act.good === 'GoodTillDate' ? { expireSessions: 1 + (act.id % 2) } : {}),
      ...(act.exits && act.side !== 'Sell' && !act.tied.positionEffect ? { exits: act.exits } : {}),
      ...act.tied,
    }),
  )
}

describe('whatever is sent, canceled and lived through', () => {
  it('cash, holdings and order states stay true to the reports, restarts among them', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(acts, { minLength: 5, maxLength: 25 }), async (list) => {
        await world.close()
        await dir.remove()
        world = await openWorld(dir.path, wall)
        for (const act of list) {
          await perform(act)
          await world.tick()
          expectWhole()
        }
      }),
      { numRuns: 20 },
    )
  }, 120_000)
})
