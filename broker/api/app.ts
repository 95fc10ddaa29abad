import { OpenAPIHono } from '@hono/zod-openapi'
import { cors } from 'hono/cors'
import { HTTPException } from 'hono/http-exception'
import { JournalError } from '../journal'
import { type Env, type Parts } from './access'
import { marketRoutes } from './marketRoutes'
import { orderRoutes } from './orderRoutes'
import { answerProblem, Problem, PROBLEMS } from './problems'
import { streamRoutes } from './streams'
import { tokenRoutes } from './tokenRoutes'

/** The broker's HTTP interface. Needs no port: tests call `app.request()`. */
export function makeApp(parts: Parts): OpenAPIHono<Env> {
  const app = new OpenAPIHono<Env>({
    defaultHook(result) {
      if (result.success) return
      const errors = result.error.issues.map((issue) => ({
        field: issue.path.join('.') || '(whole)',
        detail: issue.message,
      }))
      throw new Problem(
        'malformed-request',
        errors.map((e) => `${e.field}: ${e.detail}.`).join(' '),
        'Mend the fields named here; /openapi.json describes each.',
        { errors },
      )
    },
  })
  // Any page may ask: what it may see is decided by the token, which is never sent by itself.
  app.use(
    cors({ origin: '*', allowHeaders: ['Authorization', 'Content-Type', 'Last-Event-ID'], maxAge: 600 }),
  )
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
        tokenUrl: '/paper/token',
        scopes: {
          'see-market': 'Market data',
          'see-account': 'Account, positions, orders',
          'send-orders': 'Send and cancel orders',
        },
      },
    },
  })
  app.get('/health', (c) =>
    c.json({ ok: true, now: parts.world.timeText(), venue: parts.world.market.venue.mic }),
  )
  tokenRoutes(app, parts)
  streamRoutes(app, parts)
  marketRoutes(app, parts)
  orderRoutes(app, parts)
  app.get('/problems/:kind', (c) => {
    const known = PROBLEMS[c.req.param('kind') as keyof typeof PROBLEMS]
    return known ? c.json({ title: known[1], status: known[0] }) : c.notFound()
  })
  app.doc31('/openapi.json', {
    openapi: '3.1.0',
    info: {
      title: 'Fleet Heron stand-in market and broker',
      version: '1',
      description: 'Market data, and a paper account whose orders trade in the stand-in market.',
    },
    security: [{ token: [] }],
  })
  return app
}

function asProblem(error: Error): Problem {
  if (error instanceof Problem) return error
  if (error instanceof JournalError) return new Problem('journal-unwritable', error.message, error.mend)
  if (error instanceof RangeError)
    return new Problem('malformed-request', error.message, 'Change what was asked for.')
  if (error instanceof HTTPException && error.status === 400) {
    return new Problem(
      'malformed-request',
      'The body is not valid JSON.',
      'Send a JSON object with Content-Type application/json.',
    )
  }
  process.stderr.write(`broker: ${error.stack ?? error.message}\n`)
  return new Problem(
    'internal-error',
    'The broker met an error of its own; nothing more is known.',
    'See its log. Ask for the order by its client order id before you send it again.',
  )
}
