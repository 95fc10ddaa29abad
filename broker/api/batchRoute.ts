import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { NewOrder, Order, type SentOrder } from '@/core/orders/model'
import { accountFor, type Env, mayAsk, type Parts, remoteOf } from './access'
import { refusedBy, toldOrder } from './orderProblems'
import { asProblem, ProblemDocument } from './problems'
import { needs } from './routeTable'
import { body, json, problems } from './shapes'

/** Orders that one request may send: of the longest, about as many fit into a body. */
const MOST = 50

const Answer = z
  .object({
    clOrdId: z.string(),
    order: Order.optional().meta({ description: 'The order as it stands, where it was taken' }),
    problem: ProblemDocument.optional().meta({ description: 'Why it was not, where it was not' }),
  })
  .meta({ id: 'BatchAnswer' })
type Answer = z.infer<typeof Answer>

const sendMany = createRoute({
  method: 'post',
  path: '/orders/batch',
  ...needs('send-orders', 'account'),
  tags: ['orders'],
  summary: `Send up to ${MOST} orders, each by itself, in their order`,
  description:
    'As if they were sent one after the other, in less time: one that is refused keeps no other from being taken. Where one cannot be read, or is for an account of which the key does not speak, none is sent. Each counts against the pace of the key.',
  request: body(z.object({ orders: z.array(NewOrder).min(1).max(MOST) })),
  responses: {
    200: json(z.array(Answer), 'What became of each, in the order in which they were sent'),
    ...problems(400, 401, 403, 404, 413, 415, 429, 503),
  },
})

export function batchRoute(app: OpenAPIHono<Env>, { pace }: Parts): void {
  app.openapi(sendMany, async (c) => {
    const { world, key, bearer } = c.var
    const { orders } = c.req.valid('json')
    // The first was counted with the request.
    pace?.owe(key.keyId, orders.length - 1)
    const accounts = orders.map((asked) => accountFor(world, key, asked.account).name)
    const sendOne = async (asked: SentOrder, account: string): Promise<Answer> => {
      // The key may have been withdrawn since the order before.
      mayAsk(world, bearer, 'send-orders', remoteOf(c))
      const { order, findings, refused } = await world.submit(asked, account, key.keyId)
      if (refused) throw refusedBy(findings, refused, order)
      return { clOrdId: asked.clOrdId, order: toldOrder(order) }
    }
    const answers: Answer[] = []
    // One after the other to the end: what a sale may do hangs on the fill of a purchase before it.
    for (const [i, asked] of orders.entries())
      answers.push(
        await sendOne(asked, accounts[i]).catch((error: Error) => ({
          clOrdId: asked.clOrdId,
          problem: asProblem(error).document(),
        })),
      )
    return c.json(answers, 200)
  })
}
