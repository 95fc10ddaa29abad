import { describe, expect, it } from '@jest/globals'
import { SCOPES } from '../keys'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

let desk: Desk
const wall = new Wall()

deskFor(wall, (opened) => (desk = opened))

interface Document {
  paths: Record<string, Record<string, { security?: Record<string, string[]>[]; requestBody?: unknown }>>
}

/** Every route of the document: its path with parameters filled in, its method, the scope that it asks for. */
async function routes() {
  const { paths } = await desk.get<Document>('/openapi.json')
  return Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, { security, requestBody }]) => ({
      path: path
        .replace('{symbol}', 'OSPRY')
        .replace('{mic}', 'XBKW')
        .replace('{clOrdId}', 'x')
        .replace('{kind}', 'not-found'),
      method: method.toUpperCase(),
      scope: security?.[0]?.token?.[0],
      body: requestBody ? {} : undefined,
    })),
  )
}

const PUBLIC = ['GET /health', 'GET /problems/not-found', 'POST /paper/token']

describe('every route of the OpenAPI document, streams included', () => {
  it('names a scope, but for those that anyone may ask', async () => {
    const all = await routes()
    expect(all.length).toBeGreaterThan(20)
    const open = all.filter((one) => !one.scope).map((one) => `${one.method} ${one.path}`)
    expect(open.sort()).toEqual(PUBLIC)
    expect(all.some(({ path }) => path === '/paper/executions/stream')).toBe(true)
    expect(all.some(({ path }) => path === '/quotes/stream')).toBe(true)
  })

  it('refuses who bears no token, a forged one, and one of too few scopes', async () => {
    const [head, body] = desk.token.split('.')
    const forged = `${head}.${body}.${'A'.repeat(43)}`
    const tokens = new Map<string, string>()
    for (const scope of SCOPES) {
      const { keyId, secret } = await desk.newKey(SCOPES.filter((one) => one !== scope))
      tokens.set(scope, await desk.askToken(keyId, secret))
    }
    for (const { path, method, scope, body: sent } of await routes()) {
      if (!scope) continue
      await problem(desk.call(method, path, sent, ''), 401, 'token-missing')
      await problem(desk.call(method, path, sent, 'garbage'), 401, 'unknown-token')
      await problem(desk.call(method, path, sent, forged), 401, 'unknown-token')
      const refused = await problem(desk.call(method, path, sent, tokens.get(scope)), 403, 'missing-scope')
      expect(refused.mend).toContain(scope)
    }
  })

  it('refuses query fields that it does not have, by name', async () => {
    for (const { path, method, body } of await routes()) {
      if (method === 'POST' && path === '/paper/token') continue
      const refused = await problem(desk.call(method, `${path}?moonlight=1`, body), 400, 'malformed-request')
      expect(refused.detail).toContain('moonlight: not a query field')
    }
  })
})

describe('query fields', () => {
  it.each([
    ['/paper/orders?status=open', 'did you mean which?'],
    ['/paper/orders?smybol=OSPRY', 'did you mean symbol?'],
    ['/quotes?symbol=OSPRY', 'did you mean symbols?'],
    ['/securities/OSPRY/bars?timeframe=1%20day', 'did you mean every?'],
    ['/securities/OSPRY/bars?adjust=raw', 'did you mean prices?'],
    ['/securities/OSPRY/bars?start=2026-01-01', 'did you mean from?'],
    ['/clock?now=1', 'this path takes none'],
    ['/bars?limit=2&limit=3', 'given twice'],
  ])('%s', async (path, wanted) => {
    expect((await problem(desk.call('GET', path), 400, 'malformed-request')).detail).toContain(wanted)
  })

  it('orders of one security are those and no others', async () => {
    await desk.send({ clOrdId: 'of-ospry', symbol: 'OSPRY', ordType: 'Limit', price: 2, orderQty: 1 })
    await desk.send({ clOrdId: 'of-ganet', symbol: 'GANET', ordType: 'Limit', price: 2, orderQty: 1 })
    const of = async (query: string) =>
      (await desk.get<{ clOrdId: string }[]>(`/paper/orders?${query}`)).map((o) => o.clOrdId)
    expect(await of('symbol=OSPRY')).toEqual(['of-ospry'])
    expect(await of('symbol=ganet&which=working')).toEqual(['of-ganet'])
  })
})

describe('a key hands on at most what it has', () => {
  const make = (token: string, about: object) =>
    desk.call(
      'POST',
      '/paper/keys',
      { environment: 'paper', name: 'n', scopes: ['see-market'], ...about },
      token,
    )

  it('only one with manage-keys makes any, and of its own scopes and environment', async () => {
    const sender = await desk.newKey(['send-orders'])
    const token = await desk.askToken(sender.keyId, sender.secret)
    await problem(make(token, {}), 403, 'missing-scope')
    await problem(make(token, { scopes: [...SCOPES] }), 403, 'missing-scope')
    const maker = await desk.newKey(['manage-keys', 'see-market'])
    const makers = await desk.askToken(maker.keyId, maker.secret)
    expect((await make(makers, {})).status).toBe(201)
    const more = await problem(
      make(makers, { scopes: ['see-market', 'send-orders'] }),
      403,
      'beyond-own-rights',
    )
    expect(more.detail).toContain('send orders')
    const live = await problem(make(makers, { environment: 'live' }), 403, 'beyond-own-rights')
    expect(live.mend).toContain('environment paper')
  })

  it('a token of fewer scopes than its key hands on no more than the token', async () => {
    const whole = await desk.newKey()
    const answer = await desk.exchange({
      client_id: whole.keyId,
      client_secret: whole.secret,
      scope: 'manage-keys see-market',
    })
    const { access_token } = (await answer.json()) as { access_token: string }
    await problem(make(access_token, { scopes: ['send-orders'] }), 403, 'beyond-own-rights')
  })
})

describe('streams', () => {
  it.each([['x'], ['-1'], ['1.5'], ['999999'], ['1e3'], ['0x1']])(
    'Last-Event-ID %s is refused, not begun at now',
    async (id) => {
      const answer = await desk.app.request('/paper/executions/stream', {
        headers: { Authorization: `Bearer ${desk.token}`, 'Last-Event-ID': id },
      })
      expect((await problem(answer, 400, 'malformed-request')).detail).toContain('Last-Event-ID')
    },
  )
})
