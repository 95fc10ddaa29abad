import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { Statement } from '@/core/book/statement'
import { AccountDay, StatementLine } from '@/core/orders/views'
import { giveWay } from '../gently'
import { accountFor, type Env } from './access'
import { needs } from './routeTable'
import { json, OfAccount, problems } from './shapes'

const Span = OfAccount.extend({
  from: z.iso.date().optional().meta({ description: 'First session date' }),
  to: z.iso.date().optional().meta({ description: 'Last session date' }),
})

const history = createRoute({
  method: 'get',
  path: '/history',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary:
    'An account at the end of each day, once every venue has closed: cash, equity, profit, commission, dividends and interest',
  request: { query: Span },
  responses: { 200: json(z.array(AccountDay), 'Days, oldest first'), ...problems(400, 401, 403, 404) },
})

const statement = createRoute({
  method: 'get',
  path: '/statement',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'Everything that moved cash, with what there was after it',
  request: { query: Span },
  responses: { 200: json(z.array(StatementLine), 'Lines, oldest first'), ...problems(400, 401, 403, 404) },
})

export function historyRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(history, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const { account, from = '', to = '9999' } = c.req.valid('query')
    const { days } = accountFor(world, key, account).book
    return c.json(
      days.filter(({ date }) => date >= from && date <= to),
      200,
    )
  })

  app.openapi(statement, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const { account: name, ...span } = c.req.valid('query')
    const { opened, book, reports } = accountFor(world, key, name)
    const made = new Statement(opened.cash, book.bookings, span)
    for (let seq = 1; seq <= reports.length; seq++) {
      made.take(reports.get(seq))
      if (seq % 500 === 0) await giveWay()
    }
    made.bookUpTo(Infinity)
    return c.json(made.lines, 200)
  })
}
