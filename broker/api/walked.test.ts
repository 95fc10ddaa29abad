import { cases } from '@/tests/cases'
import { expect, it } from '@jest/globals'
import fc from 'fast-check'
import { Statement } from '@/core/book/statement'
import { fromE4 } from '@/core/market/money'
import { type Desk, deskFor, Wall } from '@/tests/broker'

/** Requests that are sent over the whole route table; more where a longer run is wanted. */
const COUNT = cases(400)

const wall = new Wall()
let desk: Desk
deskFor(wall, (made) => (desk = made))

/** A JSON schema as far as it is read here. */
interface Schema {
  $ref?: string
  type?: string | string[]
  enum?: unknown[]
  const?: unknown
  properties?: Record<string, Schema>
  items?: Schema
  anyOf?: Schema[]
  oneOf?: Schema[]
  minimum?: number
  maximum?: number
}

interface Route {
  method: string
  path: string
  apart: boolean
  query: { name: string; schema: Schema }[]
  body: Schema | undefined
}

interface Document {
  paths: Record<
    string,
    Record<
      string,
      {
        servers?: unknown
        parameters?: { name: string; in: string; schema: Schema }[]
        requestBody?: { content: Record<string, { schema: Schema }> }
      }
    >
  >
  components: { schemas: Record<string, Schema> }
}

const odd: fc.Arbitrary<unknown> = fc.oneof(
  fc.constantFrom(null, true, '', 'NaN', '1e309', '-1', '\u0000', '💥', '../..', '__proto__', [], {}, [null]),
  fc.double(),
  fc.integer(),
  fc.string({ maxLength: 30 }),
  fc.constantFrom(0, -0, 1e308, 5e-324, Number.MAX_SAFE_INTEGER, -1.005),
)

/** What names something that is there, or nearly. */
const known = fc.constantFrom(
  ...['OSPRY', 'GANET', 'SUVAN', 'BWALL', 'OSPRY 260417C00012000', 'OSPRY 260320P00012000', 'NOSUCH', 'XBKW'],
  ...[
    'w-1',
    'w-2',
    'PAPER-1',
    'PAPER-2',
    'walked',
    '2026-03-02',
    '2026-03-16T10:45',
    '1 day',
    '1 min',
    'csv',
  ],
)

const oddOr = (usual: fc.Arbitrary<unknown>): fc.Arbitrary<unknown> =>
  fc.oneof({ weight: 7, arbitrary: usual }, { weight: 1, arbitrary: odd })

/** Values that a schema takes, and some that it does not. */
function valueOf(schema: Schema, all: Document['components']['schemas'], depth = 0): fc.Arbitrary<unknown> {
  const { $ref, anyOf, oneOf, properties, items } = schema
  if ($ref) return valueOf(all[$ref.split('/').at(-1)!] ?? {}, all, depth + 1)
  if (depth > 6) return odd
  const either = anyOf ?? oneOf
  if (either) return fc.oneof(...either.map((one) => valueOf(one, all, depth + 1)))
  if (schema.const !== undefined) return oddOr(fc.constant(schema.const))
  if (schema.enum) return oddOr(fc.constantFrom(...schema.enum))
  if (properties) {
    const fields = Object.fromEntries(
      Object.entries(properties).map(([name, one]) => [
        name,
        fc.option(valueOf(one, all, depth + 1), { nil: undefined, freq: 3 }),
      ]),
    )
    return oddOr(fc.record(fields))
  }
  const type = Array.isArray(schema.type) ? schema.type[0] : schema.type
  if (type === 'array') return oddOr(fc.array(valueOf(items ?? {}, all, depth + 1), { maxLength: 4 }))
  if (type === 'boolean') return oddOr(fc.boolean())
  if (type === 'integer' || type === 'number')
    return oddOr(fc.oneof(fc.integer({ min: 1, max: 300 }), fc.constantFrom(0.01, 11.5, 12, 1e7)))
  return oddOr(known)
}

async function routesOf(): Promise<{ routes: Route[]; schemas: Document['components']['schemas'] }> {
  const { paths, components } = await desk.get<Document>('/openapi.json')
  const routes = Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, { servers, parameters = [], requestBody }]) => ({
      ...{ method: method.toUpperCase(), path, apart: servers !== undefined },
      query: parameters.filter((one) => one.in === 'query'),
      body: requestBody?.content['application/json']?.schema,
    })),
  )
  return { routes, schemas: components.schemas }
}

function requestTo(route: Route, schemas: Document['components']['schemas']) {
  const world = fc.constantFrom('/paper', '/paper', '/rehearsals/walked', '/live', '/rehearsals/none')
  const names = [...route.path.matchAll(/\{\w+\}/g)].length
  const query = fc.tuple(
    ...route.query.map(({ name, schema }) =>
      fc.option(valueOf(schema, schemas), { nil: undefined, freq: 2 }).map((value) => [name, value] as const),
    ),
  )
  return fc.tuple(
    world,
    fc.array(oddOr(known), { minLength: names, maxLength: names }),
    query,
    route.body ? valueOf(route.body, schemas) : fc.constant(undefined),
  )
}

const text = (value: unknown): string => (typeof value === 'string' ? value : (JSON.stringify(value) ?? ''))

it('whatever is asked of any route, nothing fails inside, and the books stay whole', async () => {
  await desk.call('POST', '/paper/accounts', { account: 'PAPER-2', cash: 10_000, optionLevel: 4 })
  await desk.call('POST', '/rehearsals', { id: 'walked', start: '2026-03-02' })
  const { keyId, secret } = await desk.newKey(undefined, 'live')
  const live = await desk.askToken(keyId, secret, 'live')
  const { routes, schemas } = await routesOf()
  const seed = Number(process.env.HERON_SEED_WALKED ?? 11)
  const perRoute = Math.ceil(COUNT / routes.length)
  const requests = routes.flatMap((route, at) =>
    fc
      .sample(requestTo(route, schemas), { numRuns: perRoute, seed: seed + at })
      .map((one) => ({ route, one })),
  )
  const order = fc.sample(fc.shuffledSubarray(requests, { minLength: requests.length }), {
    numRuns: 1,
    seed,
  })[0]
  const answers: Record<string, number> = {}
  for (const [n, { route, one }] of order.entries()) {
    const [world, names, query, body] = one
    let name = 0
    const path = route.path.replace(/\{\w+\}/g, () => encodeURIComponent(text(names[name++])) || 'x')
    const asked = new URLSearchParams(
      query.filter(([, value]) => value !== undefined).map(([field, value]) => [field, text(value)]),
    ).toString()
    const url = `${route.apart ? '' : world}${path === '/' ? '' : path}${asked ? `?${asked}` : ''}`
    // What ends the test's own way in is left to other tests.
    if (
      route.method === 'DELETE' &&
      (route.path === '/keys/{keyId}' || (route.path === '/' && world !== '/paper'))
    )
      continue
    const answer = await desk.call(
      route.method,
      url,
      body,
      world === '/live' && !route.apart ? live : desk.token,
    )
    const { status } = answer
    answers[status] = (answers[status] ?? 0) + 1
    if (answer.headers.get('Content-Type')?.includes('event-stream')) await answer.body!.cancel()
    else {
      const said = await answer.text()
      if (status >= 500) throw new Error(`${route.method} ${url} ${JSON.stringify(body)}: ${said}`)
      if (status >= 400 && !answer.headers.get('Content-Type')?.includes('problem+json'))
        throw new Error(`${route.method} ${url}: a refusal that is no problem document: ${said}`)
    }
    if (n % 25 === 0) await desk.run(wall, 2)
  }
  // Some of it was taken: a walk that is only refused shows nothing.
  expect(answers[200] + answers[201]).toBeGreaterThan(COUNT / 10)
  for (const world of desk.worlds.all)
    for (const { opened, book, reports } of world.accounts.values()) {
      const statement = new Statement(opened.cash, book.bookings, {})
      for (let seq = 1; seq <= reports.length; seq++) statement.take(reports.get(seq))
      statement.bookUpTo(Infinity)
      expect(statement.lines.at(-1)?.cash ?? opened.cash).toBe(fromE4(book.cashE4))
    }
  if (process.env.HERON_CASES) process.stdout.write(`answers: ${JSON.stringify(answers)}\n`)
})
