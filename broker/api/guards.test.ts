import { describe, expect, it } from '@jest/globals'
import { SCOPES } from '@/core/orders/access'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'

let desk: Desk
const wall = new Wall()

deskFor(wall, (opened) => (desk = opened))

interface Document {
  paths: Record<
    string,
    Record<string, { security?: Record<string, string[]>[]; servers?: unknown; requestBody?: unknown }>
  >
}

/** Every route of the document: its path with parameters filled in, its method, the scope that it asks for. */
async function routes() {
  const { paths } = await desk.get<Document>('/openapi.json')
  return Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, { security, servers, requestBody }]) => ({
      path: `${servers ? '' : '/paper'}${path}`
        .replace(/^\/paper\/$/, '/paper')
        .replace('{keyId}', 'x')
        .replace('{id}', 'x')
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

/** Those that anyone may ask. */
const PUBLIC = ['GET /health', 'GET /problems/not-found', 'POST /paper/token']
/** Those that need a token, whatever it may: what several streams are carried by asks for the right of each. */
const ANY_TOKEN = [
  'DELETE /paper/streams/x/{of}',
  'GET /paper/streams',
  'GET /paper/whoami',
  'POST /paper/streams/x',
]

describe('every route of the OpenAPI document, streams included', () => {
  it('names a scope, but for those that anyone may ask', async () => {
    const all = await routes()
    expect(all.length).toBeGreaterThan(20)
    const open = all.filter((one) => !one.scope).map((one) => `${one.method} ${one.path}`)
    expect(open.sort()).toEqual([...PUBLIC, ...ANY_TOKEN].sort())
    for (const { path, method, body } of all.filter((one) => ANY_TOKEN.includes(`${one.method} ${one.path}`)))
      await problem(desk.call(method, path, body, ''), 401, 'token-missing')
    expect(all.some(({ path }) => path === '/paper/executions/stream')).toBe(true)
    expect(all.some(({ path }) => path === '/paper/quotes/stream')).toBe(true)
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
    ['/paper/orders?status=open', 'did you mean ordStatus?'],
    ['/paper/orders?smybol=OSPRY', 'did you mean symbol?'],
    ['/paper/quotes?symbol=OSPRY', 'did you mean symbols?'],
    ['/paper/securities/OSPRY/bars?timeframe=1%20day', 'did you mean every?'],
    ['/paper/securities/OSPRY/bars?adjust=raw', 'did you mean prices?'],
    ['/paper/securities/OSPRY/bars?start=2026-01-01', 'did you mean from?'],
    ['/paper/market-time?now=1', 'this path takes none'],
    ['/paper/bars?limit=2&limit=3', 'given twice'],
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

describe('streams', () => {
  it.each([['x'], ['-1'], ['7'], ['00000000-0000-0000-0000-000000000000.1.PAPER-1.1'], ['1e3']])(
    'Last-Event-ID %s is refused, not begun at now',
    async (id) => {
      const answer = await desk.app.request('/paper/executions/stream', {
        headers: { Authorization: `Bearer ${desk.token}`, 'Last-Event-ID': id },
      })
      expect((await problem(answer, 400, 'foreign-event')).detail).toContain('Last-Event-ID')
    },
  )

  it.each([['-1'], ['999999'], ['x']])('after=%s is refused', async (after) => {
    await problem(desk.call('GET', `/paper/executions/stream?after=${after}`), 400, 'malformed-request')
  })
})
