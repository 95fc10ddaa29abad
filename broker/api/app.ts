import { createRoute, OpenAPIHono, z } from '@hono/zod-openapi'
import { etag, RETAINED_304_HEADERS } from 'hono/etag'
import { API_VERSION, SCOPE_FOR } from '@/core/orders/access'
import { type Env, overFor, type Parts } from './access'
import { asCsv } from './asCsv'
import { csvTokenRoutes } from './csvTokenRoutes'
import { crossOrigin } from './crossOrigin'
import { front } from './front'
import { batchRoute } from './batchRoute'
import { barRoutes } from './barRoutes'
import { exerciseRoutes } from './exerciseRoutes'
import { groupRoutes } from './groupRoutes'
import { rateRoutes } from './rateRoutes'
import { haltRoutes } from './haltRoutes'
import { gateRoutes } from './gateRoutes'
import { statusRoutes } from './statusRoutes'
import { historyRoutes } from './historyRoutes'
import { holdRoutes } from './holdRoutes'
import { tickRoutes } from './tickRoutes'
import { optionRoutes } from './optionRoutes'
import { marketRoutes } from './marketRoutes'
import { orderRoutes } from './orderRoutes'
import { OpenStreams } from './openStreams'
import { answerProblem, asProblem, Problem, PROBLEMS } from './problems'
import { APART, PUBLIC, type RouteEntry, routeTable } from './routeTable'
import { standDownRoutes } from './standDownRoutes'
import { replaceRoute } from './replaceRoute'
import { json, problems } from './shapes'
import { executionRoutes } from './executionRoutes'
import { keyRoutes } from './keyRoutes'
import { quoteStreams } from './quoteStreams'
import { streamRoutes } from './streamRoutes'
import { worldRoutes } from './worldRoutes'
import { accountRoutes } from './accountRoutes'
import { pathUnderWorld } from './basePath'
import { tokenRoutes } from './tokenRoutes'

const health = createRoute({
  method: 'get',
  path: '/health',
  ...APART,
  ...PUBLIC,
  tags: ['access'],
  summary: 'Whether the broker is there, and what time it is in its market',
  responses: {
    200: json(z.object({ ok: z.boolean(), now: z.string(), venue: z.string() }), 'It is there'),
  },
})

const kindOfProblem = createRoute({
  method: 'get',
  path: '/problems/{kind}',
  ...APART,
  ...PUBLIC,
  tags: ['access'],
  summary: 'What a kind of problem is called, and its status',
  request: { params: z.object({ kind: z.string() }) },
  responses: { 200: json(z.object({ title: z.string(), status: z.number() }), 'The kind'), ...problems(404) },
})

/** What is asked again and again by programs that poll: an answer that has not changed is told as such (304). */
const WITH_ETAG = [
  ...[
    '/account',
    '/accounts',
    '/positions',
    '/lots',
    '/groups',
    '/orders',
    '/orders/:clOrdId',
    '/executions',
    '/expiries',
  ],
  ...['/options', '/rates', '/venues', '/gates', '/keys', '/halts'],
]

/** What an answer that has not changed still says: pages of other origins read nothing without it. */
const KEPT = [
  ...RETAINED_304_HEADERS,
  'access-control-allow-origin',
  'access-control-expose-headers',
  'link',
  'heron-cut',
  'ratelimit',
]

/** The broker's HTTP interface. Needs no port: tests call `app.request()`. */
export function makeApp(parts: Parts): OpenAPIHono<Env> {
  const app = new OpenAPIHono<Env>({
    getPath: pathUnderWorld,
    defaultHook(result) {
      if (result.success) return
      // Bounded: what was sent is not echoed back whole.
      const errors = result.error.issues.slice(0, 20).map((issue) => ({
        field: issue.path.join('.').slice(0, 60) || '(whole)',
        detail: issue.message.slice(0, 200),
      }))
      throw new Problem(
        'malformed-request',
        errors.map((e) => `${e.field}: ${e.detail}.`).join(' '),
        'Mend the fields named here; /openapi.json describes each.',
        { errors },
      )
    },
  })
  app.use(crossOrigin())
  let table: RouteEntry[] | undefined
  const tagged = etag({ retainedHeaders: KEPT })
  for (const path of WITH_ETAG) app.get(path, tagged)
  app.get('*', asCsv)
  const streams = new OpenStreams(overFor)
  app.use(front(parts, streams, () => (table ??= routeTable(app))))
  app.onError((error, c) => answerProblem(c, asProblem(error)))
  app.notFound((c) =>
    answerProblem(
      c,
      new Problem(
        'not-found',
        `There is nothing at ${c.req.path.slice(0, 120)}.`,
        'GET /openapi.json describes everything there is.',
      ),
    ),
  )

  app.openAPIRegistry.registerComponent('securitySchemes', 'token', {
    type: 'oauth2',
    flows: {
      clientCredentials: {
        tokenUrl: 'token',
        scopes: { ...SCOPE_FOR },
      },
    },
  })
  app.openapi(health, (c) =>
    c.json({ ok: true, now: parts.worlds.paper.timeText(), venue: parts.worlds.markets.home.venue.mic }, 200),
  )
  tokenRoutes(app, parts)
  keyRoutes(app)
  csvTokenRoutes(app)
  worldRoutes(app, parts)
  quoteStreams(app)
  streamRoutes(app)
  marketRoutes(app)
  optionRoutes(app)
  groupRoutes(app)
  exerciseRoutes(app)
  tickRoutes(app)
  holdRoutes(app)
  historyRoutes(app)
  statusRoutes(app)
  gateRoutes(app)
  haltRoutes(app)
  rateRoutes(app)
  barRoutes(app)
  executionRoutes(app)
  accountRoutes(app)
  orderRoutes(app)
  batchRoute(app, parts)
  replaceRoute(app)
  standDownRoutes(app)
  app.openapi(kindOfProblem, (c) => {
    const { kind } = c.req.valid('param')
    if (!Object.hasOwn(PROBLEMS, kind)) return c.notFound() as never
    const [status, title] = PROBLEMS[kind as keyof typeof PROBLEMS]
    return c.json({ title, status: status as number }, 200)
  })
  app.doc31('/openapi.json', {
    openapi: '3.1.0',
    info: {
      title: 'Fleet Heron stand-in market and broker',
      version: API_VERSION,
      description:
        'Market data, and accounts whose orders trade in the stand-in market. Every list can be had as CSV with format=csv. Every path but a few begins with a world: /paper, /live (a stand-in too) or /rehearsals/{id}; paper and live share one market and clock.',
    },
    servers: [
      { url: '/paper' },
      { url: '/live' },
      { url: '/rehearsals/{id}', variables: { id: { default: 'my-rehearsal' } } },
    ],
    security: [{ token: [] }],
  })
  return app
}
