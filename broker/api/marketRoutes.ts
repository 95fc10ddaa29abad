import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { Action } from '@/core/market/adjust'
import { Security } from '@/core/market/security'
import { VENUES, venueOf } from '@/core/market/venue'
import { Clock as ClockView, Quote as QuoteView, ReportView, SessionView } from '@/core/market/wire'
import { rateForSession } from '../clock'
import { type Env } from './access'
import {
  findAll,
  findListed,
  findQuoted,
  outside,
  outsideContract,
  viewClock,
  viewQuote,
  viewSession,
} from './marketViews'
import { each, jsonList } from './lists'
import { mayChangeForAll } from './clockRights'
import { notPossible, Problem } from './problems'
import { needs } from './routeTable'
import { body, json, problems } from './shapes'

const session = createRoute({
  method: 'get',
  path: '/venues/{mic}/session',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'The session of a venue: whether it is open, and until when',
  request: { params: z.object({ mic: z.string() }) },
  responses: { 200: json(SessionView, 'The session under way, or the next'), ...problems(401, 403, 404) },
})

const securities = createRoute({
  method: 'get',
  path: '/securities',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Everything that is listed',
  responses: { 200: json(z.array(Security), 'Securities by symbol'), ...problems(401, 403) },
})

const security = createRoute({
  method: 'get',
  path: '/securities/{symbol}',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'One security',
  request: { params: z.object({ symbol: z.string() }) },
  responses: { 200: json(Security, 'The security'), ...problems(401, 403, 422) },
})

const venues = createRoute({
  method: 'get',
  path: '/venues',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Every venue, and whether it is open',
  responses: { 200: json(z.array(SessionView), 'The home market first'), ...problems(401, 403) },
})

const actions = createRoute({
  method: 'get',
  path: '/securities/{symbol}/actions',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Splits and dividends of a security, oldest first',
  request: { params: z.object({ symbol: z.string() }) },
  responses: { 200: json(z.array(Action), 'Those with an ex-date up to now'), ...problems(401, 403, 422) },
})

const reports = createRoute({
  method: 'get',
  path: '/reports',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'What companies have reported: shares, float, earnings, and when the next report comes',
  request: {
    query: z.object({
      symbols: z.string().optional().meta({ description: 'Separated by commas; all where left out' }),
      last: z.coerce
        .number()
        .int()
        .min(1)
        .max(1000)
        .default(1000)
        .meta({ description: 'At most so many of each' }),
    }),
  },
  responses: { 200: json(z.array(ReportView), 'By symbol, oldest first'), ...problems(400, 401, 403, 422) },
})

const quotes = createRoute({
  method: 'get',
  path: '/quotes',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Best bid, best ask and last price',
  request: {
    query: z.object({
      symbols: z.string().optional().meta({ description: 'Separated by commas; all where left out' }),
    }),
  },
  responses: { 200: json(z.array(QuoteView), 'Quotes'), ...problems(401, 403, 422) },
})

const clock = createRoute({
  method: 'get',
  path: '/market-time',
  ...needs('see-market', 'market'),
  tags: ['stand-in'],
  summary: 'How the market’s time runs',
  responses: { 200: json(ClockView, 'The clock'), ...problems(401, 403) },
})

const SetClock = z
  .strictObject({
    running: z.boolean().optional(),
    sessionTakes: z
      .number()
      .min(5)
      .max(86_400)
      .optional()
      .meta({ description: 'Real seconds that a whole session shall take' }),
    step: z
      .number()
      .int()
      .min(1)
      .max(604_800)
      .optional()
      .meta({ description: 'Move on by so many market seconds' }),
    jumpTo: z.enum(['open', 'close']).optional().meta({ description: 'Move on to the next open or close' }),
  })
  .refine((change) => change.step === undefined || change.jumpTo === undefined, {
    path: ['jumpTo'],
    message: 'step and jumpTo move the clock in two ways; send one of them',
  })
  .meta({ id: 'SetClock' })

const setClock = createRoute({
  method: 'post',
  path: '/market-time',
  ...needs('send-orders', 'clock'),
  tags: ['stand-in'],
  summary: 'Pause, run, pace or move on the market’s time; what happens on the way happens',
  request: body(SetClock),
  responses: { 200: json(ClockView, 'The clock'), ...problems(400, 401, 403, 409, 413, 415) },
})

export function marketRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(session, (c) => {
    const { mic } = c.req.valid('param')
    const venue = venueOf(mic)
    if (!venue)
      throw new Problem(
        'not-found',
        `There is no venue ${mic.slice(0, 40)} here.`,
        `Ask for ${VENUES.map((v) => v.mic).join(' or ')}.`,
      )
    return c.json(viewSession(c.var.world, venue), 200)
  })
  app.openapi(venues, (c) =>
    c.json(
      VENUES.map((venue) => viewSession(c.var.world, venue)),
      200,
    ),
  )
  app.openapi(actions, (c) =>
    c.json(
      c.var.world.markets.actionsOf(findListed(c.var, c.req.valid('param').symbol), c.var.world.clock.now()),
      200,
    ),
  )
  app.openapi(reports, (c) => {
    const { symbols, last } = c.req.valid('query')
    const { world } = c.var
    const now = world.clock.now()
    const list = findAll(c.var, symbols)
    function* views() {
      for (const listed of list) {
        const { zone } = world.markets.of(listed).venue
        for (const { known, ...told } of world.markets.reportsOf(listed, now).slice(-last))
          yield { symbol: listed.symbol, known: world.timeText(known, zone), ...told }
      }
    }
    return jsonList(c, views()) as never
  })

  app.openapi(securities, (c) => jsonList(c, each(c.var.world.markets.listing, outside)) as never)
  app.openapi(security, (c) => {
    const listed = findListed(c.var, c.req.valid('param').symbol)
    return c.json(listed.option ? outsideContract(c.var.world, listed) : outside(listed), 200)
  })
  app.openapi(quotes, (c) => {
    const list = findQuoted(c.var, c.req.valid('query').symbols)
    return jsonList(
      c,
      each(list, (listed) => viewQuote(c.var.world, listed)),
    ) as never
  })

  app.openapi(clock, (c) => c.json(viewClock(c.var.world), 200))
  app.openapi(setClock, async (c) => {
    mayChangeForAll(c, 'clock')
    const { running, sessionTakes, step, jumpTo } = c.req.valid('json')
    const { world } = c.var
    const now = world.clock.now()
    const next = world.market.nextSession(now)
    const openAt = next.open > now ? next.open : world.market.nextSession(next.close).open
    const moveTo =
      step !== undefined
        ? now + step * 1000
        : jumpTo === 'open'
          ? openAt
          : jumpTo === 'close'
            ? next.close
            : undefined
    const rate = sessionTakes && rateForSession(next.close - next.open, sessionTakes)
    await world
      .setClock({ running, rate, moveTo })
      .catch(notPossible('GET /paper/market-time tells how far a rehearsal may go.'))
    return c.json(viewClock(c.var.world), 200)
  })
}
