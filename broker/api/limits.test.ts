import { beforeAll, describe, expect, it } from '@jest/globals'
import { isOption } from '@/core/options/osi'
import { type Security } from '@/core/market/security'
import { type Order } from '@/core/orders/model'
import { type Account, type Position } from '@/core/orders/views'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

/** What an order may take of its account, alone and beside others that rest. */

let desk: Desk
const wall = new Wall()
deskFor(wall, (opened) => (desk = opened))

type Quote = { bid: number; ask: number; last: number }
const quote = async (symbol: string) =>
  (await desk.get<Quote[]>(`/paper/quotes?symbols=${encodeURIComponent(symbol)}`))[0]
const send = (order: object) => desk.call('POST', '/paper/orders', order)
const taken = async (order: object) => expect([order, (await send(order)).status]).toEqual([order, 201])
const open = (account: string, more: object) => desk.call('POST', '/paper/accounts', { account, ...more })

beforeAll(async () => {
  await open('CASH-1', { cash: 3_000, margin: false, optionLevel: 1 })
  await open('SHORT-1', { cash: 1_000_000, optionLevel: 4 })
  await open('SHORT-2', { cash: 1_000_000, optionLevel: 4 })
})

describe('what can be borrowed', () => {
  /** A stock with options of which some shares, but not many, can be borrowed today. */
  const hard = () => {
    const { markets, clock } = desk.world
    const date = markets.home.sessionsBegunBy(clock.now()).at(-1)!.date
    const found = markets.listing.flatMap((listed) => {
      const shares = markets.borrowableOf(listed, date)
      const isListed = markets.of(listed).chains.chainOf(listed, clock.now()).length > 0
      return listed.venue === 'XBKW' && isListed && shares !== undefined && shares >= 300
        ? [{ listed, shares }]
        : []
    })
    return found.sort((a, b) => a.shares * a.listed.firstPrice - b.shares * b.listed.firstPrice)[0]
  }

  it('is lent once: what one account borrowed another cannot have', async () => {
    const { listed, shares } = hard()
    const short = { symbol: listed.symbol, side: 'SellShort', ordType: 'Limit' }
    const price = Math.ceil((await quote(listed.symbol)).ask * 2)
    const half = Math.floor(shares / 200) * 100
    await taken({ ...short, clOrdId: 's1', account: 'SHORT-1', orderQty: half, price })
    const rest = { ...short, account: 'SHORT-2', price }
    const more = send({ ...rest, clOrdId: 's2', orderQty: shares - half + 100 })
    await problem(more, 422, 'shares-not-to-be-borrowed')
    await taken({ ...rest, clOrdId: 's3', orderQty: shares - half })
    for (const [id, account] of [
      ['s1', 'SHORT-1'],
      ['s3', 'SHORT-2'],
    ])
      await desk.call('DELETE', `/paper/orders/${id}?account=${account}`)
  })

  it('is looked at in a multi-leg order too', async () => {
    const { listed, shares } = hard()
    const { symbol } = listed
    const chain = await desk.get<Security[]>(`/paper/options?underlyingSymbol=${symbol}&putOrCall=Call`)
    const legs = (ratio: number) => [
      { symbol, legSide: 'SellShort', legRatioQty: 100 * ratio },
      { symbol: chain[0].symbol, legSide: 'Buy', legRatioQty: ratio },
    ]
    const order = { symbol, side: 'Buy', ordType: 'Market', account: 'SHORT-1', orderQty: 1 }
    const units = Math.floor(shares / 100) + 1
    const much = send({ ...order, clOrdId: 'w1', orderQty: units, legs: legs(1) })
    await problem(much, 422, 'shares-not-to-be-borrowed')
  })
})

describe('commission', () => {
  it('is part of what an order needs: a cash account never ends below nought', async () => {
    const { ask } = await quote('OSPRY')
    await open('CASH-3', { cash: Math.round(20_000 * ask) / 100, margin: false })
    const buy = { symbol: 'OSPRY', side: 'Buy', ordType: 'Market', account: 'CASH-3' }
    const all = await problem(send({ ...buy, clOrdId: 'c1', orderQty: 200 }), 422, 'not-enough-buying-power')
    expect(all.mend).toContain('199')
    await taken({ ...buy, clOrdId: 'c2', orderQty: 199 })
    await desk.run(wall, 20)
    expect((await desk.get<Account>('/paper/account?account=CASH-3')).cash).toBeGreaterThanOrEqual(0)
  })

  it('counts what rests: orders at exactly what is there cannot all be paid', async () => {
    await open('CASH-2', { cash: 1_000, margin: false })
    const rests = { symbol: 'OSPRY', side: 'Buy', ordType: 'Limit', price: 1, account: 'CASH-2' }
    const much = await problem(
      send({ ...rests, clOrdId: 'r0', orderQty: 1_000 }),
      422,
      'not-enough-buying-power',
    )
    expect(much.detail).toContain('1,005')
    await taken({ ...rests, clOrdId: 'r1', orderQty: 995 })
    const { buyingPower } = await desk.get<Account>('/paper/account?account=CASH-2')
    expect(buyingPower).toBeCloseTo(1_000 - 995 - 4.975, 4)
  })

  it('an order by money buys what the money pays for with its commission, and at most what an order may be', async () => {
    const { ask } = await quote('OSPRY')
    const bought = (await (
      await send({
        clOrdId: 'm1',
        symbol: 'OSPRY',
        side: 'Buy',
        ordType: 'Limit',
        price: ask,
        cashOrderQty: 1_000,
      })
    ).json()) as Order
    expect(bought.orderQty).toBe(Math.floor(1_000 / (ask + 0.005)))
    const much = { clOrdId: 'm2', symbol: 'OSPRY', side: 'Buy', ordType: 'Limit', price: 0.01 }
    const huge = await problem(send({ ...much, cashOrderQty: 1e9 }), 422, 'not-enough-buying-power')
    expect((huge.order as Order).orderQty).toBe(10_000_000)
  })
})

describe('what rests takes its cover along', () => {
  const calls = async () => {
    const { last } = await quote('OSPRY')
    const chain = await desk.get<Security[]>('/paper/options?underlyingSymbol=OSPRY&putOrCall=Call')
    return chain.filter(({ option, symbol }) => isOption(symbol) && option!.strikePrice > last)
  }
  const write = (call: Security, clOrdId: string) => ({
    ...{ clOrdId, symbol: call.symbol, side: 'SellShort', orderQty: 1, ordType: 'Limit', price: 9.95 },
    ...{ account: 'COVER-1', timeInForce: 'GoodTillCancel' },
  })

  it('a second covered call, and a sale of the shares under one, are refused at once', async () => {
    await open('COVER-1', { cash: 10_000, optionLevel: 1 })
    await taken({
      clOrdId: 'own',
      symbol: 'OSPRY',
      side: 'Buy',
      ordType: 'Market',
      orderQty: 100,
      account: 'COVER-1',
    })
    await desk.run(wall, 20)
    const held = await desk.get<Position[]>('/paper/positions?account=COVER-1')
    expect(held).toMatchObject([{ symbol: 'OSPRY', quantity: 100 }])
    const [first, second] = await calls()
    await taken(write(first, 'call-1'))
    await problem(send(write(second, 'call-2')), 422, 'option-level-too-low')
    const sale = { symbol: 'OSPRY', side: 'Sell', ordType: 'Market', orderQty: 100, account: 'COVER-1' }
    await problem(send({ ...sale, clOrdId: 'sale' }), 422, 'option-level-too-low')
    // Without the call the shares are free, and the other way round.
    await desk.call('DELETE', '/paper/orders/call-1?account=COVER-1')
    await taken({ ...sale, clOrdId: 'sale-2', ordType: 'Limit', price: 999 })
    await problem(send(write(second, 'call-3')), 422, 'option-level-too-low')
  })

  it('a closing order with nothing to close is refused at once, whatever its side', async () => {
    const [call] = await calls()
    for (const side of ['Buy', 'Sell', 'SellShort'])
      for (const symbol of ['GANET', call.symbol]) {
        const order = { clOrdId: `x-${side}-${symbol.length}`, symbol, side, ordType: 'Market', orderQty: 1 }
        await problem(send({ ...order, positionEffect: 'Close', account: 'SHORT-1' }), 422, 'shares-not-held')
      }
  })
})

describe('a token in a URL', () => {
  it('stands in no Link and in no last line', async () => {
    const made = await desk.call('POST', '/paper/csv-tokens', {
      label: 'sheet',
      scopes: ['see-market', 'see-account'],
    })
    const { csvToken } = (await made.json()) as { csvToken: string }
    for (const path of [
      '/securities/OSPRY/bars?every=1%20min&limit=2&from=2026-03-12',
      '/securities/OSPRY/ticks?from=2026-03-16T09:40&limit=2',
      '/executions?limit=1&account=COVER-1',
      '/orders?which=all&limit=1&account=COVER-1',
    ]) {
      const answer = await desk.call('GET', `/paper${path}&format=csv&csvToken=${csvToken}`, undefined, '')
      const text = await answer.text()
      expect([path, answer.status]).toEqual([path, 200])
      expect([path, text.includes('# cut') || answer.headers.get('Link') !== null]).toEqual([path, true])
      expect(text + answer.headers.get('Link')).not.toContain(csvToken.slice(-20))
    }
  })
})

it('wrong secrets slow down the address that sends them, not the right secret from another', async () => {
  const { keyId, secret } = await desk.newKey()
  const from = (remoteAddress: string, client_secret: string) =>
    desk.app.request(
      '/paper/token',
      {
        method: 'POST',
        headers: { 'Content-Type': 'application/x-www-form-urlencoded' },
        body: new URLSearchParams({
          grant_type: 'client_credentials',
          client_id: keyId,
          client_secret,
        }).toString(),
      },
      { incoming: { socket: { remoteAddress } } },
    )
  for (let n = 0; n < 4; n++) await from('10.0.0.9', 'wrong')
  expect((await from('10.0.0.9', secret)).status).toBe(429)
  expect((await from('10.0.0.8', secret)).status).toBe(200)
})

it('after a long step of the clock no quote is older than a tick, in the stream neither', async () => {
  const stream = await desk.app.request('/paper/quotes/stream?symbols=OSPRY,BWALL,GANET', {
    headers: { Authorization: `Bearer ${desk.token}` },
  })
  const reader = stream.body!.getReader()
  let piece = ''
  const until = async (done: () => boolean) => {
    while (!done()) piece = new TextDecoder().decode((await reader.read()).value)
  }
  await until(() => piece.includes('event: quotes'))
  for (const step of [3_600, 1_200]) {
    const moved = await desk.call('POST', '/paper/market-time', { step })
    const { now } = (await moved.json()) as { now: string }
    const asked = await desk.get<{ at: string }[]>('/paper/quotes?symbols=OSPRY,BWALL,GANET')
    for (const { at } of asked) expect(Date.parse(at)).toBe(Date.parse(now))
    await until(() => piece.includes(`"now":"${now}"`))
    // Whoever reads of the time has the prices of it in the same piece.
    for (const symbol of ['OSPRY', 'BWALL', 'GANET'])
      expect(piece).toMatch(new RegExp(`"symbol":"${symbol}"[^{}]*"at":"${now.slice(0, 16)}`))
  }
  await reader.cancel()
})
