import { describe, expect, it } from '@jest/globals'
import { type ExecutionReport, type Order } from '@/core/orders/model'
import { type Account, type Position } from '@/core/orders/views'
import { type Security } from '@/core/market/security'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

interface Quote {
  symbol: string
  bid: number
  ask: number
}

const EXPIRY = '2026-04-17'

/** Contracts of an underlying that end on a date, by strike. */
const chain = async (desk: Desk, right: 'Put' | 'Call'): Promise<Security[]> =>
  desk.get(
    `/paper/options?underlyingSymbol=OSPRY&putOrCall=${right}&maturityFrom=${EXPIRY}&maturityTo=${EXPIRY}`,
  )
const quote = async (desk: Desk, symbol: string): Promise<Quote> =>
  (await desk.get<Quote[]>(`/paper/quotes?symbols=${encodeURIComponent(symbol)}`))[0]
const positions = (desk: Desk) => desk.get<Position[]>('/paper/positions')
const account = (desk: Desk) => desk.get<Account>('/paper/account')

/** The strike nearest to the price of the underlying, and those about it. */
async function near(desk: Desk, right: 'Put' | 'Call', away = 0): Promise<Security> {
  const all = await chain(desk, right)
  const { bid } = await quote(desk, 'OSPRY')
  const gaps = all.map(({ option }) => Math.abs(option!.strikePrice - bid))
  return all[gaps.indexOf(Math.min(...gaps)) + away]
}

const spread = (buy: Security, sell: Security) => ({
  symbol: 'OSPRY',
  side: 'Buy',
  legs: [
    { symbol: buy.symbol, legSide: 'Buy' },
    { symbol: sell.symbol, legSide: 'SellShort' },
  ],
})

describe('options at the broker', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))

  it('contracts are asked for by underlying, type, strike, expiry, style and status', async () => {
    const calls = await chain(desk, 'Call')
    expect(calls.length).toBeGreaterThan(5)
    for (const { symbol, option, kind } of calls) {
      expect(symbol).toMatch(/^OSPRY 260417C\d{8}$/)
      expect(kind).toBe('Option')
      expect(option).toMatchObject({
        underlyingSymbol: 'OSPRY',
        contractMultiplier: 100,
        securityStatus: 'Active',
      })
    }
    const strikes = calls.map((one) => one.option!.strikePrice)
    const some = await desk.get<Security[]>(
      `/paper/options?underlyingSymbol=OSPRY&putOrCall=Call&maturityFrom=${EXPIRY}&maturityTo=${EXPIRY}&strikeFrom=${strikes[2]}&strikeTo=${strikes[4]}&exerciseStyle=American`,
    )
    expect(some.map((one) => one.option!.strikePrice)).toEqual(strikes.slice(2, 5))
    expect(await desk.get('/paper/options?underlyingSymbol=OSPRY&exerciseStyle=European')).toEqual([])
    const ended = await desk.get<Security[]>(
      '/paper/options?underlyingSymbol=OSPRY&securityStatus=Expired&maturityFrom=2026-02-01',
    )
    expect(ended.length).toBeGreaterThan(0)
    for (const one of ended) expect(one.option!.securityStatus).toBe('Expired')
    await problem(
      desk.call('GET', '/paper/options?underlyingSymbol=OSPRY&securityStatus=Expired'),
      400,
      'malformed-request',
    )
    // Without its blanks a symbol means the same.
    expect(await quote(desk, calls[3].symbol.replaceAll(' ', ''))).toEqual(await quote(desk, calls[3].symbol))
  })

  it('a bought contract is paid in full, valued by its hundred shares, and sold again', async () => {
    const call = await near(desk, 'Call')
    const before = await account(desk)
    expect((await desk.send({ clOrdId: 'long', symbol: call.symbol, orderQty: 2 })).status).toBe(201)
    await desk.run(wall)
    const order = await desk.order('long')
    expect(order.ordStatus).toBe('Filled')
    const after = await account(desk)
    // 65 cents a contract.
    expect(after.cash).toBeCloseTo(before.cash - 200 * order.avgPx - 1.3, 4)
    const [held] = await positions(desk)
    expect(held).toMatchObject({ symbol: call.symbol, quantity: 2, avgPx: order.avgPx })
    expect(held.marketValue).toBeCloseTo(200 * held.last, 4)
    expect(after.marginHeld).toBeCloseTo(held.marketValue, 4)
    expect(
      (await desk.send({ clOrdId: 'flat', symbol: call.symbol, side: 'Sell', orderQty: 2 })).status,
    ).toBe(201)
    await desk.run(wall)
    expect((await positions(desk))[0].quantity).toBe(0)
  })

  it('an account of level 2 writes a cash-secured put, not an uncovered call', async () => {
    const [put, call] = [await near(desk, 'Put', -1), await near(desk, 'Call', 1)]
    const refused = await problem(
      desk.send({ clOrdId: 'naked', symbol: call.symbol, side: 'SellShort', orderQty: 1 }),
      422,
      'option-level-too-low',
    )
    expect(refused.detail).toContain('level 4')
    expect(
      (await desk.send({ clOrdId: 'put', symbol: put.symbol, side: 'SellShort', orderQty: 1 })).status,
    ).toBe(201)
    await desk.run(wall)
    const { avgPx } = await desk.order('put')
    expect((await account(desk)).marginHeld).toBeCloseTo(
      100 * put.option!.strikePrice -
        100 * (await positions(desk)).find((p) => p.symbol === put.symbol)!.last,
      2,
    )
    expect(avgPx).toBeGreaterThan(0)
    await desk.send({ clOrdId: 'put-back', symbol: put.symbol, side: 'Buy', orderQty: 1 })
    await desk.run(wall)
    expect((await desk.order('put-back')).ordStatus).toBe('Filled')
  })

  it('shares that cover a written call are not sold from under it', async () => {
    const call = await near(desk, 'Call')
    await desk.send({ clOrdId: 'shares', symbol: 'OSPRY', orderQty: 100 })
    await desk.run(wall, 2)
    expect(
      (await desk.send({ clOrdId: 'write', symbol: call.symbol, side: 'SellShort', orderQty: 1 })).status,
    ).toBe(201)
    await desk.run(wall, 2)
    expect((await desk.order('write')).ordStatus).toBe('Filled')
    const sell = (clOrdId: string) => desk.send({ clOrdId, symbol: 'OSPRY', side: 'Sell', orderQty: 100 })
    await problem(sell('under'), 422, 'option-level-too-low')
    await desk.send({ clOrdId: 'buy-back', symbol: call.symbol, orderQty: 1 })
    await desk.run(wall, 2)
    expect((await sell('free')).status).toBe(201)
    await desk.run(wall, 2)
    expect((await positions(desk)).every(({ quantity }) => quantity === 0)).toBe(true)
  })

  it('a spread needs level 3; then its largest loss is held, and its legs trade together', async () => {
    const [low, high] = [await near(desk, 'Put', -1), await near(desk, 'Put')]
    const credit = { ...spread(low, high), ordType: 'Limit', price: -0.01, orderQty: 2 }
    await problem(
      desk.call('POST', '/paper/orders', { clOrdId: 'spread', ...credit }),
      422,
      'option-level-too-low',
    )
    const opened = await desk.call('POST', '/paper/accounts', {
      account: 'SPREADS',
      cash: 5000,
      currency: 'USD',
      margin: true,
      optionLevel: 3,
    })
    expect(opened.status).toBe(201)
    const sent = await desk.call('POST', '/paper/orders', {
      clOrdId: 'spread',
      account: 'SPREADS',
      ...credit,
    })
    expect(sent.status).toBe(201)
    const kept = ((await sent.json()) as Order).kept!
    const width = high.option!.strikePrice - low.option!.strikePrice
    await desk.run(wall)
    const order = await desk.get<Order>('/paper/orders/spread?account=SPREADS')
    expect(order.ordStatus).toBe('Filled')
    expect(order.avgPx).toBeLessThan(0)
    // What was kept is the largest loss, the width less what is received, and the commission of four contracts.
    expect(kept).toBeCloseTo(200 * (width + order.avgPx) + 4 * 0.65, 1)
    const about = await desk.get<Account>('/paper/account?account=SPREADS')
    expect(about.cash).toBeCloseTo(5000 - 200 * order.avgPx - 4 * 0.65, 4)
    expect(about.equity - about.marginHeld).toBeCloseTo(about.cash - 200 * width, 2)
    const [report] = (await desk.get<ExecutionReport[]>('/paper/executions?account=SPREADS')).filter(
      (one) => one.execType === 'Trade',
    )
    expect(report.legFills!.map(({ symbol, lastQty }) => [symbol, lastQty])).toEqual([
      [low.symbol, 2],
      [high.symbol, 2],
    ])
    expect(report.lastPx).toBeCloseTo(report.legFills![0].lastPx - report.legFills![1].lastPx, 4)
  })

  it('is changed and canceled as a whole, found by its id, a leg’s id and a leg’s symbol', async () => {
    const [low, high] = [await near(desk, 'Call'), await near(desk, 'Call', 1)]
    const asked = { ...spread(low, high), account: 'SPREADS', ordType: 'Limit', price: 0.01, orderQty: 1 }
    expect((await desk.call('POST', '/paper/orders', { clOrdId: 'rest', ...asked })).status).toBe(201)
    const byLeg = await desk.get<Order>(`/paper/orders/${encodeURIComponent('rest/leg2')}?account=SPREADS`)
    expect(byLeg.clOrdId).toBe('rest')
    const found = await desk.get<Order[]>(
      `/paper/orders?account=SPREADS&which=working&symbol=${encodeURIComponent(high.symbol)}`,
    )
    expect(found.map((one) => one.clOrdId)).toEqual(['rest'])
    const alone = await problem(
      desk.call('DELETE', `/paper/orders/${encodeURIComponent('rest/leg2')}?account=SPREADS`),
      409,
      'part-of-whole',
    )
    expect(alone.mend).toContain('rest as a whole')
    const changed = await desk.call('PATCH', '/paper/orders/rest?account=SPREADS', {
      clOrdId: 'rest-2',
      price: 0.02,
    })
    expect(((await changed.json()) as Order).price).toBe(0.02)
    const gone = await desk.call('DELETE', '/paper/orders/rest-2?account=SPREADS')
    expect(((await gone.json()) as Order).ordStatus).toBe('Canceled')
  })

  it('legs that are no one order, off the step, or sold without being held are refused by name', async () => {
    const [low, high] = [await near(desk, 'Call'), await near(desk, 'Call', 1)]
    const send = (more: Record<string, unknown>) =>
      desk.call('POST', '/paper/orders', {
        clOrdId: 'bad',
        account: 'SPREADS',
        ordType: 'Market',
        orderQty: 1,
        ...spread(low, high),
        ...more,
      })
    await problem(send({ ordType: 'Limit', price: 0.015 }), 422, 'price-off-tick')
    await problem(send({ side: 'Sell' }), 400, 'malformed-request')
    await problem(
      send({
        legs: [
          { symbol: low.symbol, legSide: 'Buy', legRatioQty: 2 },
          { symbol: high.symbol, legSide: 'SellShort', legRatioQty: 2 },
        ],
      }),
      400,
      'malformed-request',
    )
    await problem(
      send({
        legs: [
          { symbol: low.symbol, legSide: 'Buy' },
          { symbol: 'GANET', legSide: 'Sell', legRatioQty: 100 },
        ],
      }),
      422,
      'legs-not-one',
    )
    await problem(
      send({
        legs: [
          { symbol: low.symbol, legSide: 'Sell' },
          { symbol: high.symbol, legSide: 'Buy' },
        ],
      }),
      422,
      'shares-not-held',
    )
  })

  it('at its end a contract in the money becomes shares at its strike, another nothing', async () => {
    const [inside, outside] = [await near(desk, 'Call', -2), await near(desk, 'Call', 3)]
    for (const [clOrdId, { symbol }] of [
      ['in', inside],
      ['out', outside],
    ] as const)
      expect((await desk.send({ clOrdId, symbol, orderQty: 1 })).status).toBe(201)
    await desk.run(wall)
    const cash = (await account(desk)).cash
    await desk.world.setClock({ moveTo: Date.parse('2026-04-17T15:59:00-03:00') })
    const price = (await quote(desk, 'OSPRY')).bid
    await desk.world.setClock({ moveTo: Date.parse('2026-04-17T17:00:00-03:00') })
    const held = (await positions(desk)).filter(({ quantity }) => quantity !== 0)
    const strike = inside.option!.strikePrice
    expect(price).toBeGreaterThan(strike + 0.1)
    expect(held).toMatchObject([{ symbol: 'OSPRY', quantity: 100, avgPx: strike }])
    expect((await account(desk)).cash).toBeCloseTo(cash - 100 * strike, 4)
    expect(held.some(({ symbol }) => symbol === outside.symbol)).toBe(false)
    await problem(desk.send({ clOrdId: 'late', symbol: inside.symbol, orderQty: 1 }), 422, 'unknown-security')
  })
})

describe('standing down from what options are about', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))

  it('refuses its options too, and closes a spread as a whole so that none of it is left uncovered', async () => {
    await desk.call('POST', '/paper/accounts', {
      ...{ account: 'SPREADS', cash: 8000, currency: 'USD', margin: true, optionLevel: 3 },
    })
    const [low, high] = [await near(desk, 'Put', -1), await near(desk, 'Put')]
    const open = { ...spread(low, high), account: 'SPREADS', ordType: 'Market', orderQty: 2 }
    await desk.call('POST', '/paper/orders', { clOrdId: 'in', ...open })
    await desk.run(wall, 2)
    const held = async () =>
      (await desk.get<Position[]>('/paper/positions?account=SPREADS')).map(({ quantity }) => quantity)
    expect(await held()).toEqual([2, -2])
    const done = await desk.call('POST', '/paper/stand-down', {
      ...{ account: 'SPREADS', symbol: 'OSPRY', flatten: true },
    })
    expect(await done.json()).toMatchObject({ left: [], closing: [expect.stringContaining('OSPRY')] })
    await desk.run(wall, 2)
    expect(await held()).toEqual([0, 0])
    await problem(desk.call('POST', '/paper/orders', { clOrdId: 'again', ...open }), 422, 'stood-down')
    await problem(
      desk.send({ clOrdId: 'one', account: 'SPREADS', symbol: high.symbol, orderQty: 1 }),
      422,
      'stood-down',
    )
  })
})
