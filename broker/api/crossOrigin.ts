import { type MiddlewareHandler } from 'hono'
import { cors } from 'hono/cors'

/** Headers of answers that a page of any origin may read. */
const EXPOSED = 'Link,Heron-Cut,RateLimit,Retry-After,ETag'

/**
 * Lets any page ask: what it may see is decided by the token, which is never sent by itself. Questions before a request are
 * answered by Hono's middleware; on all others the two headers are set as the answer is made, since setting them on a finished
 * one costs a tenth of a request.
 */
export function crossOrigin(): MiddlewareHandler {
  const before = cors({
    origin: '*',
    allowHeaders: ['Authorization', 'Content-Type', 'Last-Event-ID'],
    exposeHeaders: EXPOSED.split(','),
    maxAge: 600,
  })
  return function crossOrigin(c, next) {
    if (c.req.method === 'OPTIONS') return before(c, next)
    c.header('Access-Control-Allow-Origin', '*')
    c.header('Access-Control-Expose-Headers', EXPOSED)
    return next()
  }
}
