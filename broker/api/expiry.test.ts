import { describe, expect, it } from '@jest/globals'
import { type Security } from '@/core/market/security'
import { type Order } from '@/core/orders/model'
import { type Account, type ExpiryNotice, type Position } from '@/core/orders/views'
import { type Desk, deskFor, openWorld, problem, tempDir, Wall } from '@/tests/broker'

/** How contracts end for accounts that cannot take what they bring. */

const EXPIRY = '2026-03-20'
const at = (clock: string, date = EXPIRY) => Date.parse(`${date}T${clock}:00-03:00`)

describe('at the end of contracts', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))

  const open = (account: string, more: object) => desk.call('POST', '/paper/accounts', { account, ...more })
  const of = <T>(what: string, account: string) => desk.get<T>(`/paper/${what}?account=${account}`)
  const send = async (order: object) => {
    const answer = await desk.call('POST', '/paper/orders', { ordType: 'Market', orderQty: 1, ...order })
    expect([order, answer.status]).toEqual([order, 201])
  }
  /** The last close of an underlying before its contracts end: what nobody at the desk knows yet. */
  const endOf = (symbol: string) => {
    const { market } = desk.world
    const listed = market.find(symbol)!
    return market.dailyOf(listed).close[market.dates().indexOf(EXPIRY)] / 10_000
  }
  const chain = (symbol: string, putOrCall: string) =>
    desk.get<Security[]>(
      `/paper/options?underlyingSymbol=${symbol}&putOrCall=${putOrCall}&maturityFrom=${EXPIRY}&maturityTo=${EXPIRY}`,
    )
  const askOf = async ({ symbol }: Security) =>
    (await desk.get<{ ask: number }[]>(`/paper/quotes?symbols=${encodeURIComponent(symbol)}`))[0].ask
  const held = async (account: string) =>
    (await of<Position[]>('positions', account)).filter(({ quantity }) => quantity !== 0)

  const contracts: Record<string, Security> = {}
  let told: ExpiryNotice[] = []

  it('accounts that cannot take the shares: one without money, one that may not sell short, one that asked not to', async () => {
    await open('POOR', { cash: 1_500, margin: false, optionLevel: 2 })
    await open('NOSHORT', { cash: 20_000, margin: true, short: false, optionLevel: 2 })
    await open('ASKED', { cash: 50_000, optionLevel: 2 })
    await open('SPREAD', { cash: 9_000, margin: true, short: false, optionLevel: 3 })
    // A call in the money at the end that fifteen hundred pay for, and whose shares cost many times as much.
    for (const call of await chain('GANET', 'Call'))
      if (endOf('GANET') > call.option!.strikePrice + 1 && (await askOf(call)) < 14) contracts.call ??= call
    // Puts that are in the money at the end.
    const puts = await chain('OSPRY', 'Put')
    contracts.put = puts.find(({ option }) => option!.strikePrice > endOf('OSPRY') + 0.5)!
    const calls = await chain('OSPRY', 'Call')
    contracts.inside = calls.findLast(({ option }) => option!.strikePrice < endOf('OSPRY') - 0.3)!
    contracts.outside = calls.find(({ option }) => option!.strikePrice > endOf('OSPRY') + 0.3)!
    const { call, put, inside, outside } = contracts
    await send({ clOrdId: 'c', symbol: call.symbol, side: 'Buy', account: 'POOR' })
    await send({ clOrdId: 'p', symbol: put.symbol, side: 'Buy', orderQty: 3, account: 'NOSHORT' })
    await send({ clOrdId: 's', symbol: 'OSPRY', side: 'Buy', orderQty: 100, account: 'NOSHORT' })
    await send({ clOrdId: 'n', symbol: inside.symbol, side: 'Buy', account: 'ASKED' })
    const legs = [
      { symbol: inside.symbol, legSide: 'SellShort' },
      { symbol: outside.symbol, legSide: 'Buy' },
    ]
    await send({ clOrdId: 'w', symbol: 'OSPRY', side: 'Buy', legs, account: 'SPREAD' })
    await desk.run(wall, 30)
    expect((await held('POOR')).length + (await held('NOSHORT')).length).toBe(3)
    expect(await held('SPREAD')).toHaveLength(2)
  })

  it('is announced in the morning of the day, on the stream and by its route', async () => {
    const stream = await desk.app.request('/paper/executions/stream?account=POOR', {
      headers: { Authorization: `Bearer ${desk.token}` },
    })
    const reader = stream.body!.getReader()
    await desk.world.setClock({ moveTo: at('09:31') })
    let text = ''
    while (!text.includes('event: expiring')) text += new TextDecoder().decode((await reader.read()).value)
    await reader.cancel()
    told = JSON.parse(/event: expiring\ndata: (.*)/.exec(text)![1]) as ExpiryNotice[]
    expect(told).toMatchObject([{ symbol: contracts.call.symbol, outcome: 'CloseOut', date: EXPIRY }])
    expect(told[0].text).toContain('15 minutes before the close')
    const now = await of<ExpiryNotice[]>('expiries', 'NOSHORT')
    expect(now[0]).toMatchObject({ outcome: 'CloseOut', quantity: 3 })
    expect(now[0].text).toContain('2 of 3')
    expect(now[0].text).toContain('may not sell short')
  })

  it('do not exercise can be said of what is held, and is told', async () => {
    const { inside, outside } = contracts
    const path = (symbol: string) => `/paper/expiries/${encodeURIComponent(symbol)}?account=ASKED`
    expect((await desk.call('PUT', path(inside.symbol), { exercise: false })).status).toBe(200)
    await problem(desk.call('PUT', path(outside.symbol), { exercise: false }), 409, 'not-possible')
    expect(await of<ExpiryNotice[]>('expiries', 'ASKED')).toMatchObject([{ outcome: 'NotExercised' }])
  })

  it('what cannot be taken is closed at the market a quarter of an hour before, and no account ends beyond its rules', async () => {
    await desk.world.setClock({ moveTo: at('15:44') })
    expect(await held('POOR')).toHaveLength(1)
    await desk.world.setClock({ moveTo: at('15:50') })
    expect(await held('POOR')).toEqual([])
    const [sold] = await of<Order[]>('orders', 'POOR')
    expect(sold).toMatchObject({ side: 'Sell', ordStatus: 'Filled', symbol: contracts.call.symbol })
    expect(sold.text).toContain('cannot pay')
    expect((await held('NOSHORT')).map(({ symbol, quantity }) => [symbol, quantity])).toEqual([
      ['OSPRY', 100],
      [contracts.put.symbol, 1],
    ])
    await desk.world.setClock({ moveTo: at('17:00') })
    expect((await of<Account>('account', 'POOR')).cash).toBeGreaterThan(0)
    expect(await held('NOSHORT')).toEqual([])
    expect(await held('ASKED')).toEqual([])
    expect(await held('SPREAD')).toEqual([])
    const [ended] = await of<Order[]>('orders', 'ASKED')
    expect(ended.text).toContain('not exercised, as you asked')
    for (const account of ['POOR', 'NOSHORT', 'ASKED', 'SPREAD'])
      expect((await of<Account>('account', account)).cash).toBeGreaterThanOrEqual(0)
  })
})

describe('early', () => {
  const wall = new Wall()
  let desk: Desk
  deskFor(wall, (made) => (desk = made))

  it('contracts that are held are exercised by the route, within the account’s rules', async () => {
    const calls = await desk.get<Security[]>(
      '/paper/options?underlyingSymbol=OSPRY&putOrCall=Call&maturityFrom=2026-04-17&maturityTo=2026-04-17',
    )
    const [{ symbol, option }] = calls
    await desk.send({ clOrdId: 'in', symbol, orderQty: 2 })
    await desk.run(wall, 30)
    const cash = (await desk.get<Account>('/paper/account')).cash
    const ask = (more: object) =>
      desk.call('POST', '/paper/exercises', { clOrdId: 'ex', symbol, orderQty: 1, ...more })
    await problem(ask({ orderQty: 3 }), 422, 'shares-not-held')
    await problem(ask({ symbol: 'OSPRY' }), 409, 'not-possible')
    const done = (await (await ask({})).json()) as Order
    expect(done).toMatchObject({ ordStatus: 'Filled', role: 'Exercise', clOrdId: 'ex' })
    await problem(ask({}), 409, 'duplicate-client-order-id')
    const positions = await desk.get<Position[]>('/paper/positions')
    expect(positions.map((one) => [one.symbol, one.quantity])).toEqual([
      ['OSPRY', 100],
      [symbol, 1],
    ])
    expect(positions[0].avgPx).toBe(option!.strikePrice)
    expect((await desk.get<Account>('/paper/account')).cash).toBeCloseTo(cash - 100 * option!.strikePrice, 4)
    // What a working sale has promised is not free.
    await desk.send({ clOrdId: 'sell', symbol, side: 'Sell', orderQty: 1, ordType: 'Limit', price: 99 })
    await problem(ask({ clOrdId: 'ex-2' }), 422, 'shares-not-held')
    await desk.call('DELETE', '/paper/orders/sell')
    await desk.call('POST', '/paper/stand-down', {})
    await problem(ask({ clOrdId: 'ex-3' }), 422, 'stood-down')
  })

  it('written calls are assigned on the evening before an ex-date where their time is worth less than the dividend', async () => {
    const dir = await tempDir()
    const world = await openWorld(dir.path, wall)
    const { market, markets } = world
    const until = at('12:00', '2026-06-10')
    const paying = market.listing.flatMap((listed) => {
      const action = markets
        .actionsOf(listed, until)
        .find((one) => one.kind === 'Dividend' && one.exDate > '2026-03-19')
      return action?.kind === 'Dividend' && listed.usualVolume > 400_000 ? [{ listed, action }] : []
    })
    expect(paying.length).toBeGreaterThan(5)
    let [assigned, kept] = [0, 0]
    for (const { listed, action } of paying.slice(0, 6)) {
      const row = market.dates().indexOf(action.exDate)
      const eve = market.allSessions()[row - 1]
      if (eve.close - 3_600_000 < world.clock.now()) continue
      await world.setClock({ moveTo: eve.close - 3_600_000 })
      const spot = market.quoteAt(listed, world.clock.now()).last / 10_000
      const calls = market.chains
        .chainOf(listed, world.clock.now())
        .filter(({ option }) => option!.putOrCall === 'Call' && option!.maturityDate > action.exDate)
      const deep = calls.find(({ option }) => option!.strikePrice < spot * 0.85)!
      const near = calls.findLast(({ option }) => option!.strikePrice < spot * 1.02)!
      const common = { ordType: 'Market' as const, timeInForce: 'Day' as const }
      const account = `A-${listed.symbol}`
      await world.newAccount(account, 1_000_000, {
        currency: 'USD',
        margin: true,
        short: true,
        optionLevel: 4,
      })
      await world.submit(
        { ...common, clOrdId: 's', symbol: listed.symbol, side: 'Buy', orderQty: 200 },
        account,
      )
      for (const [id, { symbol }] of [
        ['d', deep],
        ['n', near],
      ] as const)
        await world.submit({ ...common, clOrdId: id, symbol, side: 'SellShort', orderQty: 1 }, account)
      wall.pass(60)
      await world.tick()
      const { book } = world.accounts.get(account)!
      const shown = (symbol: string) => book.holdings[symbol]?.quantity
      expect([listed.symbol, shown(deep.symbol), shown(near.symbol)]).toEqual([listed.symbol, -1, -1])
      await world.setClock({ moveTo: eve.close + 60_000 })
      // By the prices of the close, reckoned anew.
      const close = market.quoteAt(listed, eve.close).last
      const due = (contract: typeof deep) => {
        const quote = market.quoteAt(contract, eve.close)
        const worth = close - contract.option!.strikePrice * 10_000
        return worth >= 100 && (quote.bid + quote.ask) / 2 - worth < action.amount * 10_000
      }
      for (const contract of [deep, near]) {
        expect([contract.symbol, shown(contract.symbol)]).toEqual([contract.symbol, due(contract) ? 0 : -1])
        if (due(contract)) assigned++
        else kept++
      }
    }
    await world.close()
    await dir.remove()
    expect(assigned).toBeGreaterThan(0)
    expect(kept).toBeGreaterThan(0)
  })
})
