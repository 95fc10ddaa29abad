import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import { rm } from 'node:fs/promises'
import fc from 'fast-check'
import { fromE4, toE4 } from '@/core/market/money'
import { standing } from '@/core/book/value'
import { attachedOrders, type Book, bookOf, workingOrders } from '@/core/book/book'
import {
  type ExecutionReport,
  hasLimit,
  hasStop,
  isAtOnce,
  isInAuction,
  isWorking,
  type NewOrder,
  type OrdType,
  TimeInForce,
  waitsForPrice,
} from '@/core/orders/model'
import { type Side } from '@/core/orders/legs'
import { type Exits } from '@/core/orders/exits'
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
    world = await openWorld(folder, wall)
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
        await rm(folder, { recursive: true, force: true })
        world = await openWorld(folder, wall)
        for (const act of list) {
          await perform(act)
          await world.tick()
          expectWhole()
        }
      }),
      { numRuns: cases(10) },
    )
  })
})
