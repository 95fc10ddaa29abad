import { type Context, type MiddlewareHandler } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { nearest } from '@/core/rules/near'
import { bearerOf, type Env, mayAsk, type Parts, remoteOf } from './access'
import { worldIn } from './basePath'
import { type Bearer } from '../keys/tokens'
import { type World } from '../world'
import { wantsCsv } from './asCsv'
import { type OpenStreams } from './openStreams'
import { type Pace } from './pace'
import { notServed, Problem } from './problems'
import { type RouteEntry } from './routeTable'

/** Bytes that a request's body may have. */
export const BODY_LIMIT = 64 * 1024

/** What other interfaces call a query field, by its name here. */
const ALSO: Record<string, readonly string[]> = {
  ordStatus: ['status', 'state'],
  which: ['filter', 'open', 'when'],
  clOrdIdBegins: ['prefix', 'clientorderid', 'idprefix'],
  symbols: ['symbol', 'ticker', 'tickers', 'security', 'instrument'],
  symbol: ['symbols', 'ticker', 'security', 'instrument'],
  every: ['timeframe', 'interval', 'resolution', 'period', 'granularity'],
  prices: ['adjust', 'adjustment', 'adjusted'],
  from: ['start', 'since', 'begin', 'startdate', 'after'],
  to: ['end', 'until', 'enddate', 'before'],
  limit: ['count', 'size', 'max', 'n', 'last'],
  after: ['since', 'from', 'cursor', 'seq'],
  last: ['limit', 'count'],
}

/** The field that an unknown one was likely meant to be. */
function likely(name: string, known: readonly string[]): string | undefined {
  const plain = name.toLowerCase().replace(/[-_]/g, '')
  return known.find((one) => ALSO[one]?.includes(plain)) ?? nearest(name, known)[0]
}

const brief = (text: string): string => (text.length > 40 ? `${text.slice(0, 40)}…` : text)

/** Refuses query fields that the route does not have, and those given twice: nothing that is asked is passed over. */
function checkQuery(c: Context, { path, query: own, hasCsv }: RouteEntry): void {
  if (!c.req.url.includes('?')) return
  const query = hasCsv ? [...own, 'format', 'csvToken'] : [...own, 'csvToken']
  const format = c.req.query('format')
  if (hasCsv && format !== undefined && format !== 'csv' && format !== 'json')
    throw new Problem('malformed-request', `format "${brief(format)}" is not known.`, 'Use json or csv.')
  const seen = new Set<string>()
  const errors: { field: string; detail: string }[] = []
  for (const name of new URL(c.req.url).searchParams.keys()) {
    const field = brief(name)
    if (!query.includes(name)) {
      const meant = likely(name, own)
      const mend = meant
        ? `did you mean ${meant}?`
        : own.length > 0
          ? `there are ${own.join(', ')}`
          : 'this path takes none'
      errors.push({ field, detail: `not a query field of ${path}; ${mend}` })
    } else if (seen.has(name)) errors.push({ field, detail: 'given twice; send it once' })
    seen.add(name)
    if (errors.length === 10) break
  }
  if (errors.length === 0) return
  throw new Problem(
    'malformed-request',
    errors.map((e) => `${e.field}: ${e.detail}`).join('. '),
    'Correct the query fields named here; /openapi.json describes each path.',
    { errors },
  )
}

/** Whom a token in a URL speaks for: it reads CSV alone. Throws Problem. */
function urlBearer(c: Context, world: World, token: string): Bearer {
  const key = world.keyring.ring.ofUrl(token)
  if (!key)
    throw new Problem(
      'unknown-token',
      'The CSV token in the URL is not known here, or was withdrawn.',
      'Make another at csv-tokens, in the environment that is asked.',
    )
  if (!wantsCsv(c))
    throw new Problem(
      'missing-scope',
      'A token in a URL reads CSV alone.',
      'Ask with format=csv, or with an access token in the header.',
    )
  return { keyId: key.keyId, scopes: key.scopes, environment: key.environment, renewals: key.renewals }
}

/** Throws Problem if the world is out of service. A rehearsal that will not come back by itself may still be deleted. */
function checkService(c: Context, { service, isRehearsal }: World, { path, isApart }: RouteEntry): void {
  const { out } = service
  if (!out || isApart) return
  const isTakenAway = isRehearsal && c.req.method === 'DELETE' && path === '/'
  if (isTakenAway && out.retryAfter === undefined) return
  throw notServed(out)
}

/** Counts a request of a key, and says in a header what is left. Throws Problem where it asks too fast. */
function takeOne(c: Context, pace: Pace, keyId: string): void {
  const { limit, remaining, reset, wait } = pace.take(keyId)
  c.header('RateLimit', `limit=${limit}, remaining=${remaining}, reset=${reset}`)
  if (wait === 0) return
  c.header('Retry-After', String(wait))
  throw new Problem(
    'too-many-requests',
    `The key ${keyId} asks faster than it may: ${limit} requests at once.`,
    `Wait ${wait === 1 ? 'a second' : `${wait} seconds`}, then go on more slowly; streams tell what happens without asking.`,
  )
}

function checkType(c: Context, { types }: RouteEntry): void {
  if (types.length === 0) return
  const given = (c.req.header('Content-Type') ?? '').split(';')[0].trim().toLowerCase()
  if (types.includes(given)) return
  throw new Problem(
    'unsupported-media-type',
    given === ''
      ? 'The request does not say what its body is.'
      : `A body of ${brief(given)} is not read here.`,
    `Send it with Content-Type: ${types.join(' or ')}.`,
  )
}

/**
 * Stands before every route: who may ask, whether there is such a path and method, whether query and body are what
 * the route takes. It reads the same table that /openapi.json is made of, so that no route can be forgotten.
 */
export function front(
  parts: Parts,
  streams: OpenStreams,
  table: () => readonly RouteEntry[],
): MiddlewareHandler<Env> {
  const tooLarge = () => {
    throw new Problem(
      'body-too-large',
      `The body has more than ${BODY_LIMIT / 1024} kB.`,
      'Send less in one request; an order has a few hundred bytes.',
    )
  }
  const counted = bodyLimit({ maxSize: BODY_LIMIT, onError: tooLarge })
  const limited: MiddlewareHandler<Env> = (c, next) => {
    const length = c.req.header('Content-Length')
    // Only a body that does not say how long it is must be counted as it comes: that costs a third of a request.
    if (length === undefined || c.req.header('Transfer-Encoding') !== undefined) return counted(c, next)
    return Number(length) > BODY_LIMIT ? tooLarge() : next()
  }
  const fixed = new Map<string, RouteEntry>()
  return async function front(c, next) {
    const named = worldIn(parts.worlds, c.req.url, c.req.method)
    const world = named ?? parts.worlds.paper
    const method = c.req.method === 'HEAD' ? 'GET' : c.req.method
    const at = `${named ? '' : 'apart '}${method} ${c.req.path}`
    const here = fixed.has(at)
      ? [fixed.get(at)!]
      : table().filter(
          ({ pattern, isApart }) => isApart === (named === undefined) && pattern.test(c.req.path),
        )
    const route = here.find((one) => one.method === method)
    // Paths with a name in them are without number.
    if (route && !route.path.includes('{')) fixed.set(at, route)
    if (!route) {
      if (here.length === 0) return nothingHere(c, named === undefined && table())
      const methods = new Set(here.flatMap((one) => (one.method === 'GET' ? ['GET', 'HEAD'] : [one.method])))
      const allow = [...methods, 'OPTIONS'].join(', ')
      c.header('Allow', allow)
      throw new Problem(
        'method-not-allowed',
        `${brief(c.req.method)} is not offered at ${here[0].path}.`,
        `It takes ${allow}.`,
      )
    }
    c.set('world', world)
    c.set('streams', streams)
    checkService(c, world, route)
    if (!route.isPublic) {
      const inUrl = c.req.url.includes('?') ? c.req.query('csvToken') : undefined
      const bearer =
        inUrl === undefined
          ? await bearerOf(parts, c.req.header('Authorization'))
          : urlBearer(c, world, inUrl)
      c.set('key', mayAsk(world, bearer, route.scope, remoteOf(c)))
      if (parts.pace) takeOne(c, parts.pace, bearer.keyId)
      c.set('bearer', bearer)
      world.keyring.ring.use(bearer.keyId)
    }
    checkQuery(c, route)
    checkType(c, route)
    return route.types.length > 0 ? limited(c, next) : next()
  }
}

/** Says that there is nothing at a path; of one that only lacks its world, which it could begin with. */
function nothingHere(c: Context, table: readonly RouteEntry[] | false): never {
  const path = new URL(c.req.url).pathname
  const lacksWorld = table && table.some(({ pattern, isApart }) => !isApart && pattern.test(path))
  throw new Problem(
    'not-found',
    `There is nothing at ${brief(path)}.`,
    lacksWorld
      ? `Begin the path with its world: /paper${path}, /live${path} or /rehearsals/{id}${path}.`.slice(0, 300)
      : 'GET /openapi.json describes everything there is.',
  )
}
