import { randomUUID } from 'node:crypto'
import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { type Context } from 'hono'
import { streamSSE, type SSEStreamingApi } from 'hono/streaming'
import { type QuoteTick } from '@/core/market/wire'
import { gently } from '../gently'
import { type Env, type Parts } from './access'
import { checkFollowed } from './lists'
import { Problem } from './problems'
import { needs } from './routeTable'
import { type Listed } from '../market/listing'
import { findAll, viewClock, viewQuote, viewTraded } from './marketViews'
import { body, json, problems } from './shapes'

/** A comment line this often, in real milliseconds, so that both ends notice a broken connection. */
const HEARTBEAT = 5_000

const events = (description: string) => ({
  200: { description, content: { 'text/event-stream': { schema: z.string() } } },
})

const executionStream = createRoute({
  method: 'get',
  path: '/paper/executions/stream',
  ...needs('see-account'),
  tags: ['account'],
  summary: 'Execution reports as they happen (server-sent events)',
  description:
    'The event id is the report’s seq. With Last-Event-ID the stream goes on after it, without loss; without, it begins with what happens next. `from=start` begins with the first.',
  request: {
    query: z.object({ from: z.enum(['start', 'now']).default('now') }),
    headers: z.object({ 'last-event-id': z.string().optional() }),
  },
  responses: { ...events('Events "executionReport"'), ...problems(400, 401, 403) },
})

const quoteStream = createRoute({
  method: 'get',
  path: '/quotes/stream',
  ...needs('see-market'),
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
  ...needs('see-market'),
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

/** Runs `send` once and then after each change of the world, or when woken, one at a time, until the reader goes away. */
function following(
  c: Context,
  { world }: Parts,
  send: (stream: SSEStreamingApi) => Promise<void>,
  on: { begin?(wake: () => void): void; end?(): void } = {},
): Response {
  return streamSSE(c, async (stream) => {
    let awake: () => void = () => undefined
    let changed = true
    const wake = () => {
      changed = true
      awake()
    }
    const stop = world.listen(wake)
    on.begin?.(wake)
    stream.onAbort(() => {
      stop()
      awake()
    })
    let heard = Date.now()
    try {
      while (!stream.aborted && !stream.closed) {
        if (changed) {
          changed = false
          await send(stream)
        }
        if (Date.now() - heard > HEARTBEAT) {
          heard = Date.now()
          await stream.write(': still here\n\n')
        }
        if (!changed) {
          await new Promise<void>((resolve) => {
            const timer = setTimeout(resolve, HEARTBEAT).unref()
            awake = () => {
              clearTimeout(timer)
              resolve()
            }
          })
        }
      }
    } finally {
      stop()
      on.end?.()
    }
  })
}

/** The report after which a stream goes on. Throws Problem for what was never sent: beginning at now would lose some. */
function seqAfter(text: string | undefined, last: number): number | undefined {
  if (text === undefined) return undefined
  const seq = /^\d{1,15}$/.test(text) ? Number(text) : NaN
  if (seq <= last) return seq
  throw new Problem(
    'malformed-request',
    Number.isNaN(seq)
      ? `Last-Event-ID "${text.slice(0, 40)}" is not the id of an event.`
      : `Last-Event-ID ${seq} lies ahead: the last event so far is ${last}.`,
    'Send the id of the last event that came, or none and ask /paper/executions for what was missed.',
  )
}

/** What one stream has said of each security, and what there is to be said now. */
class Follower {
  /** Of each security: the quote that was sent last, as text, and its second. */
  private readonly said = new Map<string, { text: string; at: number }>()

  constructor(
    private readonly parts: Parts,
    public list: readonly Listed[],
  ) {}

  /** Quotes that have changed since they were sent, with what was traded between. */
  *changed(): Generator<void, QuoteTick[]> {
    const { world } = this.parts
    const now = world.clock.now()
    const out: QuoteTick[] = []
    for (const listed of this.list) {
      const before = this.said.get(listed.symbol)
      if (before?.at === now) continue
      const quote = viewQuote(this.parts, listed)
      const text = JSON.stringify({ ...quote, at: '' })
      const since = before && viewTraded(this.parts, listed, before.at, now)
      // A price that came and went within the silence is news, also where the quote stands as it stood.
      const spiked = since !== undefined && (since.high > quote.last || since.low < quote.last)
      if (before?.text !== text || spiked) {
        out.push({ ...quote, ...(since ? { since } : {}) })
        this.said.set(listed.symbol, { text, at: now })
      }
      yield
    }
    return out
  }
}

export function streamRoutes(app: OpenAPIHono<Env>, parts: Parts): void {
  const { world } = parts

  app.openapi(executionStream, (c) => {
    const begin = c.req.valid('query').from === 'start' ? 0 : world.reports.length
    let sent = seqAfter(c.req.header('Last-Event-ID'), world.reports.length) ?? begin
    return following(c, parts, async (stream) => {
      while (sent < world.reports.length) {
        const report = world.reports[sent]
        await stream.writeSSE({
          event: 'executionReport',
          id: String(report.seq),
          data: JSON.stringify(report),
        })
        sent = report.seq
      }
    }) as never
  })

  /** Streams that are open, by their id: who follows, and how the list of what is followed is changed. */
  const open = new Map<string, { keyId: string; follow(list: readonly Listed[]): void }>()

  app.openapi(quoteStream, (c) => {
    const { symbols } = c.req.valid('query')
    const follower = new Follower(parts, symbols === undefined ? [] : findAll(parts, symbols))
    checkFollowed(follower.list)
    const id = randomUUID()
    let clockBefore = ''
    let begun = false
    const send = async (stream: SSEStreamingApi) => {
      if (!begun) {
        begun = true
        await stream.writeSSE({ event: 'stream', data: JSON.stringify({ id }) })
      }
      const clock = JSON.stringify(viewClock(parts))
      if (clock !== clockBefore) {
        clockBefore = clock
        await stream.writeSSE({ event: 'clock', data: clock })
      }
      const changed = await gently(follower.changed())
      if (changed.length > 0) await stream.writeSSE({ event: 'quotes', data: JSON.stringify(changed) })
    }
    return following(c, parts, send, {
      begin: (wake) =>
        open.set(id, {
          keyId: c.var.bearer.keyId,
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
    if (!stream || stream.keyId !== c.var.bearer.keyId)
      throw new Problem(
        'not-found',
        `No stream of quotes ${id.slice(0, 40)} is open for this key.`,
        'Open one at /quotes/stream; its first event tells its id.',
      )
    const { symbols } = c.req.valid('json')
    const list = symbols.length === 0 ? [] : findAll(parts, symbols.join(','))
    checkFollowed(list)
    stream.follow(list)
    return c.json({ followed: list.length }, 200)
  })
}
