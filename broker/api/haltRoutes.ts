import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { type Halt } from '../halts'
import { type World } from '../world'
import { type Env } from './access'
import { findListed } from './marketViews'
import { mayChangeForAll } from './clockRights'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, problems } from './shapes'

const HaltView = z
  .object({
    symbol: z.string(),
    from: z.string().meta({ format: 'date-time' }),
    until: z
      .string()
      .optional()
      .meta({ format: 'date-time', description: 'Left out until somebody ends it' }),
  })
  .meta({ id: 'Halt' })

const list = createRoute({
  method: 'get',
  path: '/halts',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Securities in which trading is halted now',
  responses: { 200: json(z.array(HaltView), 'Halts'), ...problems(401, 403) },
})

const begin = createRoute({
  method: 'post',
  path: '/halts',
  ...needs('send-orders', 'world'),
  tags: ['stand-in'],
  summary: 'Halt trading in a security of this world: orders rest until it goes on',
  request: body(
    z
      .strictObject({
        symbol: z.string().max(32),
        seconds: z.int().min(1).max(604_800).optional().meta({
          description: 'How long, in market time; until somebody ends it where left out',
        }),
      })
      .meta({ id: 'NewHalt' }),
  ),
  responses: { 201: json(HaltView, 'The halt'), ...problems(400, 401, 403, 409, 413, 415, 422, 503) },
})

const end = createRoute({
  method: 'delete',
  path: '/halts/{symbol}',
  ...needs('send-orders', 'world'),
  tags: ['stand-in'],
  summary: 'Let trading in a security go on',
  request: { params: z.object({ symbol: z.string() }) },
  responses: { 200: json(z.array(HaltView), 'What is still halted'), ...problems(401, 403, 409, 422, 503) },
})

const view = (world: World, { symbol, from, until }: Halt) => ({
  symbol,
  from: world.timeText(from),
  ...(until === undefined ? {} : { until: world.timeText(until) }),
})

export function haltRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(list, (c) => {
    const { world } = c.var
    return c.json(
      world.halts.at(world.clock.now()).map((one) => view(world, one)),
      200,
    )
  })

  app.openapi(begin, async (c) => {
    mayChangeForAll(c, 'halt')
    const { world } = c.var
    const { symbol: asked, seconds } = c.req.valid('json')
    const { symbol, option } = findListed(c.var, asked)
    if (option)
      throw new Problem(
        'not-possible',
        `${symbol} is an option; it is halted with ${option.underlyingSymbol}.`,
        `Halt ${option.underlyingSymbol}.`,
      )
    const halt = await world.act(() => {
      const from = world.clock.now()
      const made: Halt = { symbol, from, ...(seconds === undefined ? {} : { until: from + seconds * 1000 }) }
      world.settings.halt(made)
      return made
    })
    return c.json(view(world, halt), 201)
  })

  app.openapi(end, async (c) => {
    mayChangeForAll(c, 'halt')
    const { world } = c.var
    const { symbol } = findListed(c.var, c.req.valid('param').symbol)
    const left = await world.act(() => {
      const now = world.clock.now()
      if (!world.halts.isHalted(symbol, now))
        throw new Problem('not-possible', `${symbol} is not halted.`, 'GET halts lists what is.')
      world.settings.resume(symbol)
      return world.halts.at(now)
    })
    return c.json(
      left.map((one) => view(world, one)),
      200,
    )
  })
}
