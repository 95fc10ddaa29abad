import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { localDate } from '@/core/market/venue'
import { Rate } from '@/core/market/wire'
import { CURRENCIES } from '../market/rates'
import { type Env } from './access'
import { Problem } from './problems'
import { needs } from './routeTable'
import { json, problems } from './shapes'

const rates = createRoute({
  method: 'get',
  path: '/rates',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Rates by which fills in another currency are converted: of the session before',
  request: {
    query: z.object({
      date: z.iso.date().optional().meta({ description: 'For trades of this date; of today where left out' }),
    }),
  },
  responses: { 200: json(z.array(Rate), 'Every pair, both ways'), ...problems(400, 401, 403) },
})

export function rateRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(rates, (c) => {
    const { markets, clock } = c.var.world
    const today = localDate(markets.home.venue, clock.now())
    const { date = today } = c.req.valid('query')
    if (date > today)
      throw new Problem(
        'malformed-request',
        `date ${date} lies ahead: it is ${today} in the market.`,
        'Ask for a date that has come.',
      )
    const pairs = CURRENCIES.flatMap((from) =>
      CURRENCIES.filter((to) => to !== from).map((to) => ({
        ...{ from, to, date, rate: markets.rateBefore(from, to, date) },
      })),
    )
    return c.json(pairs, 200)
  })
}
