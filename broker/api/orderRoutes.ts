import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { isWorking, NewOrder, Order, ON_REQUEST } from '@/core/orders/model'
import { Check } from '@/core/orders/checks'
import { workingOrders } from '@/core/book/book'
import { sayFinding } from '@/core/orders/say'
import { type Account } from '../account/account'
import { accountFor, type Env } from './access'
import { orderBy, refusedBy, toldOrder, wholeBy } from './orderProblems'
import { meets, OrderFilter, OrderQuery, ordersFor } from './orderQuery'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, OfAccount, problems } from './shapes'

const send = createRoute({
  method: 'post',
  path: '/orders',
  ...needs('send-orders', 'account'),
  tags: ['orders'],
  summary: 'Send an order; acknowledged when it is on the disk',
  description:
    'A second order under a client order id that stands already is refused, so a request may be repeated without harm. A refused order leaves its id free.',
  request: body(NewOrder),
  responses: {
    201: json(Order, 'The order as it stands'),
    ...problems(400, 401, 403, 404, 409, 413, 415, 422, 503),
  },
})

const check = createRoute({
  method: 'post',
  path: '/orders/check',
  ...needs('send-orders', 'account'),
  tags: ['orders'],
  summary: 'Dry run: every check that the order would be put to, and nothing sent',
  request: body(NewOrder),
  responses: {
    200: json(z.object({ accepted: z.boolean(), checks: z.array(Check) }), 'The checks'),
    ...problems(400, 401, 403, 404, 413, 415),
  },
})

const list = createRoute({
  method: 'get',
  path: '/orders',
  ...needs('see-account', 'account'),
  tags: ['orders'],
  summary:
    'Orders of an account, newest first: all of today whatever their state, or those that are asked for',
  description:
    'Where there are more than `limit`, the headers Heron-Cut and Link say so and where the rest is.',
  request: { query: OrderQuery },
  responses: { 200: json(z.array(Order), 'Orders'), ...problems(400, 401, 403, 404) },
})

const cancelMany = createRoute({
  method: 'delete',
  path: '/orders',
  ...needs('send-orders', 'account'),
  tags: ['orders'],
  summary: 'Cancel all working orders that meet a filter; with which=working, all of them',
  request: {
    query: OrderFilter.omit({ ordStatus: true }).extend({ which: z.literal('working').optional() }),
  },
  responses: {
    200: json(z.array(Order), 'The orders, Canceled, oldest first'),
    ...problems(400, 401, 403, 404, 503),
  },
})

const ById = z.object({ clOrdId: z.string() })

const one = createRoute({
  method: 'get',
  path: '/orders/{clOrdId}',
  ...needs('see-account', 'account'),
  tags: ['orders'],
  summary: 'The order that a client order id stands for',
  request: { params: ById, query: OfAccount },
  responses: { 200: json(Order, 'The order'), ...problems(400, 401, 403, 404) },
})

const cancel = createRoute({
  method: 'delete',
  path: '/orders/{clOrdId}',
  ...needs('send-orders', 'account'),
  tags: ['orders'],
  summary: 'Cancel a working order',
  request: { params: ById, query: OfAccount },
  responses: { 200: json(Order, 'The order, Canceled'), ...problems(400, 401, 403, 404, 409, 503) },
})

export function orderRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(send, async (c) => {
    const [world, key] = [c.get('world'), c.get('key')]
    const asked = c.req.valid('json')
    const { name } = accountFor(world, key, asked.account)
    const { order, findings, refused } = await world.submit(asked, name, key.keyId)
    if (!refused) return c.json(toldOrder(order), 201)
    throw refusedBy(findings, refused, order)
  })

  app.openapi(check, (c) => {
    const { world, key } = c.var
    const asked = c.req.valid('json')
    const { exchange } = accountFor(world, key, asked.account)
    const checks = exchange.check(asked, world.clock.now()).map(sayFinding)
    return c.json({ accepted: checks.every((one) => one.verdict !== 'fails'), checks }, 200)
  })

  app.openapi(list, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const query = c.req.valid('query')
    const found = await ordersFor(c, accountFor(world, key, query.account), query, world.clock.now())
    return c.json(found.map(toldOrder), 200)
  })

  app.openapi(cancelMany, async (c) => {
    const { world, key } = c.var
    const { which, ...filter } = c.req.valid('query')
    const { account: _of, ...asked } = filter
    if (which === undefined && Object.values(asked).every((value) => value === undefined))
      throw new Problem(
        'malformed-request',
        'It is not said which orders are to be canceled.',
        'Name symbol, side, clOrdIdBegins or text; or which=working for all of them.',
      )
    const canceled = await world.act(() => {
      const account = accountFor(world, key, filter.account)
      return cancelAll(account, world.clock.now(), ON_REQUEST, (order) => meets(order, filter, account))
    })
    return c.json(canceled.map(toldOrder), 200)
  })

  app.openapi(one, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const account = accountFor(world, key, c.req.valid('query').account)
    return c.json(toldOrder(orderBy(account, c.req.valid('param').clOrdId)), 200)
  })

  app.openapi(cancel, async (c) => {
    const { world, key } = c.var
    const { clOrdId } = c.req.valid('param')
    const order = await world.act(() => {
      const account = accountFor(world, key, c.req.valid('query').account)
      const standing = wholeBy(account, clOrdId)
      if (!isWorking(standing.ordStatus)) {
        throw new Problem(
          'order-not-working',
          `The order ${clOrdId} is ${standing.ordStatus} and cannot be canceled.`,
          'Nothing to do: it will not trade any more.',
          { order: standing },
        )
      }
      account.exchange.cancel(standing, world.clock.now())
      return orderBy(account, clOrdId)
    })
    return c.json(toldOrder(order), 200)
  })
}

/** Cancels working orders, or those of them that are meant; gives them as they stand then, oldest first. */
export function cancelAll(
  { book, exchange }: Account,
  now: number,
  why: string,
  isMeant: (order: Order) => boolean = () => true,
): Order[] {
  const canceled: string[] = []
  for (const order of workingOrders(book)) {
    // One that ended may have taken others with it.
    const current = book.orders[order.orderId]
    if (!isWorking(current.ordStatus) || !isMeant(current)) continue
    exchange.cancel(current, now, why)
    canceled.push(order.orderId)
  }
  return canceled.map((orderId) => book.orders[orderId])
}
