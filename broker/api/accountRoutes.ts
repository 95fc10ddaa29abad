import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { settledE4 } from '@/core/book/book'
import { positions, realizedOn, unrealizedCurrencyE4 } from '@/core/book/positions'
import { maintenanceE4, standing } from '@/core/book/value'
import { writeCsv } from '@/core/formats/csv'
import { converted } from '@/core/book/sums'
import { fromE4, halfEven } from '@/core/market/money'
import { multiplierOf } from '@/core/options/osi'
import { VENUES } from '@/core/market/venue'
import { NewAccount } from '@/core/orders/access'
import { Account as AccountView, LotView, Position } from '@/core/orders/views'
import { type Account } from '../account/account'
import { type World } from '../world'
import { accountFor, accountsOf, type Env } from './access'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, OfAccount, problems } from './shapes'

const account = createRoute({
  method: 'get',
  path: '/account',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'Cash, equity and buying power of an account',
  request: { query: OfAccount },
  responses: { 200: json(AccountView, 'The account'), ...problems(400, 401, 403, 404) },
})

const accounts = createRoute({
  method: 'get',
  path: '/accounts',
  ...needs('see-account', 'accounts'),
  tags: ['account'],
  summary: 'Every account that the key speaks for',
  responses: { 200: json(z.array(AccountView), 'The key’s first account first'), ...problems(401, 403) },
})

const open = createRoute({
  method: 'post',
  path: '/accounts',
  ...needs('manage-keys', 'accounts'),
  tags: ['account'],
  summary: 'Open another account, with rules of its own',
  request: body(NewAccount),
  responses: { 201: json(AccountView, 'The account'), ...problems(400, 401, 403, 409, 413, 415, 503) },
})

const held = createRoute({
  method: 'get',
  path: '/positions',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'What is held, and what was closed today',
  request: { query: OfAccount },
  responses: { 200: json(z.array(Position), 'Positions'), ...problems(400, 401, 403, 404) },
})

const lots = createRoute({
  method: 'get',
  path: '/lots',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'What is held by lot: the fills that are not closed yet, oldest first; as JSON or CSV',
  request: {
    query: OfAccount.extend({
      symbol: z.string().max(32).optional().meta({ description: 'Of this security only' }),
      format: z.enum(['json', 'csv']).default('json'),
    }),
  },
  responses: {
    200: {
      description: 'Lots by security',
      content: {
        'application/json': { schema: z.array(LotView) },
        'text/csv': { schema: z.string() },
      },
    },
    ...problems(400, 401, 403, 404),
  },
})

const LOT_FIELDS = ['id', 'symbol', 'opened', 'quantity', 'price', 'last', 'unrealized'] as const

/** What an account holds by lot, at the prices of now. */
const viewLots = ({ book, exchange }: Account, now: number, symbol?: string): LotView[] =>
  Object.values(book.holdings)
    .filter((holding) => symbol === undefined || holding.symbol === symbol.toUpperCase())
    .sort((a, b) => (a.symbol < b.symbol ? -1 : 1))
    .flatMap((holding) => {
      if (holding.lots.length === 0) return []
      const { last, rate } = exchange.pricesAt(now)(holding.symbol)
      return holding.lots.map(({ id, opened, quantity, priceE4, rate: was = 1 }) => ({
        ...{ id, symbol: holding.symbol, opened, quantity, price: fromE4(priceE4), last: fromE4(last) },
        unrealized: fromE4(
          converted(quantity * last * multiplierOf(holding.symbol), { rate }) -
            halfEven(quantity * priceE4 * multiplierOf(holding.symbol) * was),
        ),
      }))
    })

/** An account as the outside sees it now. */
function viewAccount(world: World, { name, rules, book, exchange, today }: Account): AccountView {
  const now = world.clock.now()
  const date = today(now)
  const figures = standing(book, exchange.pricesAt(now), date)
  const keepsE4 = maintenanceE4(book, exchange.pricesAt(now))
  return {
    account: name,
    environment: world.environment,
    rules,
    currency: rules.currency,
    cash: fromE4(book.cashE4),
    settledCash: fromE4(settledE4(book, date)),
    equity: fromE4(figures.equityE4),
    buyingPower: fromE4(figures.buyingPowerE4),
    marginHeld: fromE4(figures.marginE4),
    keptForOrders: fromE4(figures.reservedE4),
    unrealized: fromE4(figures.unrealizedE4),
    realizedToday: fromE4(realizedOn(book, date)),
    commissionToday: fromE4(book.commissionE4[date] ?? 0),
    currencyGain: fromE4(unrealizedCurrencyE4(book, exchange.pricesAt(now))),
    currencyRealizedToday: fromE4(book.currencyE4[date] ?? 0),
    maintenanceMargin: fromE4(keepsE4),
    ...(figures.equityE4 < keepsE4
      ? {
          marginCall: {
            equity: fromE4(figures.equityE4),
            maintenance: fromE4(keepsE4),
            missing: fromE4(keepsE4 - figures.equityE4),
          },
        }
      : {}),
    stoodDown: Object.values(book.stoodDown),
    gates: [...book.gates],
    asOf: world.timeText(now),
  }
}

export function accountRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(account, async (c) => {
    const { world, key } = c.var
    await world.settled()
    return c.json(viewAccount(world, accountFor(world, key, c.req.valid('query').account)), 200)
  })

  app.openapi(accounts, async (c) => {
    const { world, key } = c.var
    await world.settled()
    return c.json(
      accountsOf(world, key).map((one) => viewAccount(world, one)),
      200,
    )
  })

  app.openapi(open, async (c) => {
    const { world, key } = c.var
    const { account: name, cash, margin, short = margin, ...rules } = c.req.valid('json')
    if (key.accounts !== 'all')
      throw new Problem(
        'beyond-own-rights',
        `The key ${key.keyId} speaks for ${key.accounts.join(', ')} only and cannot open another account.`,
        'Use a key that speaks for all accounts.',
      )
    const currencies = [...new Set(VENUES.map((venue) => venue.currency))]
    if (!currencies.includes(rules.currency))
      throw new Problem(
        'not-possible',
        `Nothing is traded in ${rules.currency} here.`,
        `Use ${currencies.join(' or ')}.`,
      )
    if (world.accounts.has(name))
      throw new Problem('not-possible', `An account ${name} stands already.`, 'Choose another name.')
    const made = await world.newAccount(name, cash, { ...rules, margin, short })
    return c.json(viewAccount(world, made), 201)
  })

  app.openapi(held, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const { book, exchange, today } = accountFor(world, key, c.req.valid('query').account)
    const now = world.clock.now()
    return c.json(positions(book, exchange.pricesAt(now), today(now)), 200)
  })

  app.openapi(lots, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const { account: name, symbol, format } = c.req.valid('query')
    const found = viewLots(accountFor(world, key, name), world.clock.now(), symbol)
    if (format === 'json') return c.json(found, 200)
    const rows = found.map((lot) => LOT_FIELDS.map((field) => lot[field]))
    return c.body(writeCsv(LOT_FIELDS, rows), 200, { 'Content-Type': 'text/csv; charset=utf-8' }) as never
  })
}
