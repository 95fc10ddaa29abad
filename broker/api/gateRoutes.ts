import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { wrongGate } from '@/core/orders/gates'
import { Gates } from '@/core/orders/gate'
import { Order } from '@/core/orders/model'
import { type Account } from '../account/account'
import { type Key } from '../keys/keys'
import { accountFor, type Env } from './access'
import { orderBy, refusedBy, toldOrder } from './orderProblems'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, OfAccount, problems } from './shapes'

const GatesBody = z.strictObject({ gates: Gates }).meta({ id: 'Gates' })

const list = createRoute({
  method: 'get',
  path: '/gates',
  ...needs('see-account', 'account'),
  tags: ['account'],
  summary: 'Gates of an account: checks of its own, which orders of every sender must pass',
  request: { query: OfAccount },
  responses: { 200: json(GatesBody, 'The gates'), ...problems(400, 401, 403, 404) },
})

const set = createRoute({
  method: 'put',
  path: '/gates',
  ...needs('manage-keys', 'account'),
  tags: ['account'],
  summary: 'Set the gates of an account; those that are left out are gone',
  description:
    'A gate is rule text about an order that would open something. What it does not let pass, unknown included, is refused, or waits for approval.',
  request: { query: OfAccount, ...body(GatesBody) },
  responses: { 200: json(GatesBody, 'The gates'), ...problems(400, 401, 403, 404, 413, 415, 503) },
})

const ById = z.object({ clOrdId: z.string() })

const answer = (what: 'approve' | 'decline', summary: string) =>
  createRoute({
    method: 'post',
    path: `/orders/{clOrdId}/${what}`,
    ...needs('manage-keys', 'account'),
    tags: ['orders'],
    summary,
    request: { params: ById, query: OfAccount },
    responses: {
      200: json(Order, 'The order as it stands'),
      ...problems(400, 401, 403, 404, 409, 422, 503),
    },
  })

const approve = answer('approve', 'Let an order that waits for approval work; never by the key that sent it')
const decline = answer('decline', 'Reject an order that waits for approval')

/** An order that waits for approval by a key. Throws Problem where it does not, or the key is the one that sent it. */
function waiting(account: Account, clOrdId: string, key: Key): Order {
  const order = orderBy(account, clOrdId)
  if (order.approval === undefined)
    throw new Problem(
      'not-possible',
      `The order ${clOrdId} is ${order.ordStatus} and waits for nobody’s approval.`,
      'Nothing to do.',
    )
  if (order.sentBy === key.keyId)
    throw new Problem(
      'own-order',
      `The key ${key.keyId} sent ${clOrdId} itself; another one must approve it.`,
      'Use another key with manage-keys.',
    )
  return order
}

export function gateRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(list, async (c) => {
    const { world, key } = c.var
    await world.settled()
    const { gates } = accountFor(world, key, c.req.valid('query').account).book
    return c.json({ gates: [...gates] }, 200)
  })

  app.openapi(set, async (c) => {
    const { world, key } = c.var
    const { gates } = c.req.valid('json')
    const errors = gates.flatMap((gate, i) => {
      const detail = wrongGate(gate)
      return detail === undefined ? [] : [{ field: `gates.${i}.rule`, detail }]
    })
    if (errors.length > 0)
      throw new Problem(
        'malformed-request',
        errors.map((one) => `${one.field}: ${one.detail}`).join(' '),
        'Mend the rules named here; nothing was changed.',
        { errors },
      )
    const { name } = accountFor(world, key, c.req.valid('query').account)
    await world.act(() => world.settings.setGates(name, gates))
    return c.json({ gates }, 200)
  })

  app.openapi(approve, async (c) => {
    const { world, key } = c.var
    const order = await world.act(() => {
      const account = accountFor(world, key, c.req.valid('query').account)
      const asked = waiting(account, c.req.valid('param').clOrdId, key)
      const {
        findings,
        refused,
        order: after,
      } = account.exchange.approve(asked, world.clock.now(), key.label)
      if (refused) throw refusedBy(findings, refused, asked)
      return after
    })
    return c.json(toldOrder(order), 200)
  })

  app.openapi(decline, async (c) => {
    const { world, key } = c.var
    const order = await world.act(() => {
      const account = accountFor(world, key, c.req.valid('query').account)
      const asked = waiting(account, c.req.valid('param').clOrdId, key)
      return account.exchange.decline(asked, world.clock.now(), key.label)
    })
    return c.json(toldOrder(order), 200)
  })
}
