import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { VENUES } from '@/core/market/venue'
import { API_VERSION, KeyView, KeyWithSecret, NewKey, WhoAmI } from '@/core/orders/access'
import { beyond, isNetwork, type Key, type Rights } from '../keys/keys'
import { type World } from '../world'
import { accountsOf, type Env } from './access'
import { Problem } from './problems'
import { anyToken, needs } from './routeTable'
import { body, json, problems } from './shapes'

const whoami = createRoute({
  method: 'get',
  path: '/whoami',
  ...anyToken('accounts'),
  tags: ['access'],
  summary: 'Which key asks, in which environment, for which accounts, and what it may do',
  responses: { 200: json(WhoAmI, 'Who asks'), ...problems(401, 403) },
})

const list = createRoute({
  method: 'get',
  path: '/keys',
  ...needs('manage-keys', 'keys'),
  tags: ['access'],
  summary: 'Every key of this environment, without its secret',
  responses: { 200: json(z.array(KeyView), 'Keys, oldest first'), ...problems(401, 403) },
})

const make = createRoute({
  method: 'post',
  path: '/keys',
  ...needs('manage-keys', 'keys'),
  tags: ['access'],
  summary: 'Create another key; its secret is told this once',
  description: 'A key hands on at most its own scopes, accounts and venues, in its own environment.',
  request: body(NewKey),
  responses: { 201: json(KeyWithSecret, 'The key'), ...problems(400, 401, 403, 409, 413, 415, 503) },
})

const ById = z.object({ keyId: z.string() })

const renew = createRoute({
  method: 'post',
  path: '/keys/{keyId}/renew',
  ...needs('manage-keys', 'keys'),
  tags: ['access'],
  summary: 'Give a key another secret, told this once; the one before and its tokens are not taken any more',
  request: { params: ById },
  responses: { 200: json(KeyWithSecret, 'The key'), ...problems(401, 403, 404, 503) },
})

const withdraw = createRoute({
  method: 'delete',
  path: '/keys/{keyId}',
  ...needs('manage-keys', 'keys'),
  tags: ['access'],
  summary: 'Withdraw a key: it and its tokens are not taken any more; its orders stay',
  request: { params: ById },
  responses: { 200: json(KeyView, 'The key that was'), ...problems(401, 403, 404, 409, 503) },
})

/** A key as the outside sees it. */
export function viewKey({ salt: _salt, hash: _hash, renewals: _count, ...key }: Key, world: World): KeyView {
  const used = world.keyring.ring.lastUse.get(key.keyId)
  return { ...key, ...(used === undefined ? {} : { lastUse: new Date(used).toISOString() }) }
}

/** Throws Problem where rights are more than a key's own, a token of fewer scopes being no more than that. */
export function mayHandOn(own: Key, scopesOfToken: Rights['scopes'], asked: Rights): void {
  const more = beyond(asked, { ...own, scopes: scopesOfToken })
  if (more === undefined) return
  throw new Problem(
    'beyond-own-rights',
    `The key ${own.keyId} has not ${more} itself, so it cannot hand that on.`,
    'Ask for less, or use a key that has it.',
  )
}

/** Accounts that a key speaks for and `own` does not, in words; undefined if there are none. */
const speaksForMore = (key: Key, own: Key): string | undefined =>
  beyond({ scopes: [], accounts: key.accounts, venues: [] }, own)

/** Throws Problem where one of the accounts is not there. */
export function mustExist(world: World, accounts: Rights['accounts']): void {
  const missing = accounts === 'all' ? undefined : accounts.find((one) => !world.keyring.accounts.has(one))
  if (missing === undefined) return
  throw new Problem(
    'not-possible',
    `There is no account ${missing} in ${world.environment}.`,
    `There are ${[...world.keyring.accounts.keys()].join(', ')}.`,
  )
}

export function keyRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(whoami, (c) => {
    const { world, key, bearer } = c.var
    const own = accountsOf(world, key).map(({ name }) => name)
    return c.json(
      {
        key: viewKey(key, world),
        world: { name: world.name, id: world.id, epoch: world.epoch },
        environment: world.environment,
        standIn: true as const,
        scopes: bearer.scopes,
        account: own[0],
        accounts: own,
        rights: Object.fromEntries(
          VENUES.map(({ mic }) => [
            mic,
            key.venues === 'all' || key.venues.includes(mic) ? ('real-time' as const) : ('none' as const),
          ]),
        ),
        now: world.timeText(),
        api: API_VERSION,
      },
      200,
    )
  })

  app.openapi(list, (c) => {
    const { world, key: own } = c.var
    const within = [...world.keyring.keys.values()].filter((key) => !speaksForMore(key, own))
    return c.json(
      within.map((key) => viewKey(key, world)),
      200,
    )
  })

  app.openapi(make, async (c) => {
    const { world, key: own, bearer } = c.var
    const { accounts = own.accounts, venues = own.venues, ...asked } = c.req.valid('json')
    mayHandOn(own, bearer.scopes, { scopes: asked.scopes, accounts, venues })
    mustExist(world, accounts)
    const unknown =
      venues === 'all' ? undefined : venues.find((mic) => !VENUES.some((venue) => venue.mic === mic))
    if (unknown)
      throw new Problem(
        'malformed-request',
        `There is no venue ${unknown}.`,
        `Use ${VENUES.map(({ mic }) => mic).join(' or ')}.`,
      )
    const odd = asked.addresses?.find((text) => !isNetwork(text))
    if (odd)
      throw new Problem(
        'malformed-request',
        `"${odd}" is no address.`,
        'Use an address, or a network such as 10.0.0.0/8.',
      )
    if (asked.expires !== undefined && Date.parse(asked.expires) <= world.wallNow())
      throw new Problem(
        'malformed-request',
        `expires ${asked.expires} has passed already.`,
        'Give a moment that lies ahead, or leave it out.',
      )
    const { key, secret } = await world.keyring.ring.create({ ...asked, accounts, venues })
    return c.json({ ...viewKey(key, world), secret }, 201)
  })

  const keyBy = (world: World, keyId: string): Key => {
    const key = world.keyring.keys.get(keyId)
    if (key) return key
    throw new Problem(
      'not-found',
      `There is no key ${keyId.slice(0, 40)} in ${world.environment}.`,
      'GET keys lists those there are.',
    )
  }

  app.openapi(renew, async (c) => {
    const { world, key: own, bearer } = c.var
    const before = keyBy(world, c.req.valid('param').keyId)
    if (before.forUrl)
      throw new Problem(
        'not-possible',
        `${before.keyId} is a CSV token; it is not renewed.`,
        'Withdraw it and make another at csv-tokens.',
      )
    mayHandOn(own, bearer.scopes, before)
    const { key, secret } = await world.keyring.ring.renew(before)
    c.header('Cache-Control', 'no-store')
    return c.json({ ...viewKey(key, world), secret }, 200)
  })

  app.openapi(withdraw, async (c) => {
    const { world, key: own } = c.var
    const key = keyBy(world, c.req.valid('param').keyId)
    const more = speaksForMore(key, own)
    if (more !== undefined)
      throw new Problem(
        'beyond-own-rights',
        `The key ${key.keyId} speaks for ${more}; your key ${own.keyId} does not.`,
        'Use a key that speaks for the same accounts.',
      )
    const others = [...world.keyring.keys.values()].filter(
      (one) => one !== key && one.scopes.includes('manage-keys'),
    )
    if (key.scopes.includes('manage-keys') && others.length === 0)
      throw new Problem(
        'not-possible',
        `The key ${key.keyId} is the only one that may manage keys; without it none could be made.`,
        'Make another with manage-keys first.',
      )
    await world.keyring.ring.withdraw(key.keyId)
    return c.json(viewKey(key, world), 200)
  })
}
