import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { isWorking, Order, OrderChange } from '@/core/orders/model'
import { type NotReplaceable } from '@/core/venue/replace'
import { accountFor, type Env } from './access'
import { refusedBy, toldOrder, wholeBy } from './orderProblems'
import { Problem } from './problems'
import { needs } from './routeTable'
import { body, json, OfAccount, problems } from './shapes'

const change = createRoute({
  method: 'patch',
  path: '/orders/{clOrdId}',
  ...needs('send-orders', 'account'),
  tags: ['orders'],
  summary: 'Change a working order: quantity, prices, time in force; what is left out stays',
  description:
    'The order keeps what is filled and takes a new client order id; both ids stand for it. It is checked as what is left of it would be. A change can lose the race against a fill: then nothing is changed and the answer tells how the order stands.',
  request: { params: z.object({ clOrdId: z.string() }), query: OfAccount, ...body(OrderChange) },
  responses: {
    200: json(Order, 'The order as it stands now'),
    ...problems(400, 401, 403, 404, 409, 413, 415, 422, 503),
  },
})

/** What is in the way of a change, in words: what it is, and what mends it. */
function wordsOf(hindered: NotReplaceable, order: Order): [string, string] {
  switch (hindered.why) {
    case 'not working':
      return [`is ${order.ordStatus} and cannot be changed.`, 'Nothing was changed. Send a new order.']
    case 'waits for its entry':
      return [
        'waits for its entry and has no price yet.',
        'Change its entry, or wait until something of it is filled.',
      ]
    case 'asked already':
      return ['has a cancel or a change pending.', 'Wait until that is done, then ask again.']
    case 'set off already':
      return ['has been set off; its stop price is over.', 'Leave stopPx out, or cancel the order.']
    case 'quantity follows its entry':
      return [
        'is an exit: it is as many as its entry has filled.',
        'Leave orderQty out, or change the entry.',
      ]
    case 'filled beyond':
      return [
        `has ${hindered.cumQty} filled already.`,
        `Use an orderQty above ${hindered.cumQty}, or cancel the rest.`,
      ]
    case 'price not above nought':
      return ['has a price above 0.', 'Give a price above 0; only net prices may be below.']
    case 'no such price':
      return [`is a ${order.ordType} order and has no ${hindered.field}.`, `Leave ${hindered.field} out.`]
  }
}

export function replaceRoute(app: OpenAPIHono<Env>): void {
  app.openapi(change, async (c) => {
    const { clOrdId } = c.req.valid('param')
    const { world, key } = c.var
    const order = await world.act(() => {
      const account = accountFor(world, key, c.req.valid('query').account)
      const standing = wholeBy(account, clOrdId)
      const outcome = account.exchange.replace(standing, c.req.valid('json'), world.clock.now())
      if ('order' in outcome) return outcome.order
      if ('refused' in outcome) throw refusedBy(outcome.findings, outcome.refused, standing)
      const [what, mend] = wordsOf(outcome.hindered, standing)
      const kind = isWorking(standing.ordStatus) ? 'order-not-replaceable' : 'order-not-working'
      throw new Problem(kind, `The order ${clOrdId} ${what}`, mend, { order: standing })
    })
    return c.json(toldOrder(order), 200)
  })
}
