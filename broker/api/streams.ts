import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { type Context } from 'hono'
import { streamSSE, type SSEStreamingApi } from 'hono/streaming'
import { type Quote as QuoteView } from '@/core/market/wire'
import { gently } from '../gently'
import { type Env, type Parts } from './access'
import { checkFollowed } from './lists'
import { Problem } from './problems'
import { needs } from './routeTable'
import { findAll, viewClock, viewQuote } from './marketViews'
import { problems } from './shapes'

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
  request: { query: z.object({ symbols: z.string().optional() }) },
  responses: { ...events('Events "quotes" (a list) and "clock"'), ...problems(401, 403, 422) },
})

/** Runs `send` once and then after each change of the world, one at a time, until the reader goes away. */
function following(c: Context, { world }: Parts, send: (stream: SSEStreamingApi) => Promise<void>): Response {
  return streamSSE(c, async (stream) => {
    let awake: () => void = () => undefined
    let changed = true
    const stop = world.listen(() => {
      changed = true
      awake()
    })
    stream.onAbort(() => {
      stop()
      awake()
    })
    let heard = Date.now()
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
    stop()
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

  app.openapi(quoteStream, (c) => {
    const list = findAll(parts, c.req.valid('query').symbols)
    checkFollowed(list)
    const known = new Map<string, string>()
    let clockBefore = ''
    let second = -1
    function* changedQuotes(): Generator<void, QuoteView[]> {
      const out: QuoteView[] = []
      for (const listed of list) {
        const quote = viewQuote(parts, listed)
        const text = JSON.stringify({ ...quote, at: '' })
        if (known.get(quote.symbol) !== text) out.push(quote)
        known.set(quote.symbol, text)
        yield
      }
      return out
    }
    return following(c, parts, async (stream) => {
      const clock = JSON.stringify(viewClock(parts))
      if (clock !== clockBefore) {
        clockBefore = clock
        await stream.writeSSE({ event: 'clock', data: clock })
      }
      if (world.clock.now() === second) return
      second = world.clock.now()
      const changed = await gently(changedQuotes())
      if (changed.length > 0) await stream.writeSSE({ event: 'quotes', data: JSON.stringify(changed) })
    }) as never
  })
}
