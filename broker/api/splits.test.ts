import { beforeAll, describe, expect, it } from '@jest/globals'
import { holdingsOf } from '@/core/book/holdings'
import { type Action } from '@/core/market/adjust'
import { type Quote } from '@/core/market/wire'
import { type ExecutionReport, type Order } from '@/core/orders/model'
import { type Account, type Position, type StatementLine } from '@/core/orders/views'
import { Desk, deskFor, openWorlds, tempDir, Wall } from '@/tests/broker'

type Bars = { bars: { time: string; close: number; volume: number }[] }

/** The world before and after the close at which shares of two venues are split. */
describe('shares that are split while they are held', () => {
  const wall = new Wall()
  let desk: Desk
  let folder: string
  deskFor(wall, (made, dataDir) => ([desk, folder] = [made, dataDir]))
  const move = (text: string) => desk.world.setClock({ moveTo: Date.parse(text) })
  const seen = async (symbol: string) => ({
    quote: (await desk.get<Quote[]>(`/paper/quotes?symbols=${symbol}`))[0],
    position: (await desk.get<Position[]>('/paper/positions')).find((one) => one.symbol === symbol)!,
    orders: (await desk.get<Order[]>(`/paper/orders?which=working&symbol=${symbol}`)).map(
      ({ clOrdId, orderQty, price, stopPx }) => ({ clOrdId, orderQty, level: price ?? stopPx! }),
    ),
    daily: (await desk.get<Bars>(`/paper/securities/${symbol}/bars?every=1%20day&limit=5`)).bars,
    asTraded: (
      await desk.get<Bars>(`/paper/securities/${symbol}/bars?every=1%20day&limit=5&prices=as-traded`)
    ).bars,
    minutes: (await desk.get<Bars>(`/paper/securities/${symbol}/bars?every=1%20min&limit=3`)).bars,
  })
  type Seen = Awaited<ReturnType<typeof seen>>
  const cases = [
    { symbol: 'DECKC', close: '2026-04-13T16:00:00-03:00', exDate: '2026-04-14' },
    { symbol: 'PULPO', close: '2026-04-14T18:30:00+03:00', exDate: '2026-04-15' },
  ]
  const found: Record<string, { before: Seen; after: Seen; equity: [number, number] }> = {}

  beforeAll(async () => {
    for (const { symbol } of cases) {
      const { ask } = (await desk.get<Quote[]>(`/paper/quotes?symbols=${symbol}`))[0]
      const low = Math.floor(ask * 50) / 100 + 0.01
      await desk.send({
        ...{ clOrdId: `${symbol}-in`, symbol, orderQty: 50, timeInForce: 'GoodTillCancel' },
        exits: { stop: { price: low }, target: { price: 2 * Math.ceil(ask) + 0.01 } },
      })
      await desk.send({
        ...{ clOrdId: `${symbol}-low`, symbol, orderQty: 10, ordType: 'Limit', price: low },
        timeInForce: 'GoodTillCancel',
      })
    }
    for (const { symbol, close } of cases) {
      const at = (minutes: number) => Date.parse(close) + minutes * 60_000
      await desk.world.setClock({ moveTo: at(-5) })
      const equity = (await desk.get<Account>('/paper/account')).equity
      const before = await seen(symbol)
      await desk.world.setClock({ moveTo: at(60) })
      found[symbol] = {
        ...{ before, after: await seen(symbol) },
        equity: [equity, (await desk.get<Account>('/paper/account')).equity],
      }
    }
  })

  it.each(cases)(
    '$symbol: twice as many at half the price, in positions and resting orders',
    ({ symbol }) => {
      const { before, after } = found[symbol]
      expect(after.position.quantity).toBe(2 * before.position.quantity)
      expect(after.position.avgPx).toBeCloseTo(before.position.avgPx / 2, 4)
      expect(after.quote.last / before.quote.last).toBeCloseTo(0.5, 1)
      expect(after.orders.map(({ clOrdId }) => clOrdId)).toEqual(before.orders.map(({ clOrdId }) => clOrdId))
      expect(after.orders).toHaveLength(3)
      after.orders.forEach((order, i) => {
        expect(order.orderQty).toBe(2 * before.orders[i].orderQty)
        expect(Math.abs(order.level - before.orders[i].level / 2)).toBeLessThan(0.01)
      })
    },
  )

  it.each(cases)(
    '$symbol: bars are comparable over it from the close on, and as they were where asked so',
    ({ symbol, close }) => {
      const day = close.slice(0, 10)
      const { before, after } = found[symbol]
      const of = ({ daily }: Seen, key: 'close' | 'volume') =>
        Object.fromEntries(daily.map((bar) => [bar.time.slice(0, 10), bar[key]]))
      const [was, is] = [of(before, 'close'), of(after, 'close')]
      const shared = Object.keys(was).filter((date) => is[date] !== undefined)
      expect(shared.length).toBeGreaterThan(2)
      for (const date of shared) expect(is[date]).toBeCloseTo(was[date] / 2, 6)
      expect(of(after, 'volume')[shared[0]]).toBe(2 * of(before, 'volume')[shared[0]])
      const raw = after.asTraded.at(-1)!
      expect(raw.time.slice(0, 10)).toBe(day)
      expect(is[day]).toBeCloseTo(raw.close / 2, 6)
      expect(after.minutes.at(-1)!.close).toBe(is[day])
      expect(after.quote.last).toBeCloseTo(is[day], 1)
    },
  )

  it('is among the actions, and the next session opens near the close before', async () => {
    await move('2026-04-15T13:00:00-03:00')
    for (const { symbol, exDate } of cases) {
      const actions = await desk.get<Action[]>(`/paper/securities/${symbol}/actions`)
      expect(actions).toContainEqual({ kind: 'Split', exDate, ratio: 2 })
      const { quote, daily } = await seen(symbol)
      expect(Math.abs(quote.last / found[symbol].after.quote.last - 1)).toBeLessThan(0.2)
      expect(Math.abs(daily.at(-1)!.close / daily.at(-2)!.close - 1)).toBeLessThan(0.2)
    }
  })

  it('moves no cash, and nothing but the market moves the equity', async () => {
    for (const { symbol } of cases) {
      const [before, after] = found[symbol].equity
      expect(Math.abs(after / before - 1)).toBeLessThan(0.01)
    }
    const lines = await desk.get<StatementLine[]>('/paper/statement')
    expect(lines.filter(({ kind }) => kind === 'Split')).toMatchObject([
      { symbol: 'DECKC', quantity: 50, price: 0, amount: 0, date: '2026-04-13' },
      { symbol: 'PULPO', quantity: 50, price: 0, amount: 0, date: '2026-04-14' },
    ])
    expect(lines.at(-1)!.cash).toBe((await desk.get<Account>('/paper/account')).cash)
  })

  it('is the same added up from the reports, and after a restart', async () => {
    const reports = await desk.get<ExecutionReport[]>('/paper/executions?limit=10000')
    const positions = await desk.get<Position[]>('/paper/positions')
    const held = holdingsOf(reports)
    for (const { symbol, quantity } of positions) expect(held[symbol].at(-1)!.shares).toBe(quantity)
    expect(positions).toHaveLength(2)
    await desk.reopen(folder, wall)
    expect(await desk.get<Position[]>('/paper/positions')).toEqual(positions)
  })
})

describe('a split of long ago, lived through in a rehearsal', () => {
  it('multiplies what is held and halves the quote, as it did then', async () => {
    const dir = await tempDir()
    const wall = new Wall()
    const worlds = await openWorlds(dir.path, wall, { firstDate: '2024-09-03' })
    const desk = await Desk.open(worlds, dir.path, wall)
    try {
      const { markets, clock } = worlds.paper
      const found = markets.home.listing.flatMap((listed) =>
        markets
          .actionsOf(listed, clock.now())
          .flatMap((one) => (one.kind === 'Split' ? [{ listed, ...one }] : [])),
      )
      expect(found.length).toBeGreaterThan(0)
      const [{ listed, exDate, ratio }] = found
      const { symbol } = listed
      const row = markets.home.dates().indexOf(exDate)
      const eve = markets.home.allSessions()[row - 1]
      const at = '/rehearsals/then'
      await worlds.rehearse('then', new Date(eve.open).toISOString(), 50_000)
      await desk.call('POST', `${at}/market-time`, { step: 600 })
      const raw = async () =>
        (
          await desk.get<Bars>(
            `${at}/securities/${symbol}/bars?every=1%20day&limit=3&prices=as-traded&to=${markets.home.dates()[row - 3]}`,
          )
        ).bars[0]
      const order = { clOrdId: 'in', symbol, side: 'Buy', orderQty: 10, ordType: 'Market' }
      expect((await desk.call('POST', `${at}/orders`, order)).status).toBe(201)
      await desk.call('POST', `${at}/market-time`, { step: 60 })
      const [before] = await desk.get<Quote[]>(`${at}/quotes?symbols=${symbol}`)
      const told = await raw()
      expect(JSON.stringify(await desk.get(`${at}/securities/${symbol}/actions`))).not.toContain(exDate)
      await desk.call('POST', `${at}/market-time`, { jumpTo: 'open' })
      const [after] = await desk.get<Quote[]>(`${at}/quotes?symbols=${symbol}`)
      expect(before.last / after.last / ratio).toBeGreaterThan(0.85)
      expect(before.last / after.last / ratio).toBeLessThan(1.18)
      const [position] = await desk.get<Position[]>(`${at}/positions`)
      expect(position.quantity).toBe(10 * ratio)
      expect(await raw()).toEqual(told)
    } finally {
      await worlds.close()
      await dir.remove()
    }
  })
})
