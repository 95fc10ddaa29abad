import { type OpenAPIHono } from '@hono/zod-openapi'
import { type Scope } from '@/core/orders/access'
import { type Env } from './access'

/** One route as the OpenAPI document describes it. */
export interface RouteEntry {
  method: string
  path: string
  pattern: RegExp
  /** Names of its query fields. */
  query: readonly string[]
  /** Media types of its body; none where it takes no body. */
  types: readonly string[]
  /** Whether anyone may ask it, without a token. */
  isPublic: boolean
  /** Scope that a token needs; undefined where any token will do, or none. */
  scope: Scope | undefined
  /** Which account and world it touches. */
  touch: Touch
  /** Whether its answer may be had as CSV, by `format=csv`, though the route itself says nothing of it. */
  hasCsv: boolean
  /** Whether it stands apart from every world: its path does not begin with one. */
  isApart: boolean
}

/** Marks a route whose path does not begin with a world. */
export const APART = { servers: [{ url: '/' }] }

/** What a route touches: which account, of which world. */
export const TOUCHES = {
  nothing: 'Nothing: it touches no account and no world',
  market: 'The market and the calendar of its world; no account',
  account: 'The account that is named, or the first of the key, in its world',
  accounts: 'All accounts that the key speaks for, in its world',
  keys: 'Keys of its environment that speak for no more accounts than the asking key',
  world: 'All accounts of its world',
  clock: 'The clock of its world, and with it all its accounts; paper and live have one clock',
  rehearsals: 'Rehearsals that the key may use',
} as const

export type Touch = keyof typeof TOUCHES

interface Secured {
  security: Record<string, string[]>[]
  'x-touches': string
}

/** Who may ask a route, and what it touches, as createRoute takes it: a token with a scope. */
export const needs = (scope: Scope, touch: Touch): Secured => ({
  security: [{ token: [scope] }],
  'x-touches': TOUCHES[touch],
})

/** Any token will do. */
export const anyToken = (touch: Touch): Secured => ({
  security: [{ token: [] }],
  'x-touches': TOUCHES[touch],
})

/** Anyone may ask. */
export const PUBLIC: Secured = { security: [], 'x-touches': TOUCHES.nothing }

const touchOf = (text: string | undefined): Touch | undefined =>
  (Object.keys(TOUCHES) as Touch[]).find((touch) => TOUCHES[touch] === text)

/** The document itself is no route of itself. */
const DOCUMENT: RouteEntry = {
  method: 'GET',
  path: '/openapi.json',
  pattern: /^\/openapi\.json$/,
  query: [],
  types: [],
  isPublic: true,
  scope: undefined,
  touch: 'nothing',
  hasCsv: false,
  isApart: true,
}

/**
 * Everything that can be asked, fixed paths before those with parameters. Throws Error for a route that does not say
 * who may ask it and what it touches: nothing is open by having been forgotten.
 */
export function routeTable(app: OpenAPIHono<Env>): RouteEntry[] {
  const entries = app.openAPIRegistry.definitions.flatMap((definition): RouteEntry[] => {
    if (definition.type !== 'route') return []
    const { route } = definition
    if (!route.security) throw new Error(`${route.method} ${route.path} does not say who may ask it`)
    const touch = touchOf((route as Partial<Secured>)['x-touches'])
    if (!touch) throw new Error(`${route.method} ${route.path} does not say what it touches`)
    const query = route.request?.query as { shape?: Record<string, unknown> } | undefined
    return [
      {
        method: route.method.toUpperCase(),
        path: route.path,
        pattern: new RegExp(`^${route.path.replace(/\{\w+\}/g, '[^/]+')}$`),
        query: Object.keys(query?.shape ?? {}),
        types: Object.keys(route.request?.body?.content ?? {}),
        isPublic: route.security.length === 0,
        scope: route.security[0]?.token?.[0] as Scope | undefined,
        touch,
        hasCsv:
          route.method === 'get' &&
          route.security.length > 0 &&
          'application/json' in ((route.responses[200] as { content?: object })?.content ?? {}),
        isApart: route.servers !== undefined,
      },
    ]
  })
  return [DOCUMENT, ...entries].sort((a, b) => Number(a.path.includes('{')) - Number(b.path.includes('{')))
}
