import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { ALL, wouldOpen } from '@/core/book/book'
import { closingOrders } from '@/core/book/closing'
import { underlyingOf } from '@/core/options/osi'
import { type Order } from '@/core/orders/model'
import { StoodDown } from '@/core/orders/views'
import { sayFinding } from '@/core/orders/say'
import { type Account } from '../account/account'
import { accountFor, type Env } from './access'
import { findListed } from './marketViews'
import { cancelAll } from './orderRoutes'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, OfAccount, problems } from './shapes'

const symbol = z
  .string()
  .max(32)
  .optional()
  .meta({ description: 'From this security only; all where left out' })

const StandDown = z
  .strictObject({ flatten: z.boolean().default(false), symbol, account: OfAccount.shape.account })
  .meta({ id: 'StandDown' })

const standDown = createRoute({
  method: 'post',
  path: '/stand-down',
  ...needs('send-orders', 'account'),
  tags: ['orders'],
  summary:
    'Refuse what opens something, from every sender, until it is lifted; cancel what would open something',
  description:
    'Closing orders and protection pass and stay. With `flatten` they are canceled too, and every position is closed at the market.',
  request: body(StandDown),
  responses: {
    200: json(
      z.object({
        canceled: z.array(z.string()),
        closing: z.array(z.string()),
        left: z.array(z.string()),
        stoodDown: z.array(StoodDown),
      }),
      'Client order ids canceled, client order ids of the closing orders, what could not be closed with the reason, and what the account stands down from',
    ),
    ...problems(400, 401, 403, 404, 413, 415, 422, 503),
  },
})

const list = createRoute({
  method: 'get',
  path: '/stand-down',
  ...needs('see-account', 'account'),
  tags: ['orders'],
  summary: 'What an account stands down from',
  request: { query: OfAccount },
  responses: { 200: json(z.array(StoodDown), 'Nothing where it is empty'), ...problems(400, 401, 403, 404) },
})

const lift = createRoute({
  method: 'delete',
  path: '/stand-down',
  ...needs('manage-keys', 'account'),
  tags: ['orders'],
  summary: 'Lift it by hand: a key that only sends orders cannot',
  request: { query: OfAccount.extend({ symbol }) },
  responses: {
    200: json(z.array(StoodDown), 'What it still stands down from'),
    ...problems(400, 401, 403, 404, 409, 422, 503),
  },
})

export function standDownRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(standDown, async (c) => {
    const { world, key } = c.var
    const { flatten, account: name, symbol: asked } = c.req.valid('json')
    const of = asked === undefined ? undefined : findListed(c.var, asked).symbol
    const done = await world.act(() => {
      const account = accountFor(world, key, name)
      const now = world.clock.now()
      world.settings.standDown(account.name, of, key.keyId)
      const isMeant = (order: Order) => isOf(order.symbol, of) && (flatten || wouldOpen(account.book, order))
      const canceled = cancelAll(account, now, 'stood down', isMeant).map((order) => order.clOrdId)
      const closed = flatten ? closeAll(account, now, of) : { closing: [], left: [] }
      return { canceled, ...closed, stoodDown: Object.values(account.book.stoodDown) }
    })
    return c.json(done, 200)
  })

  app.openapi(list, (c) => {
    const { book } = accountFor(c.var.world, c.var.key, c.req.valid('query').account)
    return c.json(Object.values(book.stoodDown), 200)
  })

  app.openapi(lift, async (c) => {
    const { world, key } = c.var
    const { account: name, symbol: asked } = c.req.valid('query')
    const of = asked === undefined ? undefined : findListed(c.var, asked).symbol
    const left = await world.act(() => {
      const account = accountFor(world, key, name)
      if (!((of ?? ALL) in account.book.stoodDown))
        throw new Problem(
          'not-possible',
          `${account.name} does not stand down${of ? ` from ${of}` : ''}.`,
          'GET stand-down tells what it stands down from.',
        )
      world.settings.lift(account.name, of)
      return Object.values(account.book.stoodDown)
    })
    return c.json(left, 200)
  })
}

/** Whether a security is meant: itself, or an option of it. */
const isOf = (symbol: string, of: string | undefined): boolean =>
  of === undefined || symbol === of || underlyingOf(symbol) === of

/**
 * Closes every position, or that of one security and its options, at the market; contracts of one underlying together, so that
 * none is left uncovered. `left` says what could not be, and why.
 */
function closeAll(
  account: Account,
  now: number,
  of: string | undefined,
): { closing: string[]; left: string[] } {
  const { book } = account
  const held = Object.values(book.holdings).filter((one) => one.quantity !== 0 && isOf(one.symbol, of))
  const closing: string[] = []
  const left: string[] = []
  for (const order of closingOrders(held, `stand-down-${book.seq}`)) {
    const { refused } = account.submit({ ...order, text: 'stand down' }, now)
    if (refused) {
      const { sentence, mend = '' } = sayFinding(refused)
      left.push(`${order.symbol}: ${sentence} ${mend}`.trim())
    } else closing.push(order.clOrdId)
  }
  return { closing, left }
}
