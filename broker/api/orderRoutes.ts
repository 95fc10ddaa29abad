import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { fromE4 } from '@/core/market/money'
import { Account, Check, ExecutionReport, isWorking, NewOrder, Order, Position } from '@/core/orders/model'
import { workingOrders } from '@/core/book/book'
import { sayFinding } from '@/core/orders/say'
import { positions, realizedOn } from '@/core/book/positions'
import { standing } from '@/core/book/value'
import { PAPER_ACCOUNT } from '../world'
import { type Env, type Parts } from './access'
import { orderBy, refusedBy } from './orderProblems'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, problems } from './shapes'

const send = createRoute({
  method: 'post',
  path: '/paper/orders',
  ...needs('send-orders'),
  tags: ['orders'],
  summary: 'Send an order; acknowledged when it is on the disk',
  description:
    'A second order under a client order id that stands already is refused, so a request may be repeated without harm. A refused order leaves its id free.',
  request: body(NewOrder),
  responses: {
    201: json(Order, 'The order as it stands'),
    ...problems(400, 401, 403, 409, 413, 415, 422, 503),
  },
})

const check = createRoute({
  method: 'post',
  path: '/paper/orders/check',
  ...needs('send-orders'),
  tags: ['orders'],
  summary: 'Dry run: every check that the order would be put to, and nothing sent',
  request: body(NewOrder),
  responses: {
    200: json(z.object({ accepted: z.boolean(), checks: z.array(Check) }), 'The checks'),
    ...problems(400, 401, 403, 413, 415),
  },
})

const list = createRoute({
  method: 'get',
  path: '/paper/orders',
  ...needs('see-account'),
  tags: ['orders'],
  summary: 'Orders of today, whatever their state, newest first; or working ones, or all',
  request: {
    query: z.object({
      which: z.enum(['today', 'working', 'all']).default('today'),
      symbol: z.string().max(32).optional().meta({ description: 'Of this security only' }),
    }),
  },
  responses: { 200: json(z.array(Order), 'Orders'), ...problems(400, 401, 403) },
})

const ById = z.object({ clOrdId: z.string() })

const one = createRoute({
  method: 'get',
  path: '/paper/orders/{clOrdId}',
  ...needs('see-account'),
  tags: ['orders'],
  summary: 'The order that a client order id stands for',
  request: { params: ById },
  responses: { 200: json(Order, 'The order'), ...problems(401, 403, 404) },
})

const cancel = createRoute({
  method: 'delete',
  path: '/paper/orders/{clOrdId}',
  ...needs('send-orders'),
  tags: ['orders'],
  summary: 'Cancel a working order',
  request: { params: ById },
  responses: { 200: json(Order, 'The order, Canceled'), ...problems(401, 403, 404, 409, 503) },
})

const StandDown = z.strictObject({ flatten: z.boolean().default(false) }).meta({ id: 'StandDown' })

const standDown = createRoute({
  method: 'post',
  path: '/paper/stand-down',
  ...needs('send-orders'),
  tags: ['orders'],
  summary: 'Cancel every working order and, if asked, close every position at the market',
  request: body(StandDown),
  responses: {
    200: json(
      z.object({ canceled: z.array(z.string()), closing: z.array(z.string()), left: z.array(z.string()) }),
      'Client order ids canceled, client order ids of the closing orders, and what could not be closed with the reason',
    ),
    ...problems(400, 401, 403, 413, 415, 503),
  },
})

const account = createRoute({
  method: 'get',
  path: '/paper/account',
  ...needs('see-account'),
  tags: ['account'],
  summary: 'Cash, equity and buying power',
  responses: { 200: json(Account, 'The account'), ...problems(401, 403) },
})

const held = createRoute({
  method: 'get',
  path: '/paper/positions',
  ...needs('see-account'),
  tags: ['account'],
  summary: 'What is held, and what was closed today',
  responses: { 200: json(z.array(Position), 'Positions'), ...problems(401, 403) },
})

const executions = createRoute({
  method: 'get',
  path: '/paper/executions',
  ...needs('see-account'),
  tags: ['account'],
  summary: 'Execution reports after a sequence number, oldest first',
  request: {
    query: z.object({
      after: z.coerce.number().int().min(0).default(0),
      limit: z.coerce.number().int().min(1).max(10_000).default(1000),
    }),
  },
  responses: { 200: json(z.array(ExecutionReport), 'Reports'), ...problems(400, 401, 403) },
})

export function orderRoutes(app: OpenAPIHono<Env>, parts: Parts): void {
  const { world } = parts
  app.openapi(send, async (c) => {
    const { order, findings, refused } = await world.submit(c.req.valid('json'))
    if (!refused) return c.json(order, 201)
    throw refusedBy(findings, refused, order)
  })

  app.openapi(check, (c) => {
    const checks = world.exchange.check(c.req.valid('json'), world.clock.now()).map(sayFinding)
    return c.json({ accepted: checks.every((one) => one.verdict !== 'fails'), checks }, 200)
  })

  app.openapi(list, async (c) => {
    await world.settled()
    const { which, symbol } = c.req.valid('query')
    const today = world.today()
    const orders = Object.values(world.book.orders).filter(
      (order) =>
        (symbol === undefined || order.symbol === symbol.toUpperCase()) &&
        (which === 'all' || isWorking(order.ordStatus) || (which === 'today' && order.tradeDate >= today)),
    )
    return c.json(orders.reverse(), 200)
  })

  app.openapi(one, async (c) => {
    await world.settled()
    return c.json(orderBy(world, c.req.valid('param').clOrdId), 200)
  })

  app.openapi(cancel, async (c) => {
    const { clOrdId } = c.req.valid('param')
    const order = await world.act(() => {
      const standing = orderBy(world, clOrdId)
      if (!isWorking(standing.ordStatus)) {
        throw new Problem(
          'order-not-working',
          `The order ${clOrdId} is ${standing.ordStatus} and cannot be canceled.`,
          'Nothing to do: it will not trade any more.',
          { order: standing },
        )
      }
      world.exchange.cancel(standing, world.clock.now())
      return orderBy(world, clOrdId)
    })
    return c.json(order, 200)
  })

  app.openapi(standDown, async (c) => {
    const { flatten } = c.req.valid('json')
    const done = await world.act(() => {
      const now = world.clock.now()
      const canceled: string[] = []
      for (const order of workingOrders(world.book)) {
        const current = world.book.orders[order.orderId]
        if (!isWorking(current.ordStatus)) continue
        world.exchange.cancel(current, now, 'stood down')
        canceled.push(order.clOrdId)
      }
      const closing: string[] = []
      const left: string[] = []
      for (const { symbol, quantity } of flatten ? Object.values(world.book.holdings) : []) {
        if (quantity === 0) continue
        const clOrdId = `stand-down-${symbol}-${world.book.seq}`
        const { refused } = world.exchange.submit(
          {
            clOrdId,
            symbol,
            side: quantity > 0 ? 'Sell' : 'Buy',
            orderQty: Math.abs(quantity),
            ordType: 'Market',
            timeInForce: 'Day',
            text: 'stand down',
          },
          now,
        )
        if (refused) {
          const { sentence, mend = '' } = sayFinding(refused)
          left.push(`${symbol}: ${sentence} ${mend}`.trim())
        } else closing.push(clOrdId)
      }
      return { canceled, closing, left }
    })
    return c.json(done, 200)
  })

  app.openapi(account, async (c) => {
    await world.settled()
    const now = world.clock.now()
    const today = world.today()
    const figures = standing(world.book, world.exchange.pricesAt(now))
    return c.json(
      {
        account: PAPER_ACCOUNT,
        environment: 'paper' as const,
        currency: world.market.venue.currency,
        cash: fromE4(world.book.cashE4),
        equity: fromE4(figures.equityE4),
        buyingPower: fromE4(figures.buyingPowerE4),
        initialMargin: fromE4(figures.marginE4),
        reserved: fromE4(figures.reservedE4),
        unrealized: fromE4(figures.unrealizedE4),
        realizedToday: fromE4(realizedOn(world.book, today)),
        commissionToday: fromE4(world.book.commissionE4[today] ?? 0),
        asOf: world.timeText(now),
      },
      200,
    )
  })

  app.openapi(held, async (c) => {
    await world.settled()
    return c.json(positions(world.book, world.exchange.pricesAt(world.clock.now()), world.today()), 200)
  })

  app.openapi(executions, async (c) => {
    await world.settled()
    const { after, limit } = c.req.valid('query')
    return c.json(world.reports.slice(after, after + limit), 200)
  })
}
