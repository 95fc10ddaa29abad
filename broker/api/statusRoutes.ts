import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { isIntraday, parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { type SSEStreamingApi } from 'hono/streaming'
import { type World } from '../world'
import { type Env } from './access'
import { extras, extrasOf } from './extras'
import { following } from './following'
import { checkFollowed } from './lists'
import { findAllPriced, viewSession } from './marketViews'
import { momentOf } from './moments'
import { Problem } from './problems'
import { needs } from './routeTable'
import { problems } from './shapes'

const events = (description: string) => ({
  200: { description, content: { 'text/event-stream': { schema: z.string() } } },
})

const statusStream = createRoute({
  method: 'get',
  path: '/status/stream',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Which venues are open and what is halted, now and when it changes (server-sent events)',
  description: 'Begins with how everything stands, so that nothing is missed by coming back.',
  responses: {
    ...events('Events "session" (one of each venue) and "halts" (a list)'),
    ...problems(401, 403),
  },
})

const barStream = createRoute({
  method: 'get',
  path: '/bars/stream',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Bars as they are complete (server-sent events)',
  description:
    'The id of an event is the moment at which its bar ended. With Last-Event-ID the stream goes on with the bars that ended after it, without loss; without, with those that end next.',
  request: {
    query: z.object({
      symbols: z.string().meta({ description: 'Separated by commas' }),
      every: z.string().max(20).default('1 min'),
      extras,
    }),
    headers: z.object({ 'last-event-id': z.string().optional() }),
  },
  responses: { ...events('Events "bar"'), ...problems(400, 401, 403, 422) },
})

const MINUTE = 60_000
const DAY = 1440 * MINUTE

/** Bars that one stream sends of at most so many sessions that were missed. */
const MOST_MISSED = 5 * DAY

export function statusRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(statusStream, (c) => {
    const { world } = c.var
    const said = new Map<string, string>()
    const tell = async (stream: SSEStreamingApi, key: string, event: string, data: string) => {
      if (said.get(key) === data) return
      said.set(key, data)
      await stream.writeSSE({ event, data })
    }
    return following(c, world, async (stream) => {
      for (const { venue } of world.markets.all) {
        const { now: _now, ...session } = viewSession(world, venue)
        await tell(stream, venue.mic, 'session', JSON.stringify(session))
      }
      const halted = world.halts.at(world.clock.now()).map(({ symbol }) => symbol)
      await tell(stream, 'halts', 'halts', JSON.stringify(halted))
    }) as never
  })

  app.openapi(barStream, (c) => {
    const { world } = c.var
    const { symbols, every: asked, extras: more } = c.req.valid('query')
    const counts = extrasOf(more)
    const every = parseTimeframe(asked)
    if (!every)
      throw new Problem(
        'malformed-request',
        `every "${asked}" is no timeframe.`,
        'Write 1 min, 15 min or 1 day.',
      )
    const list = findAllPriced(c.var, symbols)
    checkFollowed(list)
    const last = c.req.header('Last-Event-ID')
    let sent = last === undefined ? world.clock.now() : endOf(world, last)
    return following(c, world, async (stream) => {
      const now = world.clock.now()
      // Bars end on whole minutes.
      if (Math.floor(now / MINUTE) === Math.floor(sent / MINUTE)) return
      const due = list.flatMap((listed) => {
        const { venue } = world.markets.of(listed)
        const bars = world.markets.bars(listed, every, now, {
          ...{
            from: sent - roughMinutes(every) * MINUTE - (isIntraday(every) ? 0 : DAY),
            limit: 50_000,
            soFar: false,
            extras: counts,
          },
        })
        return Array.from(bars.end, (end, i) => ({ end, i, bars, listed, venue })).filter(
          ({ end }) => end > sent && end <= now,
        )
      })
      for (const { end, i, bars, listed, venue } of due.sort((a, b) => a.end - b.end)) {
        const [open, high, low, close, volume] = [
          bars.open,
          bars.high,
          bars.low,
          bars.close,
          bars.volume,
        ].map((column) => column[i])
        const time = world.timeText(bars.time[i], venue.zone)
        const counted = Object.fromEntries(
          counts.flatMap((name) => (bars[name] ? [[name, bars[name][i]]] : [])),
        )
        await stream.writeSSE({
          event: 'bar',
          id: world.timeText(end, venue.zone),
          data: JSON.stringify({
            ...{ symbol: listed.symbol, every: asked, time, open, high, low, close, volume },
            ...counted,
          }),
        })
      }
      sent = now
    }) as never
  })
}

/** The moment after which a stream of bars goes on. Throws Problem for one that lies ahead or too far back. */
function endOf(world: World, text: string): number {
  const end = momentOf(text, 'Last-Event-ID', world.market.venue.zone, false)
  const now = world.clock.now()
  if (end > now || end < now - MOST_MISSED)
    throw new Problem(
      'foreign-event',
      `Last-Event-ID "${text.slice(0, 40)}" lies ${end > now ? 'ahead' : 'more than five days back'}.`,
      'Ask for the bars that were missed at /securities/{symbol}/bars, and begin the stream without an id.',
    )
  return end
}
