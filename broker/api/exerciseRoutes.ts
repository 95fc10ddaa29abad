import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { ALL, sharesOf } from '@/core/book/book'
import { underlyingOf } from '@/core/options/osi'
import { ClOrdId, Order } from '@/core/orders/model'
import { ExpiryNotice } from '@/core/orders/views'
import { type Account } from '../account/account'
import { type Exercised } from '../account/exchange'
import { accountFor, type Env } from './access'
import { findListed } from './marketViews'
import { toldOrder } from './orderProblems'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, OfAccount, problems } from './shapes'

const list = createRoute({
  method: 'get',
  path: '/expiries',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'What will happen to contracts that expire, or may be assigned, in the current or next session',
  description:
    'As it looks now. A contract that is in the money by a cent at the close is exercised or assigned. If the account cannot take the shares, the contract is closed at the market 15 minutes before the close. If it still cannot at the close, a long contract is not exercised and a written one is closed for its exercise value. Written calls are assigned the evening before an ex-date if their time value is below the dividend. In the morning of the day /executions/stream announces it as event "expiring".',
  request: { query: OfAccount },
  responses: { 200: json(z.array(ExpiryNotice), 'Contracts'), ...problems(400, 401, 403, 404) },
})

const Wanted = z.object({ symbol: z.string(), exercise: z.boolean() }).meta({ id: 'ExerciseWish' })

const say = createRoute({
  method: 'put',
  path: '/expiries/{symbol}',
  ...needs('send-orders', 'account'),
  tags: ['account'],
  summary: 'Say whether a contract is exercised when it expires',
  request: {
    params: z.object({ symbol: z.string() }),
    query: OfAccount,
    ...body(z.strictObject({ exercise: z.boolean() }).meta({ id: 'SayExercise' })),
  },
  responses: {
    200: json(Wanted, 'What is wanted now'),
    ...problems(400, 401, 403, 404, 409, 413, 415, 422, 503),
  },
})

const exercise = createRoute({
  method: 'post',
  path: '/exercises',
  ...needs('send-orders', 'account'),
  tags: ['orders'],
  summary: 'Exercise American contracts before they expire: shares change hands at the strike at once',
  request: body(
    z
      .strictObject({
        clOrdId: ClOrdId,
        symbol: z.string().max(32),
        orderQty: z.int().min(1).max(1_000_000),
        account: OfAccount.shape.account,
      })
      .meta({ id: 'NewExercise' }),
  ),
  responses: {
    201: json(Order, 'The exercise, filled'),
    ...problems(400, 401, 403, 404, 409, 413, 415, 422, 503),
  },
})

/** Why contracts cannot be exercised, as a problem document. */
function refusal(outcome: Extract<Exercised, { hindered: unknown }>, symbol: string): Problem {
  switch (outcome.hindered) {
    case 'closed':
      return new Problem('market-closed', `The venue of ${symbol} is closed.`, 'Exercise while it is open.')
    case 'not held':
      return new Problem(
        'shares-not-held',
        `${outcome.free} of ${symbol} are held and not promised to working sales.`,
        outcome.free === 0
          ? 'Cancel what would sell them, or buy some.'
          : `Exercise at most ${outcome.free}.`,
      )
    case 'money':
      return new Problem(
        'not-enough-buying-power',
        `The account cannot pay for the shares that ${symbol} brings.`,
        'Exercise fewer, or sell the contract.',
      )
    case 'short':
      return new Problem(
        'shares-not-held',
        `The account holds too few shares of ${underlyingOf(symbol)} and may not sell short.`,
        'Buy the shares first, or sell the contract.',
      )
    case 'borrow':
      return new Problem(
        'shares-not-to-be-borrowed',
        `The shares of ${underlyingOf(symbol)} that would be short cannot be borrowed.`,
        'Exercise fewer, or sell the contract.',
      )
  }
}

/** Throws Problem if the exercise would open a position that the account stands down from. */
function checkStanding({ book, name }: Account, symbol: string, buys: boolean): void {
  const underlying = underlyingOf(symbol)
  const held = sharesOf(book, underlying)
  const opens = buys ? held >= 0 : held <= 0
  if (!opens || !(ALL in book.stoodDown || underlying in book.stoodDown)) return
  throw new Problem(
    'stood-down',
    `${name} stands down from ${underlying}, and the exercise would open a position in it.`,
    'Lift it first, or sell the contract.',
  )
}

export function exerciseRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(list, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const { exchange } = accountFor(world, key, c.req.valid('query').account)
    return c.json(exchange.expiries(world.clock.now()), 200)
  })

  app.openapi(say, async (c) => {
    const { world, key } = c.var
    const { symbol, option } = findListed(c.var, c.req.valid('param').symbol)
    const { exercise: wanted } = c.req.valid('json')
    await world.act(() => {
      const { name, book } = accountFor(world, key, c.req.valid('query').account)
      if (!option || sharesOf(book, symbol) <= 0)
        throw new Problem(
          'not-possible',
          `${name} holds no contract ${symbol}.`,
          'Only the holder of a contract can exercise it. GET positions lists what the account holds.',
        )
      world.settings.exercise(name, symbol, wanted)
    })
    return c.json({ symbol, exercise: wanted }, 200)
  })

  app.openapi(exercise, async (c) => {
    const { world, key } = c.var
    const { clOrdId, symbol: asked, orderQty, account: name } = c.req.valid('json')
    const { symbol, option } = findListed(c.var, asked)
    if (!option) throw new Problem('not-possible', `${symbol} is no option.`, 'Name a contract that is held.')
    const order = await world.act(() => {
      const account = accountFor(world, key, name)
      const standing = account.orderUnder(clOrdId)
      if (standing)
        throw new Problem(
          'duplicate-client-order-id',
          `The client order id ${clOrdId} stands for another order already.`,
          'Use another id.',
          { order: standing },
        )
      checkStanding(account, symbol, option.putOrCall === 'Call')
      const outcome = account.exchange.exercise(symbol, orderQty, clOrdId, world.clock.now())
      if ('hindered' in outcome) throw refusal(outcome, symbol)
      return outcome.order
    })
    return c.json(toldOrder(order), 201)
  })
}
