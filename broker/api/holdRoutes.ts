import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { type Hold } from '../holds'
import { type World } from '../world'
import { accountFor, type Env } from './access'
import { momentOf } from './moments'
import { mayChangeForAll } from './clockRights'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, OfAccount, problems } from './shapes'

const HoldView = z
  .object({ id: z.string(), answered: z.int(), wallSeconds: z.number(), waits: z.boolean() })
  .meta({ id: 'Hold' })

const begin = createRoute({
  method: 'post',
  path: '/market-time/hold',
  ...needs('send-orders', 'clock'),
  tags: ['stand-in'],
  summary: 'Hold the market’s time: it moves on only when this client has answered for every report so far',
  description:
    'Who takes longer than wallSeconds for one answer holds it no more. Paper and live share one clock.',
  request: {
    query: OfAccount,
    ...body(z.strictObject({ wallSeconds: z.number().min(0.1).max(60).default(10) }).meta({ id: 'NewHold' })),
  },
  responses: { 201: json(HoldView, 'The hold'), ...problems(400, 401, 403, 404, 413, 415) },
})

const answer = createRoute({
  method: 'put',
  path: '/market-time/hold/{id}',
  ...needs('send-orders', 'clock'),
  tags: ['stand-in'],
  summary: 'Answer for every report up to a number',
  request: {
    params: z.object({ id: z.string() }),
    ...body(z.strictObject({ answered: z.int().min(0) }).meta({ id: 'Answered' })),
  },
  responses: { 200: json(HoldView, 'The hold'), ...problems(400, 401, 403, 404, 413, 415) },
})

const end = createRoute({
  method: 'delete',
  path: '/market-time/hold/{id}',
  ...needs('send-orders', 'clock'),
  tags: ['stand-in'],
  summary: 'Hold the market’s time no more',
  request: { params: z.object({ id: z.string() }) },
  responses: { 200: json(HoldView, 'The hold that was'), ...problems(401, 403, 404) },
})

const wake = createRoute({
  method: 'post',
  path: '/market-time/wake',
  ...needs('see-market', 'market'),
  tags: ['stand-in'],
  summary: 'Ask that a moment outside all sessions is not skipped by a clock that runs fast',
  request: body(z.strictObject({ at: z.string().max(40) }).meta({ id: 'Wake' })),
  responses: {
    201: json(z.object({ at: z.string() }), 'When'),
    ...problems(400, 401, 403, 413, 415),
  },
})

const view = ({ id, answered, limit, account }: Hold) => ({
  ...{ id, answered, wallSeconds: limit / 1000 },
  waits: account.book.seq > answered,
})

export function holdRoutes(app: OpenAPIHono<Env>): void {
  const own = (world: World, keyId: string, id: string): Hold => {
    const hold = world.holds.get(id)
    if (hold && hold.keyId === keyId) return hold
    throw new Problem(
      'not-found',
      `This key holds no clock under ${id.slice(0, 40)}: it was ended, or took longer than it may.`,
      'POST market-time/hold begins another.',
    )
  }

  app.openapi(begin, (c) => {
    mayChangeForAll(c, 'clock')
    const { world, key } = c.var
    const account = accountFor(world, key, c.req.valid('query').account)
    const hold = world.holds.begin(key.keyId, account, c.req.valid('json').wallSeconds * 1000)
    return c.json(view(hold), 201)
  })

  app.openapi(answer, (c) => {
    mayChangeForAll(c, 'clock')
    const { world, key } = c.var
    const hold = own(world, key.keyId, c.req.valid('param').id)
    const { answered } = c.req.valid('json')
    if (answered > hold.account.book.seq)
      throw new Problem(
        'malformed-request',
        `answered ${answered} lies ahead: the last report so far is ${hold.account.book.seq}.`,
        'Answer for what has come.',
      )
    hold.answered = Math.max(hold.answered, answered)
    return c.json(view(hold), 200)
  })

  app.openapi(end, (c) => {
    mayChangeForAll(c, 'clock')
    const { world, key } = c.var
    const hold = own(world, key.keyId, c.req.valid('param').id)
    world.holds.end(hold.id)
    return c.json(view(hold), 200)
  })

  app.openapi(wake, (c) => {
    const { world } = c.var
    const at = momentOf(c.req.valid('json').at, 'at', world.market.venue.zone, false)
    if (at <= world.clock.now())
      throw new Problem('malformed-request', 'at has passed already.', 'Give a moment that lies ahead.')
    world.holds.wakeAt(at)
    return c.json({ at: world.timeText(at) }, 201)
  })
}
