import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { plainSymbol } from '@/core/options/osi'
import { isAbout } from './orderQuery'
import { ExecutionReport } from '@/core/orders/model'
import { giveWay } from '../gently'
import { type Account } from '../account/account'
import { type World } from '../world'
import { type ExpiryNotice } from '@/core/orders/views'
import { accountFor, type Env } from './access'
import { eventId, seqAfter } from './eventIds'
import { following } from './following'
import { Problem } from './problems'
import { needs } from './routeTable'
import { restOf, tellCut } from './lists'
import { json, OfAccount, problems } from './shapes'

const executions = createRoute({
  method: 'get',
  path: '/executions',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'Execution reports after a sequence number, oldest first',
  description:
    'Where there are more than `limit`, the headers Heron-Cut and Link say so and where the rest is.',
  request: {
    query: OfAccount.extend({
      after: z.coerce.number().int().min(0).default(0),
      limit: z.coerce.number().int().min(1).max(10_000).default(1000),
      symbol: z.string().max(32).optional().meta({ description: 'Of this security only' }),
      clOrdId: z.string().max(80).optional().meta({ description: 'Of this order only' }),
    }),
  },
  responses: { 200: json(z.array(ExecutionReport), 'Reports'), ...problems(400, 401, 403, 404) },
})

const executionStream = createRoute({
  method: 'get',
  path: '/executions/stream',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'Execution reports as they happen (server-sent events)',
  description:
    'The event id names world, epoch, account and the report’s seq. With Last-Event-ID the stream goes on after it, without loss; an id of another world, epoch or account is refused. Without, it begins after the report that `after` names, or with what happens next.',
  request: {
    query: OfAccount.extend({
      after: z.coerce.number().int().min(0).optional().meta({
        description:
          'Begin after the report of this seq, 0 being before the first; with what happens next where left out',
      }),
    }),
    headers: z.object({ 'last-event-id': z.string().optional() }),
  },
  responses: {
    200: {
      description: 'Events "executionReport", and "expiring" (a list, see /expiries)',
      content: { 'text/event-stream': { schema: z.string() } },
    },
    ...problems(400, 401, 403, 404),
  },
})

/** Text that is sent at once to one who follows. */
const PIECE = 64 * 1024

const texts = new WeakMap<ExecutionReport, string>()

/** A report as an event of a stream; made once, however many follow. */
function eventText(world: World, account: Account, report: ExecutionReport): string {
  let text = texts.get(report)
  if (text === undefined) {
    text = `event: executionReport\ndata: ${JSON.stringify(report)}\nid: ${eventId(world, account, report.seq)}\n\n`
    texts.set(report, text)
  }
  return text
}

/** The reports after a number as bytes of a stream, at most a piece of them. */
interface Piece {
  after: number
  upTo: number
  epoch: number
  bytes: Uint8Array
}

const encoder = new TextEncoder()
const pieces = new WeakMap<Account, Piece>()

/** What follows a report in an account's stream; of many readers who are as far all but the first get what is made already. */
function pieceAfter(world: World, account: Account, after: number): Piece {
  const { reports } = account
  const last = pieces.get(account)
  const same = last?.after === after && last.epoch === world.epoch
  if (same && (last.upTo === reports.length || last.bytes.length >= PIECE)) return last
  let [text, upTo] = ['', after]
  while (upTo < reports.length && text.length < PIECE) text += eventText(world, account, reports.get(++upTo))
  const piece = { after, upTo, epoch: world.epoch, bytes: encoder.encode(text) }
  pieces.set(account, piece)
  return piece
}

export function executionRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(executions, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const { after, limit, symbol, clOrdId, account } = c.req.valid('query')
    const { book, reports } = accountFor(world, key, account)
    const orderId = clOrdId === undefined ? undefined : (book.byClOrdId[clOrdId] ?? '')
    const asked = symbol && plainSymbol(symbol.toUpperCase())
    const found: ExecutionReport[] = []
    let at = after
    for (; at < reports.length && found.length < limit; at++) {
      if (at % 1000 === 999) await giveWay()
      const report = reports.get(at + 1)
      if (asked !== undefined && !isAbout(report, asked)) continue
      if (orderId === undefined || report.orderId === orderId) found.push(report)
    }
    if (at < reports.length) {
      const rest = restOf(c, 'after', String(at))
      tellCut(c, `the first ${found.length} reports; there are more`, rest)
    }
    return c.json(found, 200)
  })

  app.openapi(executionStream, (c) => {
    const { world, key } = c.var
    const { after, account: asked } = c.req.valid('query')
    const account = accountFor(world, key, asked)
    const { name, reports } = account
    if (after !== undefined && after > reports.length)
      throw new Problem(
        'malformed-request',
        `after ${after} lies ahead: the last report so far is ${reports.length}.`,
        'Give the seq of a report that came, or leave it out.',
      )
    let sent = seqAfter(world, account, c.req.header('Last-Event-ID')) ?? after ?? reports.length
    let { epoch } = world
    let announced: readonly ExpiryNotice[] | undefined
    return following(c, world, async (stream) => {
      // A world that was put back begins its account anew: asked for each time.
      const now = world.accounts.get(name)
      if (!now) return
      if (world.epoch !== epoch) {
        epoch = world.epoch
        sent = Math.min(sent, now.reports.length)
        await stream.writeSSE({ event: 'epoch', data: JSON.stringify({ epoch, seq: now.reports.length }) })
      }
      // The announcement of expiring contracts is sent when the stream begins, and again when it changes.
      const { expiring } = now.book
      if (expiring !== announced && (expiring.length > 0 || announced !== undefined)) {
        announced = expiring
        await stream.writeSSE({ event: 'expiring', data: JSON.stringify(expiring) })
      }
      if (sent < now.reports.length) {
        const { bytes, upTo } = pieceAfter(world, now, sent)
        sent = upTo
        await stream.write(bytes)
      }
      return sent < now.reports.length
    }) as never
  })
}
