import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { groupsOf } from '@/core/book/groups'
import { closingOrders } from '@/core/book/closing'
import { refusal } from '@/core/orders/findings'
import { ClOrdId, Order } from '@/core/orders/model'
import { GroupView } from '@/core/orders/views'
import { type Account } from '../account/account'
import { accountFor, type Env } from './access'
import { refusedBy } from './orderProblems'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, OfAccount, problems } from './shapes'

const list = createRoute({
  method: 'get',
  path: '/groups',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'What orders of one group hold, each group as one line with one profit',
  request: { query: OfAccount },
  responses: { 200: json(z.array(GroupView), 'Groups'), ...problems(400, 401, 403, 404) },
})

const close = createRoute({
  method: 'post',
  path: '/groups/{group}/close',
  ...needs('send-orders', 'account'),
  tags: ['account'],
  summary: 'Close all that a group holds, at the market; options of one underlying together',
  description: 'All of its orders are checked before any is sent: where one would be refused, none is.',
  request: {
    params: z.object({ group: ClOrdId }),
    query: OfAccount,
    ...body(z.strictObject({ clOrdId: ClOrdId.max(36) }).meta({ id: 'CloseGroup' })),
  },
  responses: {
    201: json(z.array(Order), 'The orders'),
    ...problems(400, 401, 403, 404, 409, 413, 415, 422, 503),
  },
})

const viewGroups = ({ book, exchange }: Account, now: number): GroupView[] =>
  groupsOf(book, exchange.pricesAt(now))

export function groupRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(list, async (c) => {
    const { world, key } = c.var
    await world.settled()
    return c.json(viewGroups(accountFor(world, key, c.req.valid('query').account), world.clock.now()), 200)
  })

  app.openapi(close, async (c) => {
    const { world, key } = c.var
    const { group } = c.req.valid('param')
    const { clOrdId } = c.req.valid('json')
    const sent = await world.act(() => {
      const account = accountFor(world, key, c.req.valid('query').account)
      const now = world.clock.now()
      const found = viewGroups(account, now).find((one) => one.group === group)
      const orders = found
        ? closingOrders(found.legs, clOrdId, group).map((one) => ({ ...one, account: account.name }))
        : []
      if (orders.length === 0)
        throw new Problem(
          'not-possible',
          `The group ${group} holds nothing.`,
          'GET groups lists those there are, with what they hold.',
        )
      for (const order of orders) {
        const findings = account.exchange.check(order, now)
        const refused = refusal(findings)
        if (refused) throw refusedBy(findings, refused)
      }
      return orders.map((order) => account.submit(order, now, key.keyId).order)
    })
    return c.json(sent, 201)
  })
}
