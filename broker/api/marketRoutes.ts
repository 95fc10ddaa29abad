import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { DateTime } from 'luxon'
import Papa from 'papaparse'
import { encodeBars } from '@/core/formats/barsBinary'
import { Action } from '@/core/market/adjust'
import { type Bars, COUNTED, type ExtraName } from '@/core/market/bars'
import { Security } from '@/core/market/security'
import { isIntraday, parseTimeframe, type Timeframe, timeframeText } from '@/core/market/timeframe'
import { VENUES, venueOf } from '@/core/market/venue'
import { Clock as ClockView, Quote as QuoteView, ReportView, SessionView } from '@/core/market/wire'
import { rateForSession } from '../clock'
import { findAll, findListed, outside, viewClock, viewQuote, viewSession } from './marketViews'
import { type Env, needsScope, type Parts } from './access'
import { Problem } from './problems'
import { body, json, problems } from './shapes'

const every = z
  .string()
  .default('1 day')
  .refine((text) => parseTimeframe(text) !== undefined, {
    message: 'name a timeframe such as "15 min", "1 hour", "1 day" or "1 week"',
  })

const soFar = z
  .enum(['true', 'false'])
  .default('false')
  .meta({ description: 'Also the bar that is still growing' })

const adjust = z
  .enum(['splits', 'all', 'raw'])
  .default('splits')
  .meta({ description: 'Made comparable over splits, over splits and dividends, or as traded' })

const extras = z
  .string()
  .optional()
  .refine((text) => !text || text.split(',').every((name) => (COUNTED as readonly string[]).includes(name)), {
    message: `name some of ${COUNTED.join(', ')}, separated by commas`,
  })
  .meta({ description: 'Further columns, separated by commas: uptrades, downtrades, optionvolume' })

const extrasOf = (text: string | undefined): ExtraName[] => (text ? text.split(',') : []) as ExtraName[]

const Bar = z.object({
  time: z.string(),
  open: z.number(),
  high: z.number(),
  low: z.number(),
  close: z.number(),
  volume: z.number(),
  uptrades: z.number().optional(),
  downtrades: z.number().optional(),
  optionvolume: z.number().optional(),
})

const session = createRoute({
  method: 'get',
  path: '/venues/{mic}/session',
  tags: ['market'],
  summary: 'The session of a venue: whether it is open, and until when',
  request: { params: z.object({ mic: z.string() }) },
  responses: { 200: json(SessionView, 'The session under way, or the next'), ...problems(401, 403, 404) },
})

const securities = createRoute({
  method: 'get',
  path: '/securities',
  tags: ['market'],
  summary: 'Everything that is listed',
  responses: { 200: json(z.array(Security), 'Securities by symbol'), ...problems(401, 403) },
})

const security = createRoute({
  method: 'get',
  path: '/securities/{symbol}',
  tags: ['market'],
  summary: 'One security',
  request: { params: z.object({ symbol: z.string() }) },
  responses: { 200: json(Security, 'The security'), ...problems(401, 403, 422) },
})

const bars = createRoute({
  method: 'get',
  path: '/securities/{symbol}/bars',
  tags: ['market'],
  summary: 'Bars of one security, oldest first, as JSON or CSV',
  request: {
    params: z.object({ symbol: z.string() }),
    query: z.object({
      every,
      soFar,
      adjust,
      extras,
      from: z.iso.date().optional().meta({ description: 'First date' }),
      to: z.iso.date().optional().meta({ description: 'Last date' }),
      limit: z.coerce
        .number()
        .int()
        .min(1)
        .max(50_000)
        .default(500)
        .meta({ description: 'At most so many, the last ones' }),
      format: z.enum(['json', 'csv']).optional().meta({ description: 'Or by the Accept header' }),
    }),
  },
  responses: {
    200: {
      description: 'Bars; the time is when a bar starts, a date for days and longer',
      content: {
        'application/json': {
          schema: z.object({ symbol: z.string(), every: z.string(), asOf: z.string(), bars: z.array(Bar) }),
        },
        'text/csv': { schema: z.string() },
      },
    },
    ...problems(400, 401, 403, 422),
  },
})

const allBars = createRoute({
  method: 'get',
  path: '/bars',
  tags: ['market'],
  summary: 'Bars of many securities in one compact binary message (form FHB1)',
  request: {
    query: z.object({
      every,
      soFar,
      adjust,
      extras,
      limit: z.coerce
        .number()
        .int()
        .min(1)
        .max(50_000)
        .default(2_000)
        .meta({ description: 'At most so many of each, the last ones' }),
      from: z.iso.date().optional().meta({ description: 'First date, by UTC; a day more may come' }),
      symbols: z.string().optional().meta({ description: 'Separated by commas; all where left out' }),
    }),
  },
  responses: {
    200: {
      description: 'FHB1',
      content: { 'application/octet-stream': { schema: z.string().meta({ format: 'binary' }) } },
    },
    ...problems(400, 401, 403, 422),
  },
})

const venues = createRoute({
  method: 'get',
  path: '/venues',
  tags: ['market'],
  summary: 'Every venue, and whether it is open',
  responses: { 200: json(z.array(SessionView), 'The home market first'), ...problems(401, 403) },
})

const actions = createRoute({
  method: 'get',
  path: '/securities/{symbol}/actions',
  tags: ['market'],
  summary: 'Splits and dividends of a security, oldest first',
  request: { params: z.object({ symbol: z.string() }) },
  responses: { 200: json(z.array(Action), 'Those with an ex-date up to now'), ...problems(401, 403, 422) },
})

const reports = createRoute({
  method: 'get',
  path: '/reports',
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
  path: '/clock',
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
  .meta({ id: 'SetClock' })

const setClock = createRoute({
  method: 'post',
  path: '/clock',
  tags: ['stand-in'],
  summary: 'Pause, run, pace or move on the market’s time; what happens on the way happens',
  request: body(SetClock),
  responses: { 200: json(ClockView, 'The clock'), ...problems(400, 401, 403, 409) },
})

const rowTime = (frame: Timeframe, zone: string, moment: number): string => {
  const local = DateTime.fromMillis(moment, { zone })
  return isIntraday(frame) ? local.toISO({ suppressMilliseconds: true })! : local.toISODate()!
}

const rowsOf = (series: Bars) =>
  Array.from(series.time, (time, i) => ({
    time: rowTime(series.every, series.zone, time),
    open: series.open[i],
    high: series.high[i],
    low: series.low[i],
    close: series.close[i],
    volume: series.volume[i],
    ...Object.fromEntries(COUNTED.filter((name) => series[name]).map((name) => [name, series[name]![i]])),
  }))

export function marketRoutes(app: OpenAPIHono<Env>, parts: Parts): void {
  const { world } = parts
  for (const path of [
    '/venues',
    '/venues/*',
    '/reports',
    '/securities',
    '/securities/*',
    '/bars',
    '/quotes',
    '/quotes/*',
    '/clock',
  ]) {
    app.use(path, needsScope(parts, 'see-market'))
  }

  app.openapi(session, (c) => {
    const { mic } = c.req.valid('param')
    const venue = venueOf(mic)
    if (!venue)
      throw new Problem(
        'not-found',
        `There is no venue ${mic} here.`,
        `Ask for ${VENUES.map((v) => v.mic).join(' or ')}.`,
      )
    return c.json(viewSession(parts, venue), 200)
  })
  app.openapi(venues, (c) =>
    c.json(
      VENUES.map((venue) => viewSession(parts, venue)),
      200,
    ),
  )
  app.openapi(actions, (c) =>
    c.json(world.markets.actionsOf(findListed(parts, c.req.valid('param').symbol), world.clock.now()), 200),
  )
  app.openapi(reports, (c) => {
    const { symbols, last } = c.req.valid('query')
    const now = world.clock.now()
    const views = findAll(parts, symbols).flatMap((listed) =>
      world.markets
        .reportsOf(listed, now)
        .slice(-last)
        .map(({ known, ...told }) => ({
          symbol: listed.symbol,
          known: world.timeText(known, world.markets.of(listed).venue.zone),
          ...told,
        })),
    )
    return c.json(views, 200)
  })

  app.openapi(securities, (c) => c.json(world.markets.listing.map(outside), 200))
  app.openapi(security, (c) => c.json(outside(findListed(parts, c.req.valid('param').symbol)), 200))
  app.openapi(quotes, (c) =>
    c.json(
      findAll(parts, c.req.valid('query').symbols).map((l) => viewQuote(parts, l)),
      200,
    ),
  )

  app.openapi(bars, (c) => {
    const listed = findListed(parts, c.req.valid('param').symbol)
    const ask = c.req.valid('query')
    const frame = parseTimeframe(ask.every)!
    const dayStart = (date: string, plus: number) =>
      DateTime.fromISO(date, { zone: world.markets.of(listed).venue.zone })
        .plus({ days: plus })
        .toMillis()
    const now = world.clock.now()
    const series = world.markets.bars(listed, frame, now, {
      adjust: ask.adjust,
      extras: extrasOf(ask.extras),
      from: ask.from === undefined ? undefined : dayStart(ask.from, 0),
      to: ask.to === undefined ? undefined : dayStart(ask.to, 1),
      limit: ask.limit,
      soFar: ask.soFar === 'true',
    })
    const rows = rowsOf(series)
    if (ask.format === 'csv' || (!ask.format && c.req.header('Accept')?.includes('text/csv'))) {
      const text = Papa.unparse(
        {
          fields: [
            'time',
            'open',
            'high',
            'low',
            'close',
            'volume',
            ...COUNTED.filter((name) => series[name]),
          ],
          data: rows,
        },
        { newline: '\r\n' },
      )
      return c.body(`${text}\r\n`, 200, { 'Content-Type': 'text/csv; charset=utf-8' }) as never
    }
    return c.json(
      { symbol: listed.symbol, every: timeframeText(frame), asOf: world.timeText(now), bars: rows },
      200,
    )
  })

  app.openapi(allBars, (c) => {
    const ask = c.req.valid('query')
    const frame = parseTimeframe(ask.every)!
    const now = world.clock.now()
    const list = findAll(parts, ask.symbols)
    const about = {
      from: ask.from === undefined ? undefined : Date.parse(`${ask.from}T00:00:00Z`) - 86_400_000,
      limit: ask.limit,
      soFar: ask.soFar === 'true',
      adjust: ask.adjust,
      extras: extrasOf(ask.extras),
    }
    const set = {
      symbols: list.map((listed) => listed.symbol),
      bars: list.map((listed) => world.markets.bars(listed, frame, now, about)),
    }
    return c.body(encodeBars(set, world.timeText(now)) as Uint8Array<ArrayBuffer>, 200, {
      'Content-Type': 'application/octet-stream',
    }) as never
  })

  app.openapi(clock, (c) => c.json(viewClock(parts), 200))
  app.use('/clock', async function settingNeedsOrders(c, next) {
    return c.req.method === 'POST' ? needsScope(parts, 'send-orders')(c, next) : next()
  })
  app.openapi(setClock, async (c) => {
    const { running, sessionTakes, step, jumpTo } = c.req.valid('json')
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
    await world.setClock({
      running,
      rate: sessionTakes && rateForSession(next.close - next.open, sessionTakes),
      moveTo,
    })
    return c.json(viewClock(parts), 200)
  })
}
