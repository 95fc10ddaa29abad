import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { SetAside, WorldView } from '@/core/orders/worlds'
import { type World } from '../world'
import { type Key } from '../keys/keys'
import { accountsOf, type Env, owns, type Parts } from './access'
import { rehearsalAlone } from './basePath'
import { isBareDate, momentOf } from './moments'
import { notPossible, Problem } from './problems'
import { APART, needs } from './routeTable'
import { body, json, problems } from './shapes'

const about = createRoute({
  method: 'get',
  path: '/',
  ...needs('see-market', 'market'),
  tags: ['worlds'],
  summary: 'The world of this base path',
  responses: { 200: json(WorldView, 'The world'), ...problems(401, 403, 404) },
})

const list = createRoute({
  method: 'get',
  path: '/rehearsals',
  ...APART,
  ...needs('see-market', 'rehearsals'),
  tags: ['worlds'],
  summary: 'Rehearsals, and what was set aside',
  description:
    'Rehearsals that the key may use. Worlds that could not be opened, or were set aside because this build has a newer market, follow with the reason and the mend.',
  responses: {
    200: json(z.array(z.union([WorldView, SetAside])), 'Rehearsals, then what is set aside'),
    ...problems(401, 403),
  },
})

const NewRehearsal = z
  .strictObject({
    id: z.string().min(1).max(40).meta({ description: 'Small letters, digits or -', example: 'march-opens' }),
    start: z.string().max(40).meta({
      description: 'Date or moment at which it begins; a bare date is its open at the home venue',
      example: '2026-03-02',
    }),
    cash: z.number().min(0).max(1_000_000_000).default(50_000),
  })
  .meta({ id: 'NewRehearsal' })

const begin = createRoute({
  method: 'post',
  path: '/rehearsals',
  ...APART,
  ...needs('send-orders', 'rehearsals'),
  tags: ['worlds'],
  summary:
    'Begin a rehearsal: the market lived through again from a moment that has passed, with an account of its own',
  description:
    'Its clock stands until it is set to run or moved on, and never passes the present of paper and live. Paper keys are taken in it.',
  request: body(NewRehearsal),
  responses: { 201: json(WorldView, 'The rehearsal'), ...problems(400, 401, 403, 409, 413, 415, 503) },
})

const putBack = createRoute({
  method: 'post',
  path: '/put-back',
  ...needs('send-orders', 'world'),
  tags: ['worlds'],
  summary: 'Put a rehearsal back to a moment: what came after it did not happen, and a new epoch begins',
  request: body(z.strictObject({ to: z.string().max(40) })),
  responses: { 200: json(WorldView, 'The rehearsal'), ...problems(400, 401, 403, 404, 409, 413, 415, 503) },
})

const remove = createRoute({
  method: 'delete',
  path: '/',
  ...needs('send-orders', 'world'),
  tags: ['worlds'],
  summary: 'Take a rehearsal away, with its accounts and orders',
  responses: {
    200: json(z.union([WorldView, SetAside]), 'The rehearsal that was'),
    ...problems(401, 403, 404, 409, 503),
  },
})

const viewWorld = (world: World, key: Key): WorldView => ({
  name: world.name,
  base: world.isRehearsal ? `/rehearsals/${world.name}` : `/${world.name}`,
  id: world.id,
  epoch: world.epoch,
  environment: world.environment,
  rehearsal: world.isRehearsal,
  accounts: accountsOf(world, key).map(({ name }) => name),
  now: world.timeText(),
  running: world.clock.running,
})

/** A date or moment in the home venue's zone, as a moment; a bare date is the open of its session, or of the next. */
function momentIn({ market }: World, text: string): number {
  const time = momentOf(text, 'the moment', market.venue.zone, false)
  return isBareDate(text) ? market.nextSession(time).open : Math.floor(time / 1000) * 1000
}

export function worldRoutes(app: OpenAPIHono<Env>, { worlds }: Parts): void {
  app.openapi(about, (c) => c.json(viewWorld(c.var.world, c.var.key), 200))
  app.openapi(list, (c) => {
    const { key } = c.var
    const mine = worlds.rehearsed.filter((world) => !world.isClosed && owns(world, key))
    return c.json([...mine.map((world) => viewWorld(world, key)), ...worlds.setAside], 200)
  })

  app.openapi(begin, async (c) => {
    const { id, start, cash } = c.req.valid('json')
    const at = worlds.paper.timeText(momentIn(worlds.paper, start))
    const { keyId, accounts } = c.var.key
    const made = await worlds
      .rehearse(id, at, cash, { keyId, accounts })
      .catch(notPossible('Change what is named here and send it again.'))
    return c.json(viewWorld(made, c.var.key), 201)
  })

  app.openapi(putBack, async (c) => {
    const { world } = c.var
    await world
      .putBack(momentIn(world, c.req.valid('json').to))
      .catch(notPossible('GET the base path to see where its clock stands.'))
    return c.json(viewWorld(world, c.var.key), 200)
  })

  app.openapi(remove, async (c) => {
    const { world, key } = c.var
    const unread = rehearsalAlone(c.req.url)
    const damaged = worlds.setAside.find(({ name }) => name === unread)
    if (unread && damaged && worlds.isUnread(unread)) {
      if (key.accounts !== 'all')
        throw new Problem(
          'not-your-rehearsal',
          `The owner of the rehearsal ${unread} cannot be read, and the key ${key.keyId} does not speak for all accounts.`,
          'Use a key that speaks for all accounts.',
        )
      await worlds.remove(unread).catch(notPossible('Ask again in a second.'))
      return c.json(damaged, 200)
    }
    if (!world.isRehearsal)
      throw new Problem('not-possible', `${world.name} is no rehearsal and stays.`, 'Name a rehearsal.')
    const view = viewWorld(world, key)
    await worlds.remove(world.name).catch(notPossible('Ask again in a second.'))
    return c.json(view, 200)
  })
}
