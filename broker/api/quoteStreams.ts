import { randomUUID } from 'node:crypto'
import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { type SSEStreamingApi } from 'hono/streaming'
import { type QuoteTick } from '@/core/market/wire'
import { gently } from '../gently'
import { type World } from '../world'
import { type Env } from './access'
import { following } from './following'
import { checkFollowed } from './lists'
import { Problem } from './problems'
import { needs } from './routeTable'
import { type Listed } from '../market/listing'
import { findAllPriced, viewClock, viewQuote, viewTraded } from './marketViews'
import { body, json, problems } from './shapes'

const events = (description: string) => ({
  200: { description, content: { 'text/event-stream': { schema: z.string() } } },
})

const quoteStream = createRoute({
  method: 'get',
  path: '/quotes/stream',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Quotes as they change, and the clock (server-sent events)',
  description:
    'The first event, "stream", tells the id under which the securities that it follows are changed: PUT /quotes/stream/{id}. A quote after the first of its security tells in `since` what was traded between the two.',
  request: { query: z.object({ symbols: z.string().optional() }) },
  responses: { ...events('Events "stream", "quotes" (a list) and "clock"'), ...problems(401, 403, 422) },
})

const followed = createRoute({
  method: 'put',
  path: '/quotes/stream/{id}',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Which securities an open stream of quotes follows, in place of those before',
  request: {
    params: z.object({ id: z.string() }),
    ...body(z.object({ symbols: z.array(z.string().max(40)).max(1_000) })),
  },
  responses: {
    200: json(z.object({ followed: z.number() }), 'How many it follows now'),
    ...problems(400, 401, 403, 404, 422),
  },
})

/** An unchanged quote is sent again after this much market time, in milliseconds. */
const STANDS_FOR = 60_000

/** What one stream has said of each security, and what there is to be said now. */
class Follower {
  /** Of each security: the quote that was sent last, as text, and its second. */
  private readonly said = new Map<string, { text: string; at: number; quoteAt: string }>()

  constructor(
    private readonly world: World,
    public list: readonly Listed[],
  ) {}

  /** Quotes that have changed since they were sent, with what was traded between. */
  *changed(): Generator<void, QuoteTick[]> {
    const { world } = this
    const now = world.clock.now()
    const out: QuoteTick[] = []
    for (const listed of this.list) {
      const before = this.said.get(listed.symbol)
      // An expired contract has no quotes.
      if (before?.at === now || !world.markets.of(listed).isListed(listed, now)) continue
      const quote = viewQuote(world, listed)
      const text = JSON.stringify({ ...quote, at: '' })
      const since = before && viewTraded(world, listed, before.at, now)
      // Send an unchanged quote too if a price came and went meanwhile, or if it is a while old: a client must be able to tell
      // an unchanged quote from a stale one.
      const spiked = since !== undefined && (since.high > quote.last || since.low < quote.last)
      const stood = before !== undefined && now - before.at >= STANDS_FOR && quote.at !== before.quoteAt
      if (before?.text !== text || spiked || stood) {
        out.push({ ...quote, ...(since ? { since } : {}) })
        this.said.set(listed.symbol, { text, at: now, quoteAt: quote.at })
      }
      yield
    }
    return out
  }
}

const event = (name: string, data: string): string => `event: ${name}\ndata: ${data}\n\n`

export function quoteStreams(app: OpenAPIHono<Env>): void {
  /** Streams that are open, by their id: who follows, and how the list of what is followed is changed. */
  const open = new Map<string, { keyId: string; world: World; follow(list: readonly Listed[]): void }>()

  app.openapi(quoteStream, (c) => {
    const { symbols } = c.req.valid('query')
    const { world } = c.var
    const follower = new Follower(world, symbols === undefined ? [] : findAllPriced(c.var, symbols))
    checkFollowed(follower.list)
    const id = randomUUID()
    let clockBefore = ''
    let begun = false
    const send = async (stream: SSEStreamingApi) => {
      if (!begun) {
        begun = true
        await stream.writeSSE({ event: 'stream', data: JSON.stringify({ id }) })
      }
      const clock = JSON.stringify(viewClock(world))
      const changed = await gently(follower.changed())
      // Time and prices go out in one piece, so that after a long step nobody compares old prices with the new time.
      let text = ''
      if (clock !== clockBefore) text += event('clock', clock)
      if (changed.length > 0) text += event('quotes', JSON.stringify(changed))
      clockBefore = clock
      if (text) await stream.write(text)
    }
    return following(c, world, send, {
      begin: (wake) =>
        open.set(id, {
          keyId: c.var.bearer.keyId,
          world,
          follow(list) {
            follower.list = list
            wake()
          },
        }),
      end: () => open.delete(id),
    }) as never
  })

  app.openapi(followed, (c) => {
    const { id } = c.req.valid('param')
    const stream = open.get(id)
    if (!stream || stream.keyId !== c.var.bearer.keyId || stream.world !== c.var.world)
      throw new Problem(
        'not-found',
        `No stream of quotes ${id.slice(0, 40)} is open for this key.`,
        'Open one at /quotes/stream; its first event tells its id.',
      )
    const { symbols } = c.req.valid('json')
    const list = symbols.length === 0 ? [] : findAllPriced(c.var, symbols.join(','))
    checkFollowed(list)
    stream.follow(list)
    return c.json({ followed: list.length }, 200)
  })
}
