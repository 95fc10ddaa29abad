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
  /** Whether its answer may be had as CSV, by `format=csv`, though the route itself says nothing of it. */
  hasCsv: boolean
  /** Whether it stands apart from every world: its path does not begin with one. */
  isApart: boolean
}

/** Marks a route whose path does not begin with a world. */
export const APART = { servers: [{ url: '/' }] }

/** The security of a route for which a token needs a scope, as createRoute takes it. */
export const needs = (scope: Scope) => ({ security: [{ token: [scope] }] })

/** The security of a route that anyone may ask. */
export const PUBLIC: { security: Record<string, string[]>[] } = { security: [] }

/** The document itself is no route of itself. */
const DOCUMENT: RouteEntry = {
  method: 'GET',
  path: '/openapi.json',
  pattern: /^\/openapi\.json$/,
  query: [],
  types: [],
  isPublic: true,
  scope: undefined,
  hasCsv: false,
  isApart: true,
}

/**
 * Everything that can be asked, fixed paths before those with parameters. Throws Error for a route that does not say
 * who may ask it: nothing is open by having been forgotten.
 */
export function routeTable(app: OpenAPIHono<Env>): RouteEntry[] {
  const entries = app.openAPIRegistry.definitions.flatMap((definition): RouteEntry[] => {
    if (definition.type !== 'route') return []
    const { route } = definition
    if (!route.security) throw new Error(`${route.method} ${route.path} does not say who may ask it`)
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
