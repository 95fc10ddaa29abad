import { randomUUID } from 'node:crypto'
import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { streamSSE, type SSEStreamingApi } from 'hono/streaming'
import { type Env, remoteOf } from './access'
import { HEARTBEAT } from './following'
import { Problem } from './problems'
import { anyToken } from './routeTable'
import { body, json, problems } from './shapes'

/** Streams that one connection may carry. */
const MOST = 50

/** Any token will do for the connection; each stream that it carries asks for its own right. */
const CARRIER = anyToken('nothing')

const openAll = createRoute({
  method: 'get',
  path: '/streams',
  ...CARRIER,
  tags: ['market', 'account'],
  summary: 'One connection that carries several streams (server-sent events)',
  description:
    'For who may hold few connections open, as a browser. The first event, "streams", tells the id under which streams are put on it: POST /streams/{id}. What they say comes as events "piece" ({of, text}); the texts of one stream one after the other are what it would say alone. One that ends is told by "over" ({of}).',
  responses: {
    200: {
      description: 'Events "streams", "piece" and "over"',
      content: { 'text/event-stream': { schema: z.string() } },
    },
    ...problems(401, 403),
  },
})

const name = z.string().min(1).max(40)

const putOn = createRoute({
  method: 'post',
  path: '/streams/{id}',
  ...CARRIER,
  tags: ['market', 'account'],
  summary: 'Puts a stream on an open connection; what keeps it from opening is answered as that stream would',
  request: {
    params: z.object({ id: z.string() }),
    ...body(
      z.strictObject({
        of: name.meta({ description: 'How its pieces are told from others' }),
        path: z
          .string()
          .max(20_000)
          .regex(/^\/(quotes|executions|bars|status)\/stream(\?|$)/, 'name a stream, such as /quotes/stream')
          .meta({ description: 'Path of the stream below its world, with its query' }),
        lastEventId: z.string().max(200).optional().meta({ description: 'As the header Last-Event-ID' }),
      }),
    ),
  },
  responses: {
    200: json(z.object({ of: z.string() }), 'It is open'),
    ...problems(400, 401, 403, 404, 422),
  },
})

const takeOff = createRoute({
  method: 'delete',
  path: '/streams/{id}/{of}',
  ...CARRIER,
  tags: ['market', 'account'],
  summary: 'Ends a stream of a connection; the others go on',
  request: { params: z.object({ id: z.string(), of: name }) },
  responses: { 200: json(z.object({ of: z.string() }), 'It is closed'), ...problems(401, 403, 404) },
})

/** A connection and what it carries. */
interface Carrier {
  keyId: string
  base: string
  out: SSEStreamingApi
  readonly carried: Map<string, ReadableStreamDefaultReader<Uint8Array>>
}

/** Hands on what one stream says until it ends, or is taken off. */
async function carry(
  { out, carried }: Carrier,
  of: string,
  stream: ReadableStream<Uint8Array>,
): Promise<void> {
  const reader = stream.getReader()
  carried.set(of, reader)
  const decoder = new TextDecoder()
  try {
    for (;;) {
      const { done, value } = await reader.read()
      if (done || out.aborted || out.closed) break
      await out.writeSSE({
        event: 'piece',
        data: JSON.stringify({ of, text: decoder.decode(value, { stream: true }) }),
      })
    }
  } catch {
    // A stream that breaks is over; who followed it asks for it anew.
  } finally {
    await reader.cancel().catch(() => undefined)
    if (carried.get(of) === reader) carried.delete(of)
    if (!out.aborted && !out.closed) await out.writeSSE({ event: 'over', data: JSON.stringify({ of }) })
  }
}

/** Path of a world before that of a route: "/paper", "/rehearsals/march". */
const baseOf = (url: string): string => /^(.*?)\/streams(\/|$)/.exec(new URL(url).pathname)![1]

export function streamRoutes(app: OpenAPIHono<Env>): void {
  const open = new Map<string, Carrier>()

  const carrierOf = (id: string, keyId: string, url: string): Carrier => {
    const carrier = open.get(id)
    if (carrier && carrier.keyId === keyId && carrier.base === baseOf(url)) return carrier
    throw new Problem(
      'not-found',
      `No connection ${id.slice(0, 40)} is open for this key in this world.`,
      'Open one at /streams; its first event tells its id.',
    )
  }

  app.openapi(openAll, (c) => {
    const { streams, world, bearer } = c.var
    streams.check(bearer.keyId)
    return streamSSE(c, async (out) => {
      const id = randomUUID()
      const carrier: Carrier = {
        ...{ keyId: bearer.keyId, base: baseOf(c.req.url), out },
        carried: new Map(),
      }
      open.set(id, carrier)
      let end: (why?: string) => void = () => undefined
      const over = new Promise<string | undefined>((resolve) => (end = resolve))
      out.onAbort(() => end())
      const leave = streams.add({ world, bearer, remote: remoteOf(c), end })
      await out.writeSSE({ event: 'streams', data: JSON.stringify({ id }) })
      const beat = setInterval(() => void out.write(': still here\n\n'), HEARTBEAT).unref()
      const why = await over
      clearInterval(beat)
      leave()
      open.delete(id)
      for (const reader of carrier.carried.values()) await reader.cancel().catch(() => undefined)
      if (why !== undefined) await out.write(`: over: ${why}\n\n`)
    }) as never
  })

  app.openapi(putOn, async (c) => {
    const carrier = carrierOf(c.req.valid('param').id, c.var.bearer.keyId, c.req.url)
    const { of, path, lastEventId } = c.req.valid('json')
    if (carrier.carried.has(of) || carrier.carried.size >= MOST)
      throw new Problem(
        'malformed-request',
        carrier.carried.has(of) ? `of: ${of} is on it already.` : `It carries ${MOST} streams already.`,
        'Give it another name, or end one of those that it carries.',
      )
    const headers = new Headers({ Authorization: c.req.header('Authorization') ?? '' })
    if (lastEventId !== undefined) headers.set('Last-Event-ID', lastEventId)
    const answer = await app.request(new URL(carrier.base + path, c.req.url).href, { headers }, c.env)
    if (!answer.ok || !answer.body) return answer as never
    void carry(carrier, of, answer.body)
    return c.json({ of }, 200)
  })

  app.openapi(takeOff, async (c) => {
    const { id, of } = c.req.valid('param')
    const carrier = carrierOf(id, c.var.bearer.keyId, c.req.url)
    const reader = carrier.carried.get(of)
    if (!reader)
      throw new Problem(
        'not-found',
        `The connection carries no stream ${of}.`,
        'It may have ended by itself.',
      )
    carrier.carried.delete(of)
    await reader.cancel().catch(() => undefined)
    return c.json({ of }, 200)
  })
}
