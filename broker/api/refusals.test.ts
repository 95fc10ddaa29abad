import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { type Desk, deskFor, problem, Wall } from '@/tests/broker'
import { BODY_LIMIT } from './front'

let desk: Desk
const wall = new Wall()

deskFor(wall, (opened) => (desk = opened))

const raw = (method: string, path: string, headers: Record<string, string> = {}, body?: string) =>
  desk.app.request(path, { method, headers: { Authorization: `Bearer ${desk.token}`, ...headers }, body })

describe('a client’s mistake is never an error of the broker', () => {
  it.each([
    [{}],
    [{ 'Content-Type': 'text/plain' }],
    [{ 'Content-Type': 'application/x-www-form-urlencoded' }],
  ])('a JSON route with %j is 415 and says what to send', async (headers) => {
    for (const path of [
      '/paper/orders',
      '/paper/orders/check',
      '/paper/market-time',
      '/paper/keys',
      '/paper/stand-down',
    ]) {
      const refused = await problem(raw('POST', path, headers, '{}'), 415, 'unsupported-media-type')
      expect(refused.mend).toContain('application/json')
    }
  })

  it('a bad escape in Basic, a NUL or an emoji in client_id', async () => {
    const basic = (text: string) =>
      desk.exchange({}, { Authorization: `Basic ${Buffer.from(text).toString('base64')}` })
    expect((await problem(basic('a%zz:b'), 400, 'malformed-request')).error).toBe('invalid_request')
    await problem(basic('a:%E0%A4%A'), 400, 'malformed-request')
    for (const id of ['a\u0000b', '🦆', 'line\nbreak', 'é"\\'])
      await problem(desk.exchange({ client_id: id, client_secret: 'x' }), 401, 'unknown-key')
  })

  it.each([
    ['PUT', '/paper/orders', 'GET, HEAD, POST, DELETE, OPTIONS'],
    ['DELETE', '/paper/quotes', 'GET, HEAD, OPTIONS'],
    ['PUT', '/paper/orders/x', 'GET, HEAD, DELETE, PATCH, OPTIONS'],
    ['GET', '/paper/token', 'POST, OPTIONS'],
    ['POST', '/openapi.json', 'GET, HEAD, OPTIONS'],
  ])('%s %s is 405 with Allow: %s', async (method, path, allow) => {
    const answer = await raw(method, path)
    expect(new Set(answer.headers.get('allow')?.split(', '))).toEqual(new Set(allow.split(', ')))
    await problem(answer, 405, 'method-not-allowed')
  })

  it.each(['__proto__', 'constructor', 'toString', 'nothing'])('/problems/%s is none', (kind) =>
    problem(raw('GET', `/problems/${kind}`), 404, 'not-found'),
  )

  it('a body beyond the limit is 413, and none is echoed back whole', async () => {
    const json = { 'Content-Type': 'application/json' }
    const long = JSON.stringify({ clOrdId: 'x', text: 'y'.repeat(BODY_LIMIT) })
    await problem(raw('POST', '/paper/orders', json, long), 413, 'body-too-large')
    const many = Object.fromEntries(
      Array.from({ length: 2_000 }, (_, i) => [`field-${i}-${'z'.repeat(10)}`, i]),
    )
    const refused = await raw('POST', '/paper/orders', json, JSON.stringify(many))
    expect((await refused.text()).length).toBeLessThan(4_000)
  })

  it.each([[[]], [[{ symbol: 'OSPRY', legSide: 'Buy' }]]])(
    'an order of the legs %j is refused by name',
    async (legs) => {
      const order = { clOrdId: 'few', symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Market', legs }
      const refused = await problem(desk.call('POST', '/paper/orders', order), 400, 'malformed-request')
      expect(refused.detail).toContain('legs')
    },
  )

  it('step together with jumpTo is refused', async () => {
    const json = { 'Content-Type': 'application/json' }
    const both = raw('POST', '/paper/market-time', json, JSON.stringify({ step: 5, jumpTo: 'open' }))
    expect((await problem(both, 400, 'malformed-request')).detail).toContain('send one of them')
  })
})

interface Schema {
  $ref?: string
  type?: string | string[]
  enum?: unknown[]
  anyOf?: Schema[]
  properties?: Record<string, Schema>
  items?: Schema
}

interface Operation {
  parameters?: { name: string; in: string; schema: Schema }[]
  requestBody?: { content: Record<string, { schema: Schema }> }
}

interface Document {
  paths: Record<string, Record<string, Operation>>
  components: { schemas: Record<string, Schema> }
}

const hostile = fc.oneof(
  fc.constantFrom(
    '',
    ' ',
    '\u0000',
    '%',
    '%zz',
    '../..',
    '__proto__',
    '🦆',
    '-1',
    '1e999',
    'NaN',
    '0x1',
    '2026-02-30',
  ),
  fc.string({ unit: 'binary', maxLength: 20 }),
  fc.integer().map(String),
)

/** Values that a schema takes, and some that it does not. */
function valueFor(schema: Schema, all: Document, deep = 0): fc.Arbitrary<unknown> {
  const named = schema.$ref && all.components.schemas[schema.$ref.split('/').at(-1)!]
  if (named) return valueFor(named, all, deep)
  const wrong = fc.oneof(hostile, fc.jsonValue({ maxDepth: 2 }) as fc.Arbitrary<unknown>)
  const sound = ((): fc.Arbitrary<unknown> => {
    if (schema.enum) return fc.constantFrom(...schema.enum)
    if (schema.anyOf) return fc.oneof(...schema.anyOf.map((one) => valueFor(one, all, deep + 1)))
    if (schema.properties && deep < 4)
      return fc.record(
        Object.fromEntries(
          Object.entries(schema.properties).map(([k, v]) => [k, valueFor(v, all, deep + 1)]),
        ),
        { requiredKeys: [] },
      )
    if (schema.items) return fc.array(valueFor(schema.items, all, deep + 1), { maxLength: 3 })
    if (schema.type === 'number' || schema.type === 'integer')
      return fc.oneof(fc.integer({ min: 1, max: 300 }), fc.double())
    if (schema.type === 'boolean') return fc.boolean()
    return fc.oneof(
      fc.constantFrom('OSPRY', 'XBKW', '1 day', '2026-03-02', 'x-1'),
      fc.string({ maxLength: 12 }),
    )
  })()
  return fc.oneof({ weight: 5, arbitrary: sound }, { weight: 1, arbitrary: wrong })
}

const textOf = (value: unknown): string =>
  typeof value === 'object' ? (JSON.stringify(value) ?? '') : String(value)

it('no request over the schemas of the OpenAPI document, sound or mutated, is answered with a 5xx', async () => {
  const all = (await (await desk.call('GET', '/openapi.json')).json()) as Document
  const operations = Object.entries(all.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method: method.toUpperCase(), operation })),
  )
  const request = fc.constantFrom(...operations).chain(({ path, method, operation }) => {
    const parameters = operation.parameters ?? []
    const [type, content] = Object.entries(operation.requestBody?.content ?? {})[0] ?? []
    return fc.record({
      method: fc.oneof(
        { weight: 15, arbitrary: fc.constant(method) },
        fc.constantFrom('GET', 'POST', 'PUT', 'HEAD'),
      ),
      path: fc.constant(path),
      values: fc
        .tuple(...parameters.map((p) => fc.option(valueFor(p.schema, all))))
        .map((values) => parameters.map((p, i) => ({ ...p, value: values[i] }))),
      type: fc.oneof(
        { weight: 6, arbitrary: fc.constant(type) },
        fc.constantFrom('text/plain', 'application/json', undefined),
      ),
      body: content
        ? fc.oneof({ weight: 9, arbitrary: valueFor(content.schema, all) }, hostile)
        : fc.constant(undefined),
      asText: fc.oneof({ weight: 9, arbitrary: fc.constant(false) }, fc.constant(true)),
      token: fc.oneof({ weight: 9, arbitrary: fc.constant(true) }, fc.constant(false)),
      lastEventId: fc.option(hostile.filter((text) => /^[ -~]*$/.test(text))),
    })
  })
  await fc.assert(
    fc.asyncProperty(request, async (one) => {
      let path = one.path
      const query = new URLSearchParams()
      for (const { name, in: where, value } of one.values) {
        const text = textOf(value)
        if (where === 'path') path = path.replace(`{${name}}`, encodeURIComponent(text).slice(0, 300) || 'x')
        else if (where === 'query' && value !== null) query.set(name, text)
      }
      const form = one.type?.includes('form')
      const body =
        one.body === undefined || one.method === 'GET' || one.method === 'HEAD'
          ? undefined
          : one.asText
            ? textOf(one.body)
            : form
              ? new URLSearchParams(Object.entries(one.body ?? {}).map(([k, v]) => [k, textOf(v)])).toString()
              : JSON.stringify(one.body)
      const gone = new AbortController()
      const answer = await desk.app.request(`${path}${query.size > 0 ? `?${query}` : ''}`, {
        method: one.method,
        headers: {
          ...(one.token ? { Authorization: `Bearer ${desk.token}` } : {}),
          ...(one.type ? { 'Content-Type': one.type } : {}),
          ...(one.lastEventId !== null ? { 'Last-Event-ID': one.lastEventId } : {}),
        },
        body,
        signal: gone.signal,
      })
      expect(answer.status).toBeLessThan(500)
      if (answer.status >= 400 && one.method !== 'HEAD')
        expect(answer.headers.get('content-type')).toContain('application/problem+json')
      await answer.body?.cancel()
      gone.abort()
    }),
    { numRuns: cases(900) },
  )
})
