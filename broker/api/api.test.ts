import { afterAll, beforeAll, describe, expect, it, jest } from '@jest/globals'
import { decodeBars } from '@/core/formats/barsBinary'
import { type Action, adjusted } from '@/core/market/adjust'
import { openTable } from '@/core/market/barTable'
import { readCsv } from '@/core/formats/csv'
import { type ExecutionReport, type Order } from '@/core/orders/model'
import { Desk, openWorld, tempDir, Wall } from '@/tests/broker'

let dir: Awaited<ReturnType<typeof tempDir>>
let desk: Desk
const wall = new Wall()

beforeAll(async () => {
  dir = await tempDir()
  desk = await Desk.open(await openWorld(dir.path, wall), dir.path, wall)
})
afterAll(async () => {
  await desk.world.close()
  await dir.remove()
})

interface Problem {
  type: string
  title: string
  status: number
  detail: string
  mend: string
  [more: string]: unknown
}

/** An answer that must be an RFC 9457 document of a kind, saying what is wrong and what to do. */
async function problem(answer: Response | Promise<Response>, status: number, kind: string): Promise<Problem> {
  const got = await answer
  const body = (await got.json()) as Problem
  expect([got.status, body.status, body.type]).toEqual([status, status, `/problems/${kind}`])
  expect(got.headers.get('content-type')).toContain('application/problem+json')
  expect(body.detail.length * body.mend.length * body.title.length).toBeGreaterThan(0)
  return body
}

describe('access (OAuth 2.0 client credentials, RFC 6749)', () => {
  it('gives a token for key and secret, by HTTP Basic or in the form', async () => {
    const { keyId, secret } = await desk.newKey()
    const basic = { Authorization: `Basic ${Buffer.from(`${keyId}:${secret}`).toString('base64')}` }
    const answer = await desk.exchange({}, basic)
    expect(answer.headers.get('cache-control')).toBe('no-store')
    expect(await answer.json()).toMatchObject({
      token_type: 'Bearer',
      expires_in: 900,
      scope: 'see-market see-account send-orders',
    })
    expect(await desk.askToken(keyId, secret)).toMatch(/^ey/)
  })

  it('tells an unknown key, a wrong secret and a key of the other environment apart', async () => {
    const { keyId } = await desk.newKey()
    const live = await desk.newKey(['see-account'], 'live')
    const form = (id: string, secret: string) => desk.exchange({ client_id: id, client_secret: secret })
    expect(await problem(form('paper-none', 'x'), 401, 'unknown-key')).toMatchObject({
      error: 'invalid_client',
    })
    expect((await problem(form(keyId, 'x'), 401, 'wrong-secret')).detail).toContain(keyId)
    expect((await problem(form(live.keyId, live.secret), 403, 'other-environment')).mend).toContain(
      'paper key',
    )
    await problem(desk.exchange({}), 400, 'malformed-request')
    await problem(desk.exchange({ grant_type: 'password' }), 400, 'unsupported-grant')
  })

  it('a token does what its scopes say, and no more', async () => {
    const { keyId, secret } = await desk.newKey(['see-market'])
    const token = await desk.askToken(keyId, secret)
    expect((await desk.call('GET', '/securities', undefined, token)).status).toBe(200)
    const refused = await problem(desk.call('GET', '/paper/account', undefined, token), 403, 'missing-scope')
    expect(refused.mend).toContain('see-account')
    await problem(desk.call('POST', '/paper/orders', {}, token), 403, 'missing-scope')
  })

  it('says that a token is missing, made up, or expired', async () => {
    await problem(desk.call('GET', '/paper/orders', undefined, ''), 401, 'token-missing')
    const made = await problem(desk.call('GET', '/paper/orders', undefined, 'ey.ey.ey'), 401, 'unknown-token')
    expect(made.detail).toContain('not issued by this broker')
    const { keyId, secret } = await desk.newKey()
    const token = await desk.askToken(keyId, secret)
    const later = new Wall()
    later.at = wall.at + 901_000
    const tomorrow = new Desk(
      desk.world,
      await (await import('../keys')).Tokens.open(`${dir.path}/token.key`, 900, later.now),
    )
    expect(
      (await problem(tomorrow.call('GET', '/paper/orders', undefined, token), 401, 'expired-token')).detail,
    ).toContain('900 seconds')
  })
})

describe('refusals of orders', () => {
  it.each([
    ['unknown-security', { symbol: 'OSPREY' }, 'Did you mean OSPRY'],
    ['price-off-tick', { symbol: 'OSPRY', ordType: 'Limit', price: 10.005 }, 'Use 10.00 or 10.01'],
    ['quantity-not-whole', { symbol: 'OSPRY', orderQty: 10.5 }, 'Use 10'],
    ['not-enough-buying-power', { symbol: 'OSPRY', orderQty: 1_000_000 }, 'Order at most'],
    ['shares-not-held', { symbol: 'OSPRY', side: 'Sell' }, 'use SellShort'],
    ['exit-on-wrong-side', { symbol: 'OSPRY', exits: { target: { price: 0.5 } } }, 'Set it above'],
  ])('%s', async (kind, order, mend) => {
    const body = await problem(desk.send({ clOrdId: `no-${kind}`, ...order } as never), 422, kind)
    expect(body.mend).toContain(mend)
    expect(body.order).toMatchObject({ ordStatus: 'Rejected' })
    // A refused order is kept, and leaves its id free.
    expect((await desk.order(`no-${kind}`)).ordStatus).toBe('Rejected')
    expect(
      (await desk.send({ clOrdId: `no-${kind}`, symbol: 'OSPRY', ordType: 'Limit', price: 1.5, orderQty: 1 }))
        .status,
    ).toBe(201)
  })

  it('a second order under the same client order id changes nothing and answers with the first', async () => {
    const first = (await (
      await desk.send({ clOrdId: 'twice', symbol: 'OSPRY', ordType: 'Limit', price: 2, orderQty: 1 })
    ).json()) as Order
    const body = await problem(
      desk.send({ clOrdId: 'twice', symbol: 'GANET' }),
      409,
      'duplicate-client-order-id',
    )
    expect(body.order).toMatchObject({ orderId: first.orderId, symbol: 'OSPRY' })
    expect((await desk.get<Order[]>('/paper/orders')).filter((o) => o.clOrdId === 'twice')).toHaveLength(1)
  })

  it('the same order sent by twenty at once is taken once', async () => {
    const order = { clOrdId: 'twenty', symbol: 'OSPRY', ordType: 'Limit' as const, price: 2, orderQty: 1 }
    const answers = await Promise.all(Array.from({ length: 20 }, () => desk.send(order)))
    expect(answers.map((a) => a.status).sort()).toEqual([201, ...Array<number>(19).fill(409)])
    const bodies = (await Promise.all(answers.map((a) => a.json()))) as { orderId?: string; order?: Order }[]
    expect(new Set(bodies.map((b) => b.orderId ?? b.order!.orderId)).size).toBe(1)
  })

  it('what working orders hold back cannot be spent twice', async () => {
    const { buyingPower } = await desk.get<{ buyingPower: number }>('/paper/account')
    const half = Math.floor((buyingPower * 0.6) / 2)
    const order = (clOrdId: string) =>
      desk.send({ clOrdId, symbol: 'OSPRY', ordType: 'Limit', price: 2, orderQty: half })
    expect((await order('half-1')).status).toBe(201)
    const body = await problem(order('half-2'), 422, 'not-enough-buying-power')
    const most = Number(/Order at most (\d+)/.exec(body.mend)![1])
    expect(most * 2).toBeLessThanOrEqual(buyingPower - half * 2)
    await desk.call('DELETE', '/paper/orders/half-1')
    expect((await order('half-3')).status).toBe(201)
    await desk.call('DELETE', '/paper/orders/half-3')
  })

  it('names each field that cannot be read', async () => {
    const body = await problem(
      desk.send({ clOrdId: 'bad id', symbol: '', ordType: 'Limit', qty: 1 } as never),
      400,
      'malformed-request',
    )
    const fields = (body.errors as { field: string }[]).map((e) => e.field)
    expect(fields).toEqual(expect.arrayContaining(['clOrdId', 'symbol']))
    await problem(desk.call('POST', '/paper/orders', '{not json'), 400, 'malformed-request')
    await problem(desk.call('GET', '/nowhere'), 404, 'not-found')
    await problem(desk.call('GET', '/paper/orders/none'), 404, 'unknown-order')
    await problem(desk.call('GET', '/paper/orders?which=some'), 400, 'malformed-request')
  })

  it('a dry run tells every check and sends nothing', async () => {
    const before = (await desk.get<Order[]>('/paper/orders?which=all')).length
    const answer = await desk.call('POST', '/paper/orders/check', {
      clOrdId: 'dry',
      symbol: 'OSPRY',
      side: 'Buy',
      orderQty: 0.5,
      ordType: 'Market',
    })
    const { accepted, checks } = (await answer.json()) as {
      accepted: boolean
      checks: { code: string; verdict: string }[]
    }
    expect(accepted).toBe(false)
    expect(checks.filter((c) => c.verdict === 'fails').map((c) => c.code)).toEqual(['quantity'])
    expect(await desk.get<Order[]>('/paper/orders?which=all')).toHaveLength(before)
  })
})

describe('an order with stop and target', () => {
  it('is New when acknowledged, fills, and leaves both exits resting, one cancelling the other', async () => {
    const sent = (await (
      await desk.send({
        clOrdId: 'b-1',
        symbol: 'GANET',
        exits: { stop: { percent: 3 }, target: { percent: 7 } },
      })
    ).json()) as Order
    expect(sent).toMatchObject({ ordStatus: 'New', cumQty: 0 })
    await desk.run(wall, 5)
    const entry = await desk.order('b-1')
    expect(entry).toMatchObject({ ordStatus: 'Filled', cumQty: 100, leavesQty: 0 })
    expect(entry.chain.map((s) => s.ordStatus)[0]).toBe('New')
    const [stop, target] = [await desk.order('b-1:stop'), await desk.order('b-1:target')]
    expect(stop).toMatchObject({
      ordStatus: 'New',
      ordType: 'Stop',
      side: 'Sell',
      orderQty: 100,
      contingencyType: 'OneCancelsTheOther',
    })
    expect(stop.stopPx! / entry.avgPx).toBeCloseTo(0.97, 3)
    expect(target.price! / entry.avgPx).toBeCloseTo(1.07, 3)
    const held = (
      await desk.get<{ symbol: string; quantity: number; stopPx: number }[]>('/paper/positions')
    ).find((p) => p.symbol === 'GANET')
    expect(held).toMatchObject({ quantity: 100, stopPx: stop.stopPx })
    const account = await desk.get<{ cash: number; equity: number }>('/paper/account')
    const paid = entry.chain.reduce(
      (sum, s) => sum + (s.lastQty ?? 0) * (s.lastPx ?? 0) + (s.commission ?? 0),
      0,
    )
    expect(account.cash).toBeCloseTo(50_000 - paid, 4)
  })

  it('cancels with its exits before it is filled, and cannot be canceled after', async () => {
    await desk.send({
      clOrdId: 'b-2',
      symbol: 'GANET',
      ordType: 'Limit',
      price: 1,
      exits: { stop: { ticks: 5 }, target: { ticks: 9 } },
    })
    expect(await (await desk.call('DELETE', '/paper/orders/b-2')).json()).toMatchObject({
      ordStatus: 'Canceled',
    })
    expect((await desk.order('b-2:stop')).ordStatus).toBe('Canceled')
    const body = await problem(desk.call('DELETE', '/paper/orders/b-2'), 409, 'order-not-working')
    expect(body.detail).toContain('Canceled')
  })

  it('standing down cancels what works and closes what is held', async () => {
    const answer = await desk.call('POST', '/paper/stand-down', { flatten: true })
    const done = (await answer.json()) as { canceled: string[]; closing: string[]; left: string[] }
    expect(done.canceled).toEqual(expect.arrayContaining(['b-1:stop', 'b-1:target', 'twice']))
    expect([done.closing.length, done.left]).toEqual([1, []])
    await desk.run(wall, 5)
    expect(await desk.get<Order[]>('/paper/orders?which=working')).toEqual([])
    expect((await desk.get<{ quantity: number }[]>('/paper/positions')).every((p) => p.quantity === 0)).toBe(
      true,
    )
  })
})

describe('market data', () => {
  it('daily bars as JSON, CSV and FHB1 are the same, and today’s is left out until it is complete', async () => {
    const path = '/securities/OSPRY/bars?every=1%20day&limit=20'
    const { bars } = await desk.get<{ bars: { time: string; close: number; volume: number }[] }>(path)
    expect(bars).toHaveLength(20)
    expect(bars.at(-1)!.time).toBe('2026-03-13')
    const csv = await desk.call('GET', `${path}&format=csv`)
    expect(csv.headers.get('content-type')).toContain('text/csv')
    const rows = readCsv(await csv.text()).rows.map((r) => Number(r.cells[4]))
    expect(rows).toEqual(bars.map((b) => b.close))
    const answer = await desk.call('GET', '/bars?every=1%20day&symbols=OSPRY,GANET&limit=20')
    const set = openTable(decodeBars(await answer.arrayBuffer()))
    expect(set.symbols).toEqual(['OSPRY', 'GANET'])
    expect([...set.bars[0].close]).toEqual(rows)
    const { bars: sofar } = await desk.get<{ bars: { time: string }[] }>(`${path}&soFar=true`)
    expect(sofar.at(-1)!.time).toBe('2026-03-16')
  })

  it('tells every venue in its own time, and bars of each in its own zone', async () => {
    const venues = await desk.get<{ mic: string; zone: string; currency: string; now: string }[]>('/venues')
    expect(venues.map((v) => [v.mic, v.zone, v.currency, v.now.slice(-6)])).toEqual([
      ['XBKW', 'America/Halifax', 'USD', '-03:00'],
      ['XSKR', 'Europe/Helsinki', 'EUR', '+02:00'],
    ])
    const { bars } = await desk.get<{ bars: { time: string }[] }>(
      '/securities/SISUX/bars?every=30%20min&limit=3000',
    )
    expect(bars.filter((b) => b.time.includes('T10:00:00+02:00')).length).toBeGreaterThan(20)
    const both = decodeBars(
      await (await desk.call('GET', '/bars?every=1%20day&symbols=OSPRY,SISUX&limit=5')).arrayBuffer(),
    )
    expect(both.calendars.map((c) => c.zone)).toEqual(['America/Halifax', 'Europe/Helsinki'])
  })

  it('what is traded in another currency can be looked at, not ordered', async () => {
    const refused = await problem(
      desk.send({ symbol: 'SISUX', clOrdId: 'euro-1', orderQty: 10 }),
      422,
      'unknown-security',
    )
    expect(refused.detail).toContain('traded in EUR')
  })

  it('bars as traded, with splits and dividends told, are made comparable by what is told', async () => {
    const listing = desk.world.markets.listing.filter((l) => l.kind === 'Stock')
    let told = 0
    for (const { symbol } of listing.slice(0, 60)) {
      const actions = await desk.get<Action[]>(`/securities/${symbol}/actions`)
      if (actions.length === 0) continue
      told++
      const of = async (how: string) =>
        openTable(
          decodeBars(
            await (
              await desk.call('GET', `/bars?every=1%20day&symbols=${symbol}&adjust=${how}`)
            ).arrayBuffer(),
          ),
        ).bars[0]
      const [raw, splits, all] = [await of('raw'), await of('splits'), await of('all')]
      adjusted(raw, actions, 'splits').close.forEach((x, i) => expect(x).toBeCloseTo(splits.close[i], 3))
      adjusted(raw, actions, 'all').close.forEach((x, i) => expect(x).toBeCloseTo(all.close[i], 3))
    }
    expect(told).toBeGreaterThan(3)
  })

  it('companies have reported by now what they have, and the next date lies ahead', async () => {
    const reports = await desk.get<{ symbol: string; known: string; eps?: number; nextEarnings?: string }[]>(
      '/reports?symbols=OSPRY,GANET',
    )
    expect(new Set(reports.map((r) => r.symbol))).toEqual(new Set(['OSPRY', 'GANET']))
    const now = Date.parse((await desk.get<{ now: string }>('/clock')).now)
    for (const report of reports) expect(Date.parse(report.known)).toBeLessThanOrEqual(now)
    expect(reports.filter((r) => r.symbol === 'OSPRY').at(-1)!.nextEarnings! >= '2026-03-16').toBe(true)
    await problem(desk.call('GET', '/bars?every=1%20day&extras=moonlight'), 400, 'malformed-request')
  })

  it('counts up and down trades of minutes, and option contracts of days, where asked', async () => {
    const minutes = await desk.get<{ bars: { uptrades?: number; downtrades?: number; volume: number }[] }>(
      '/securities/OSPRY/bars?every=5%20min&limit=20&extras=uptrades,downtrades',
    )
    for (const bar of minutes.bars) {
      expect(bar.uptrades! + bar.downtrades!).toBeLessThanOrEqual(300)
      expect(bar.uptrades! + bar.downtrades!).toBeGreaterThan(0)
    }
    const days = await desk.get<{ bars: { optionvolume?: number }[] }>(
      '/securities/OSPRY/bars?every=1%20day&limit=5&extras=optionvolume',
    )
    expect(days.bars.every((bar) => Number.isInteger(bar.optionvolume))).toBe(true)
  })

  it('minute bars carry the offset of the venue, on both sides of the clock change', async () => {
    const { bars } = await desk.get<{ bars: { time: string }[] }>(
      '/securities/OSPRY/bars?every=1%20min&limit=3000',
    )
    const opens = bars.filter((b) => b.time.includes('T09:30')).map((b) => b.time)
    expect(opens).toContain('2026-03-06T09:30:00-04:00')
    expect(opens).toContain('2026-03-09T09:30:00-03:00')
  })

  it('tells the session of the venue', async () => {
    expect(await desk.get('/venues/XBKW/session')).toMatchObject({
      state: 'Open',
      date: '2026-03-16',
      zone: 'America/Halifax',
    })
    expect((await desk.call('GET', '/venues/NONE/session')).status).toBe(404)
    await problem(desk.call('GET', '/securities/NONE'), 422, 'unknown-security')
    await problem(desk.call('GET', '/securities/OSPRY/bars?every=7%20furlongs'), 400, 'malformed-request')
  })

  it('the clock can be paused, stepped and jumped, never turned back', async () => {
    expect(await (await desk.call('POST', '/clock', { running: false })).json()).toMatchObject({
      running: false,
    })
    const before = await desk.get<{ now: string }>('/clock')
    wall.pass(30)
    expect(await desk.get('/clock')).toMatchObject(before)
    const stepped = (await (await desk.call('POST', '/clock', { step: 60 })).json()) as { now: string }
    expect(Date.parse(stepped.now) - Date.parse(before.now)).toBe(60_000)
    await problem(desk.call('POST', '/clock', { step: -60 }), 400, 'malformed-request')
    const jumped = (await (await desk.call('POST', '/clock', { jumpTo: 'close' })).json()) as { now: string }
    expect(jumped.now).toContain('T16:00:00')
    const body = await problem(desk.send({ clOrdId: 'late', symbol: 'OSPRY' }), 422, 'market-closed')
    expect(body.mend).toContain('Wait for the open')
    const opened = (await (await desk.call('POST', '/clock', { jumpTo: 'open', running: true })).json()) as {
      now: string
    }
    expect(opened.now).toBe('2026-03-17T09:30:00-03:00')
  })
})

describe('the stream of execution reports', () => {
  /** Reads events until `done` of them came, then goes away. */
  async function read(done: number, lastId?: string): Promise<ExecutionReport[]> {
    const gone = new AbortController()
    const answer = await desk.app.request('/paper/executions/stream?from=start', {
      headers: { Authorization: `Bearer ${desk.token}`, ...(lastId ? { 'Last-Event-ID': lastId } : {}) },
      signal: gone.signal,
    })
    const reports: ExecutionReport[] = []
    const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader()
    let text = ''
    while (reports.length < done) {
      const { value } = await reader.read()
      text += value
      const events = text.split('\n\n')
      text = events.pop()!
      for (const event of events) {
        const data = /^data: (.*)$/m.exec(event)?.[1]
        if (data) reports.push(JSON.parse(data) as ExecutionReport)
      }
    }
    gone.abort()
    await reader.cancel()
    return reports
  }

  it('resumes after the last event that came, without loss and without repeating', async () => {
    const all = await desk.get<ExecutionReport[]>('/paper/executions')
    const first = await read(5)
    const rest = await read(all.length - 5, String(first.at(-1)!.seq))
    expect([...first, ...rest].slice(0, all.length).map((r) => r.seq)).toEqual(all.map((r) => r.seq))
    expect(all.map((r) => r.seq)).toEqual(all.map((_, i) => i + 1))
  })

  it('tells what happens while one listens', async () => {
    const { length } = await desk.get<ExecutionReport[]>('/paper/executions')
    const heard = read(1, String(length))
    await desk.send({ clOrdId: 'heard', symbol: 'OSPRY', ordType: 'Limit', price: 1.5, orderQty: 1 })
    expect((await heard)[0]).toMatchObject({ clOrdId: 'heard', execType: 'New', seq: length + 1 })
  })
})

describe('quotes', () => {
  it('come with the clock, and again only where they changed', async () => {
    const gone = new AbortController()
    const answer = await desk.app.request('/quotes/stream?symbols=OSPRY,GANET', {
      headers: { Authorization: `Bearer ${desk.token}` },
      signal: gone.signal,
    })
    const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader()
    let text = ''
    const until = async (pattern: RegExp) => {
      while (!pattern.test(text)) text += (await reader.read()).value
      const found = pattern.exec(text)![1]
      text = ''
      return JSON.parse(found) as never
    }
    const first = await until(/event: quotes\ndata: (.*)\n\n/)
    expect((first as { symbol: string }[]).map((q) => q.symbol)).toEqual(['OSPRY', 'GANET'])
    for (const { bid, ask, last } of first as { bid: number; ask: number; last: number }[]) {
      expect(bid).toBeLessThan(ask)
      expect([bid, ask]).toContain(last)
    }
    const next = until(/event: clock\ndata: (.*)\n\n/)
    await desk.run(wall, 61)
    expect(await next).toMatchObject({ running: true, session: 'Open' })
    gone.abort()
    await reader.cancel()
  })

  it('of one security or of all; an unknown one is named', async () => {
    expect(await desk.get<unknown[]>('/quotes?symbols=OSPRY')).toHaveLength(1)
    expect((await desk.get<unknown[]>('/quotes')).length).toBeGreaterThan(150)
    const body = await problem(desk.call('GET', '/quotes?symbols=OSPRY,NONE'), 422, 'unknown-security')
    expect(body.detail).toContain('NONE')
  })
})

describe('a disk that refuses', () => {
  it('the order is refused with a reason, nothing of it stands, and the next one is taken', async () => {
    const journal = (desk.world as unknown as { journal: { file: { datasync(): Promise<void> } } }).journal
    jest.spyOn(journal.file, 'datasync').mockRejectedValueOnce(new Error('ENOSPC'))
    const order = { symbol: 'OSPRY', ordType: 'Limit' as const, price: 1.5, orderQty: 1 }
    const body = await problem(desk.send({ clOrdId: 'full-1', ...order }), 503, 'journal-unwritable')
    expect(body.mend).toContain('Free some disk space')
    expect((await desk.call('GET', '/paper/orders/full-1')).status).toBe(404)
    expect((await desk.send({ clOrdId: 'full-1', ...order })).status).toBe(201)
  })
})

describe('the description', () => {
  it('is OpenAPI 3.1 made of the schemas that validate the requests', async () => {
    const document = (await (await desk.app.request('/openapi.json')).json()) as {
      openapi: string
      paths: Record<string, unknown>
      components: { schemas: Record<string, { properties?: Record<string, unknown> }> }
    }
    expect(document.openapi).toBe('3.1.0')
    expect(Object.keys(document.paths)).toEqual(
      expect.arrayContaining([
        '/paper/token',
        '/paper/orders',
        '/paper/orders/{clOrdId}',
        '/paper/executions/stream',
        '/quotes/stream',
        '/securities/{symbol}/bars',
        '/venues/{mic}/session',
      ]),
    )
    expect(Object.keys(document.components.schemas.NewOrder.properties!)).toEqual(
      expect.arrayContaining(['clOrdId', 'orderQty', 'stopPx', 'exits']),
    )
    expect(document.components.schemas).toHaveProperty('Problem')
  })
})
