import { beforeAll, describe, expect, it } from '@jest/globals'
import { type Scope } from '@/core/orders/access'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

let desk: Desk
const wall = new Wall()
deskFor(wall, (opened) => (desk = opened))

const start = '2026-03-02'
const trading: Scope[] = ['see-market', 'see-account', 'send-orders']
/** Token of a new key. */
const tokenOf = async (
  scopes: Scope[],
  accounts: 'all' | string[] = 'all',
  environment: 'paper' | 'live' = 'paper',
) => {
  const { keyId, secret } = await desk.newKey(scopes, environment, { accounts })
  return { keyId, secret, token: await desk.askToken(keyId, secret, environment) }
}

beforeAll(async () => {
  await desk.call('POST', '/paper/accounts', { account: 'PAPER-2', cash: 10_000 })
})

describe('a stream ends within a second', () => {
  const opened = async (token: string, path = '/paper/executions/stream') => {
    const answer = await desk.app.request(path, { headers: { Authorization: `Bearer ${token}` } })
    expect(answer.status).toBe(200)
    return answer.body!.getReader()
  }
  /** Reads to the end of a stream, and gives how long that took in real milliseconds, and what was said last. */
  const ended = async (reader: ReadableStreamDefaultReader<Uint8Array>) => {
    const began = performance.now()
    let text = ''
    for (;;) {
      const { done, value } = await reader.read()
      if (done) return { took: performance.now() - began, text }
      text += new TextDecoder().decode(value)
    }
  }

  it.each(['withdrawn', 'renewed', 'run out'])('when its key is %s', async (how) => {
    const expires = new Date(wall.at + 60_000).toISOString()
    const { keyId, secret } = await desk.newKey(trading, 'paper', how === 'run out' ? { expires } : {})
    const token = await desk.askToken(keyId, secret)
    const readers = [
      await opened(token),
      await opened(token, '/paper/status/stream'),
      await opened(token, '/paper/streams'),
    ]
    const all = Promise.all(readers.map(ended))
    if (how === 'withdrawn') await desk.call('DELETE', `/paper/keys/${keyId}`)
    else if (how === 'renewed') await desk.call('POST', `/paper/keys/${keyId}/renew`)
    else wall.pass(61)
    for (const { text } of await all) expect(text).toMatch(/: over: /)
  })

  it('when its rehearsal is taken away', async () => {
    await desk.call('POST', '/rehearsals', { id: 'gone', start })
    const end = ended(await opened(desk.token, '/rehearsals/gone/executions/stream'))
    await desk.call('DELETE', '/rehearsals/gone')
    await end
  })

  it('and a key has at most 64 of them', async () => {
    const { token } = await tokenOf(trading)
    const readers = []
    for (let n = 0; n < 64; n++) readers.push(await opened(token, '/paper/status/stream'))
    const more = desk.call('GET', '/paper/status/stream', undefined, token)
    expect((await problem(more, 429, 'too-many-streams')).detail).toContain('64')
    await readers[0].cancel()
    await opened(token, '/paper/status/stream').then((reader) => reader.cancel())
    await Promise.all(readers.map((reader) => reader.cancel()))
  })
})

describe('a rehearsal', () => {
  it('belongs to the key that made it, and to keys that speak for its accounts', async () => {
    const two = await tokenOf(trading, ['PAPER-2'])
    await desk.call('POST', '/rehearsals', { id: 'mine', start })
    const asked: [string, string, unknown?][] = [
      ['GET', ''],
      ['GET', '/orders'],
      ['GET', '/quotes?symbols=OSPRY'],
      ['POST', '/orders', { clOrdId: 'x', symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Market' }],
      ['POST', '/put-back', { to: start }],
      ['POST', '/market-time', { step: 60 }],
      ['DELETE', ''],
    ]
    for (const [method, path, body] of asked)
      await problem(desk.call(method, `/rehearsals/mine${path}`, body, two.token), 403, 'not-your-rehearsal')
    expect(await (await desk.call('GET', '/rehearsals', undefined, two.token)).json()).toEqual([])
    // Its own, and another key of the same account.
    await desk.call('POST', '/rehearsals', { id: 'theirs', start }, two.token)
    const same = await tokenOf(trading, ['PAPER-2', 'PAPER-1'])
    const other = await tokenOf(trading, ['PAPER-1'])
    const at = '/rehearsals/theirs/market-time'
    for (const { token } of [two, same])
      expect((await desk.call('POST', at, { step: 60 }, token)).status).toBe(200)
    await problem(desk.call('POST', at, { step: 60 }, other.token), 403, 'not-your-rehearsal')
    expect((await desk.call('POST', at, { step: 60 })).status).toBe(200)
    for (const id of ['mine', 'theirs']) await desk.call('DELETE', `/rehearsals/${id}`)
  })
})

describe('what is common to all accounts', () => {
  const common: [string, string, unknown][] = [
    ['POST', '/market-time', { step: 60 }],
    ['POST', '/market-time/hold', { wallSeconds: 1 }],
    ['POST', '/halts', { symbol: 'OSPRY' }],
    ['DELETE', '/halts/OSPRY', undefined],
  ]

  it.each(common)('%s %s takes manage-keys and all accounts', async (method, path, body) => {
    const trader = await tokenOf(trading)
    await problem(desk.call(method, `/paper${path}`, body, trader.token), 403, 'missing-scope')
    const restricted = await tokenOf([...trading, 'manage-keys'], ['PAPER-2'])
    await problem(desk.call(method, `/paper${path}`, body, restricted.token), 403, 'beyond-own-rights')
  })

  it('the clock takes a key of live while the live account has something at stake', async () => {
    const step = () => desk.call('POST', '/paper/market-time', { step: 1 })
    expect((await step()).status).toBe(200)
    const live = await tokenOf([...trading, 'manage-keys'], 'all', 'live')
    const order = { clOrdId: 'l', symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Limit', price: 0.5 }
    expect((await desk.call('POST', '/live/orders', order, live.token)).status).toBe(201)
    expect((await problem(step(), 403, 'live-at-stake')).detail).toContain('working orders')
    expect((await desk.call('POST', '/live/market-time', { step: 1 }, live.token)).status).toBe(200)
    await desk.call('DELETE', '/live/orders/l', undefined, live.token)
    await desk.run(wall, 3)
    expect((await step()).status).toBe(200)
    const stream = await desk.app.request('/live/executions/stream', {
      headers: { Authorization: `Bearer ${live.token}` },
    })
    const reader = stream.body!.getReader()
    expect((await problem(step(), 403, 'live-at-stake')).detail).toContain('follows')
    await reader.cancel()
    expect((await step()).status).toBe(200)
  })

  it('a key that manages keys takes none away that speaks for more accounts', async () => {
    const { keyId } = await desk.newKey(trading)
    const restricted = await tokenOf([...trading, 'manage-keys'], ['PAPER-2'])
    await problem(
      desk.call('DELETE', `/paper/keys/${keyId}`, undefined, restricted.token),
      403,
      'beyond-own-rights',
    )
  })
})

describe('a key for one account, on every route of the table', () => {
  interface Route {
    method: string
    path: string
    touches: string
    query: string[]
    apart: boolean
    body: unknown
  }
  const order = {
    ...{ clOrdId: 'w', symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Market', account: 'PAPER-1' },
  }
  const bodies: Record<string, unknown> = {
    'POST /orders': order,
    'POST /orders/check': order,
    'POST /orders/batch': { orders: [order] },
    'POST /stand-down': { account: 'PAPER-1' },
    'PATCH /orders/{clOrdId}': { clOrdId: 'w2', price: 0.6 },
    'PUT /gates': { gates: [] },
    'POST /groups/{group}/close': { clOrdId: 'w3' },
    'POST /accounts': { account: 'PAPER-3', cash: 1 },
    'POST /keys': { label: 'more', scopes: ['see-account'], accounts: 'all' },
    'POST /csv-tokens': { label: 'more', accounts: 'all', scopes: ['see-account'] },
    'POST /market-time': { step: 1 },
    'POST /market-time/hold': { wallSeconds: 1 },
    'PUT /market-time/hold/{id}': { answered: 0 },
    'POST /market-time/wake': { at: '2026-03-16T21:00' },
    'PUT /expiries/{symbol}': { exercise: false },
    'POST /exercises': { clOrdId: 'w4', symbol: 'OSPRY', orderQty: 1, account: 'PAPER-1' },
    'POST /halts': { symbol: 'OSPRY' },
    'POST /put-back': { to: '2026-03-02' },
    'PUT /quotes/stream/{id}': { symbols: [] },
    'POST /streams/{id}': { of: 'a', path: '/executions/stream?account=PAPER-1' },
  }

  it('sees and moves nothing of another account', async () => {
    const order = {
      clOrdId: 'theirs',
      symbol: 'OSPRY',
      side: 'Buy',
      orderQty: 1,
      ordType: 'Limit',
      price: 0.5,
    }
    await desk.call('POST', '/paper/orders', { ...order, account: 'PAPER-1' })
    await desk.call('POST', '/rehearsals', { id: 'theirs', start })
    const { keyId: theirs } = await desk.newKey(trading)
    const { token } = await tokenOf(['see-market', 'see-account', 'send-orders', 'manage-keys'], ['PAPER-2'])
    const before = await desk.get('/paper/orders/theirs')
    const document = await desk.get<{
      paths: Record<
        string,
        Record<
          string,
          { 'x-touches': string; servers?: unknown; parameters?: { name: string; in: string }[] }
        >
      >
    }>('/openapi.json')
    const routes = Object.entries(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).map(([method, route]): Route => ({
        ...{
          method: method.toUpperCase(),
          path,
          touches: route['x-touches'],
          apart: route.servers !== undefined,
        },
        query: (route.parameters ?? []).filter((one) => one.in === 'query').map(({ name }) => name),
        body: bodies[`${method.toUpperCase()} ${path}`],
      })),
    )
    expect(routes.length).toBeGreaterThan(60)
    const told: string[] = []
    for (const { method, path, touches, query, apart, body } of routes) {
      expect(touches.length).toBeGreaterThan(10)
      const filled = path
        .replace('{keyId}', theirs)
        .replace('{clOrdId}', 'theirs')
        .replace('{symbol}', 'OSPRY')
        .replace('{mic}', 'XBKW')
        .replace('{kind}', 'not-found')
        .replace(/\{\w+\}/g, 'x')
      const which = method === 'DELETE' && path === '/orders' ? '&which=working' : ''
      const named = query.includes('account') ? `?account=PAPER-1${which}` : ''
      const asked = (world: string) =>
        desk.call(method, `${apart ? '' : world}${filled === '/' ? '' : filled}${named}`, body, token)
      if (path === '/token' || (apart && method === 'POST')) continue
      const more = query.includes('symbols') && path === '/bars/stream' ? '&symbols=OSPRY' : ''
      const answer = more
        ? await desk.call(method, `/paper${filled}?symbols=OSPRY`, undefined, token)
        : await asked('/paper')
      const line = `${method} ${path}: ${answer.status}`
      if (touches.startsWith('The account that is named') && body === undefined && named)
        expect([line, answer.status]).toEqual([line, 404])
      if (/^(The clock|All accounts of its world)/.test(touches))
        expect([line, answer.status >= 400]).toEqual([line, true])
      if (answer.headers.get('Content-Type')?.includes('event-stream')) await answer.body!.cancel()
      else told.push(`${line} ${await answer.text()}`)
      if (!apart) {
        const beyond = await asked('/rehearsals/theirs')
        expect([line, beyond.status]).toEqual([line, 403])
      }
    }
    // A refusal may say the name that was asked for; no answer says anything of it.
    const leaks = told.filter((text) => / 2\d\d /.test(text.slice(0, 80)) && /PAPER-1|theirs/.test(text))
    expect(leaks.filter((text) => !text.startsWith('GET /openapi.json'))).toEqual([])
    expect(await desk.get('/paper/orders/theirs')).toEqual(before)
    expect(await desk.get('/paper/gates?account=PAPER-1')).toEqual({ gates: [] })
    expect((await desk.call('GET', '/rehearsals/theirs')).status).toBe(200)
    await desk.call('DELETE', '/rehearsals/theirs')
  })
})
