import { describe, expect, it, jest } from '@jest/globals'
import { type ExecutionReport, type Order } from '@/core/orders/model'
import { Desk, deskFor, problem, Wall } from '@/tests/broker'

let dataDir: string
let desk: Desk
const wall = new Wall()

deskFor(wall, (opened, path) => {
  desk = opened
  dataDir = path
})

describe('access (OAuth 2.0 client credentials, RFC 6749)', () => {
  it('gives a token for key and secret, by HTTP Basic or in the form', async () => {
    const { keyId, secret } = await desk.newKey()
    const basic = { Authorization: `Basic ${Buffer.from(`${keyId}:${secret}`).toString('base64')}` }
    const answer = await desk.exchange({}, basic)
    expect(answer.headers.get('cache-control')).toBe('no-store')
    expect(await answer.json()).toMatchObject({
      token_type: 'Bearer',
      expires_in: 900,
      scope: 'see-market see-account send-orders manage-keys',
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
    expect((await desk.call('GET', '/paper/securities', undefined, token)).status).toBe(200)
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
      desk.worlds,
      await (await import('../keys/tokens')).Tokens.open(`${dataDir}/token.key`, 900, later.now),
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
    const [stop, target] = [await desk.order('b-1/stop'), await desk.order('b-1/target')]
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
    expect((await desk.order('b-2/stop')).ordStatus).toBe('Canceled')
    const body = await problem(desk.call('DELETE', '/paper/orders/b-2'), 409, 'order-not-working')
    expect(body.detail).toContain('Canceled')
  })

  it('standing down cancels what works and closes what is held', async () => {
    const answer = await desk.call('POST', '/paper/stand-down', { flatten: true })
    const done = (await answer.json()) as { canceled: string[]; closing: string[]; left: string[] }
    expect(done.canceled).toEqual(expect.arrayContaining(['b-1/stop', 'b-1/target', 'twice']))
    expect([done.closing.length, done.left]).toEqual([1, []])
    await desk.run(wall, 5)
    expect(await desk.get<Order[]>('/paper/orders?which=working')).toEqual([])
    expect((await desk.get<{ quantity: number }[]>('/paper/positions')).every((p) => p.quantity === 0)).toBe(
      true,
    )
    expect((await desk.call('DELETE', '/paper/stand-down')).status).toBe(200)
  })
})

describe('the stream of execution reports', () => {
  /** Reads events until `done` of them came, then goes away. */
  async function read(
    done: number,
    after = 0,
    lastId?: string,
  ): Promise<(ExecutionReport & { id: string })[]> {
    const gone = new AbortController()
    const answer = await desk.app.request(`/paper/executions/stream?after=${after}`, {
      headers: { Authorization: `Bearer ${desk.token}`, ...(lastId ? { 'Last-Event-ID': lastId } : {}) },
      signal: gone.signal,
    })
    expect(answer.status).toBe(200)
    const reports: (ExecutionReport & { id: string })[] = []
    const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader()
    let text = ''
    while (reports.length < done) {
      const { value } = await reader.read()
      text += value
      const events = text.split('\n\n')
      text = events.pop()!
      for (const event of events) {
        const data = /^data: (.*)$/m.exec(event)?.[1]
        const id = /^id: (.*)$/m.exec(event)?.[1]
        if (data) reports.push({ ...(JSON.parse(data) as ExecutionReport), id: id! })
      }
    }
    gone.abort()
    await reader.cancel()
    return reports.slice(0, done)
  }

  it('resumes after the last event that came, without loss and without repeating', async () => {
    const all = await desk.get<ExecutionReport[]>('/paper/executions')
    const first = await read(5)
    const rest = await read(all.length - 5, 0, first.at(-1)!.id)
    expect(first[0].id).toBe(`${desk.world.id}.1.PAPER-1.1`)
    expect([...first, ...rest].slice(0, all.length).map((r) => r.seq)).toEqual(all.map((r) => r.seq))
    expect(all.map((r) => r.seq)).toEqual(all.map((_, i) => i + 1))
  })

  it('tells what happens while one listens', async () => {
    const { length } = await desk.get<ExecutionReport[]>('/paper/executions')
    const heard = read(1, length)
    await desk.send({ clOrdId: 'heard', symbol: 'OSPRY', ordType: 'Limit', price: 1.5, orderQty: 1 })
    expect((await heard)[0]).toMatchObject({ clOrdId: 'heard', execType: 'New', seq: length + 1 })
  })
})

describe('a disk that refuses', () => {
  it('the order is refused with a reason, nothing of it stands, and the next one is taken', async () => {
    const journal = (
      desk.world as unknown as { journal: { journal: { file: { datasync(): Promise<void> } } } }
    ).journal.journal
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
        '/token',
        '/orders',
        '/orders/{clOrdId}',
        '/executions/stream',
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
