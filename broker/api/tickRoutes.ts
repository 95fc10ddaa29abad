import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { fromE4 } from '@/core/market/money'
import { stamper } from '@/core/market/moments'
import { Tick } from '@/core/market/wire'
import { type Env } from './access'
import { type Listed } from '../market/listing'
import { type Market } from '../market/market'
import { jsonList, restOf, tellCut } from './lists'
import { findPriced } from './marketViews'
import { momentOf } from './moments'
import { Problem } from './problems'
import { needs } from './routeTable'
import { json, problems } from './shapes'

const SECOND = 1000

const ticks = createRoute({
  method: 'get',
  path: '/securities/{symbol}/ticks',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Past trades and quotes of a span, second by second: last price, bid, ask, sizes',
  description:
    'Seconds of sessions only. Where there are more than `limit`, the headers Heron-Cut and Link say so and where the rest is.',
  request: {
    params: z.object({ symbol: z.string() }),
    query: z.object({
      from: z.string().max(40).meta({ description: 'First moment; without an offset in the venue’s zone' }),
      to: z.string().max(40).optional().meta({
        description: 'Moment before which the last one lies; a bare date is whole; now where left out',
      }),
      limit: z.coerce.number().int().min(1).max(10_000).default(1000),
    }),
  },
  responses: { 200: json(z.array(Tick), 'Oldest first'), ...problems(400, 401, 403, 422) },
})

/** When a security was first listed, and the close of its last session; Infinity if it has none. */
function listedSpan(market: Market, listed: Listed, now: number): { first: number; last: number } {
  if (!listed.option) return { first: market.allSessions()[0].open, last: Infinity }
  const [session] = market.chains.sessionsOf(listed, now)
  return {
    first: session?.open ?? market.nextSession(now).open,
    last: market.chains.endOf(listed.option.maturityDate),
  }
}

export function tickRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(ticks, (c) => {
    const { world } = c.var
    const listed = findPriced(c.var, c.req.valid('param').symbol)
    const { from, to, limit } = c.req.valid('query')
    const market = world.markets.of(listed)
    const { zone } = market.venue
    const now = world.clock.now()
    const start = Math.ceil(momentOf(from, 'from', zone, false) / SECOND) * SECOND
    const { first, last } = listedSpan(market, listed, now)
    const end = Math.min(to === undefined ? Infinity : momentOf(to, 'to', zone, true), now + SECOND, last)
    if (start < first)
      throw new Problem(
        listed.option ? 'not-listed-then' : 'malformed-request',
        `from ${from} lies before the first session of ${listed.symbol}, which begins at ${world.timeText(first, zone)}.`,
        'Ask for a later span.',
      )
    if (start >= last)
      throw new Problem(
        'not-listed-then',
        `from ${from} lies after the end of ${listed.symbol}, at ${world.timeText(last, zone)}.`,
        'Ask for an earlier span.',
      )
    const stamp = stamper({ count: 1, unit: 'min' }, zone)
    const seconds: number[] = []
    let rest: number | undefined
    for (let at = start; at < end && rest === undefined;) {
      const session = market.nextSession(at)
      at = Math.max(at, session.open)
      for (; at < Math.min(end, session.close); at += SECOND) {
        if (seconds.length === limit) {
          rest = at
          break
        }
        seconds.push(at)
      }
      at = rest === undefined ? Math.max(at, session.close) : at
    }
    if (rest !== undefined) {
      tellCut(c, `the first ${seconds.length} seconds; there are more`, restOf(c, 'from', stamp(rest)))
    }
    function* views() {
      for (const at of seconds) {
        const { bid, bidSize, ask, askSize, last } = market.quoteAt(listed, at)
        const traded = market.tradedBetween(listed, at - SECOND, at)
        yield {
          ...{ at: stamp(at), last: fromE4(last), bid: fromE4(bid), bidSize, ask: fromE4(ask), askSize },
          ...(traded ? { volume: traded.volume } : {}),
        }
      }
    }
    return jsonList(c, views()) as never
  })
}
