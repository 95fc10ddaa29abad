import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { DateTime } from 'luxon'
import { stream } from 'hono/streaming'
import { type Context } from 'hono'
import { encodeSteps } from '@/core/formats/barsBinary'
import { type Bars, COUNTED } from '@/core/market/bars'
import { stamper } from '@/core/market/moments'
import { parseTimeframe, timeframeText } from '@/core/market/timeframe'
import { gently, giveWay } from '../gently'
import { type Listed } from '../market/listing'
import { type BarsAsk } from '../market/asks'
import { type World } from '../world'
import { type Env } from './access'
import { findAllPriced, findPriced } from './marketViews'
import { momentOf } from './moments'
import { extras, extrasOf } from './extras'
import { Problem } from './problems'
import { needs } from './routeTable'
import { restOf, tellCut } from './lists'
import { problems } from './shapes'

/** Bars that one answer may hold, of all its securities together. */
export const MOST_BARS = 1_000_000

/** Rows that are written at once. */
const PIECE = 400

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

const prices = z
  .enum(['over-splits', 'over-splits-and-dividends', 'as-traded'])
  .default('over-splits')
  .meta({ description: 'Made comparable over splits, over splits and dividends, or as traded' })

const MOMENT = /^\d{4}-\d{2}-\d{2}(T\d{2}:\d{2}(:\d{2}(\.\d{1,3})?)?(Z|[+-]\d{2}:\d{2})?)?$/

const moment = (description: string) =>
  z
    .string()
    .optional()
    .refine((text) => text === undefined || (MOMENT.test(text) && DateTime.fromISO(text).isValid), {
      message: 'write a date, 2026-03-02, or a date and time, 2026-03-02T10:30 or 2026-03-02T10:30-04:00',
    })
    .meta({ description })

const from = moment('First date, or moment; without an offset in the zone of the venue')
const to = moment('Last date, whole; or the moment before which the last bar begins')

/** The first moment that is asked for, or the first that is not any more. */
function momentIn(text: string | undefined, zone: string, last: boolean): number | undefined {
  return text === undefined ? undefined : momentOf(text, last ? 'to' : 'from', zone, last)
}

const limitOf = (preset: number) =>
  z.coerce
    .number()
    .int()
    .min(1)
    .max(50_000)
    .optional()
    .meta({ description: `At most so many of each security, the last ones; ${preset} where left out` })

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

const bars = createRoute({
  method: 'get',
  path: '/securities/{symbol}/bars',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Bars of one security, oldest first, as JSON or CSV',
  description:
    'An answer that holds fewer bars than were asked for says so: `cut` and `rest` in JSON, a last line that begins with # in CSV, and in both the headers Heron-Cut and Link (rel="next"), which lead to the bars before.',
  request: {
    params: z.object({ symbol: z.string() }),
    query: z.object({
      every,
      soFar,
      prices,
      extras,
      from,
      to,
      limit: limitOf(500),
      format: z.enum(['json', 'csv']).optional().meta({ description: 'Or by the Accept header' }),
    }),
  },
  responses: {
    200: {
      description: 'Bars; the time is when a bar starts, a date for days and longer',
      content: {
        'application/json': {
          schema: z.object({
            symbol: z.string(),
            every: z.string(),
            asOf: z.string(),
            cut: z.boolean().meta({ description: 'There are more bars in what was asked for' }),
            rest: z.string().optional().meta({ description: 'Where the bars before these are' }),
            bars: z.array(Bar),
          }),
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
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Bars of many securities in one compact binary message (form FHB1)',
  description: `At most ${MOST_BARS.toLocaleString('en-US')} bars in one answer. The header Heron-Cut counts the securities of which there are more in what was asked for.`,
  request: {
    query: z.object({
      every,
      soFar,
      prices,
      extras,
      limit: limitOf(2_000),
      from,
      to,
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

type Query = z.infer<(typeof allBars)['request']['query']>

const askOf = (query: Omit<Query, 'symbols'>, zone: string, preset: number): BarsAsk => ({
  prices: query.prices,
  extras: extrasOf(query.extras),
  from: momentIn(query.from, zone, false),
  to: momentIn(query.to, zone, true),
  limit: query.limit ?? preset,
  soFar: query.soFar === 'true',
})

/** Where the bars before those that were sent are: the same question, up to the first of them. */
function barsBefore(c: Context, series: Bars, stamp: (moment: number) => string): string {
  const first = stamp(series.time[0])
  return restOf(c, 'to', first.length > 10 ? first : dayBefore(first))
}

const dayBefore = (date: string): string =>
  DateTime.fromISO(date, { zone: 'utc' }).minus({ days: 1 }).toISODate()!

/** Each bar of a series as an object, in the order of its columns. */
function rowMaker(series: Bars, stamp: (moment: number) => string) {
  const counted = COUNTED.filter((name) => series[name])
  const fields = ['time', 'open', 'high', 'low', 'close', 'volume', ...counted] as const
  const valuesOf = (i: number): (string | number)[] => [
    stamp(series.time[i]),
    series.open[i],
    series.high[i],
    series.low[i],
    series.close[i],
    series.volume[i],
    ...counted.map((name) => series[name]![i]),
  ]
  return { fields, valuesOf }
}

export function barRoutes(app: OpenAPIHono<Env>): void {
  const zoneOf = (world: World, listed: Listed) => world.markets.of(listed).venue.zone

  app.openapi(bars, async (c) => {
    const { world } = c.var
    const listed = findPriced(c.var, c.req.valid('param').symbol)
    const query = c.req.valid('query')
    const frame = parseTimeframe(query.every)!
    const now = world.clock.now()
    const ask = askOf(query, zoneOf(world, listed), 500)
    const { bars: series, cut } = await gently(world.markets.barsSteps(listed, frame, now, ask))
    const stamp = stamper(series.every, series.zone)
    const n = series.time.length
    const rest = cut ? barsBefore(c, series, stamp) : undefined
    if (rest) tellCut(c, `the last ${n} bars; there are more`, rest)
    const { fields, valuesOf } = rowMaker(series, stamp)
    const asCsv = query.format === 'csv' || (!query.format && c.req.header('Accept')?.includes('text/csv'))
    const about = { symbol: listed.symbol, every: timeframeText(frame), asOf: world.timeText(now), cut, rest }
    const text = asCsv ? csvText : jsonText
    c.header('Content-Type', asCsv ? 'text/csv; charset=utf-8' : 'application/json')
    // A script that asked for so many and no more knows that there are others; one that named the first does not.
    const told = asCsv && rest && (query.from !== undefined || query.limit === undefined) ? rest : undefined
    return stream(c, async (out) => {
      await out.write(text.head(fields, about))
      for (let i = 0; i < n && !out.aborted; i += PIECE) {
        let piece = ''
        for (let k = i; k < Math.min(n, i + PIECE); k++) piece += text.row(fields, valuesOf(k), k === 0)
        await out.write(piece)
        await giveWay()
      }
      await out.write(text.foot(n, told))
    }) as never
  })

  app.openapi(allBars, async (c) => {
    const { world } = c.var
    const query = c.req.valid('query')
    const frame = parseTimeframe(query.every)!
    const now = world.clock.now()
    const list = findAllPriced(c.var, query.symbols)
    const limit = query.limit ?? 2_000
    if (list.length * limit > MOST_BARS)
      throw new Problem(
        'answer-too-long',
        `${list.length} securities with up to ${limit} bars each are ${list.length * limit}; one answer holds at most ${MOST_BARS}.`,
        `Name at most ${Math.max(1, Math.floor(MOST_BARS / limit))} symbols at a time, or set limit to ${Math.floor(MOST_BARS / list.length)} or less.`,
      )
    const made: Bars[] = []
    let cut = 0
    for (const listed of list) {
      const one = await gently(
        world.markets.barsSteps(listed, frame, now, askOf(query, zoneOf(world, listed), 2_000)),
      )
      made.push(one.bars)
      if (one.cut) cut++
      if (made.length % 8 === 0) await giveWay()
      if (c.req.raw.signal.aborted) break
    }
    const set = { symbols: list.slice(0, made.length).map((listed) => listed.symbol), bars: made }
    const message = await gently(encodeSteps(set, world.timeText(now)))
    if (cut > 0) c.header('Heron-Cut', `${cut} securities have more bars`)
    return c.body(message as Uint8Array<ArrayBuffer>, 200, {
      'Content-Type': 'application/octet-stream',
    }) as never
  })
}

interface About {
  symbol: string
  every: string
  asOf: string
  cut: boolean
  rest: string | undefined
}

/** The parts of a text that is written piece by piece. */
interface Text {
  head(fields: readonly string[], about: About): string
  row(fields: readonly string[], values: (string | number)[], first: boolean): string
  foot(n: number, rest: string | undefined): string
}

const jsonText: Text = {
  head: (_, about) => `${JSON.stringify(about).slice(0, -1)},"bars":[`,
  row: (fields, values, first) =>
    `${first ? '' : ','}{${fields.map((name, i) => `"${name}":${JSON.stringify(values[i])}`).join(',')}}`,
  foot: () => ']}',
}

const csvText: Text = {
  head: (fields) => `${fields.join(',')}\r\n`,
  row: (_, values) => `${values.join(',')}\r\n`,
  foot: (n, rest) => (rest ? `# cut: only the last ${n} bars stand here; those before: ${rest}\r\n` : ''),
}
