import { z } from '@hono/zod-openapi'
import { type Context } from 'hono'
import { plainSymbol } from '@/core/options/osi'
import { numberOf } from '@/core/book/working'
import { isWorking, type Order, OrdStatus } from '@/core/orders/model'
import { Side } from '@/core/orders/legs'
import { type Account } from '../account/account'
import { giveWay } from '../gently'
import { momentOf } from './moments'
import { Problem } from './problems'
import { restOf, tellCut } from './lists'
import { OfAccount } from './shapes'

const LONGEST = 10_000

const day = z.string().max(40).optional()

/** Which orders are meant: by state, security, time, tag or id. Every field that is given must be met. */
export const OrderFilter = OfAccount.extend({
  symbol: z.string().max(32).optional().meta({ description: 'Of this security only' }),
  side: Side.optional(),
  ordStatus: OrdStatus.optional().meta({ description: 'In this state only' }),
  clOrdId: z
    .string()
    .max(80)
    .optional()
    .meta({ description: 'This client order id, now or before a change' }),
  clOrdIdBegins: z.string().max(80).optional().meta({ description: 'Client order ids that begin so' }),
  text: z.string().max(200).optional().meta({ description: 'Orders sent with exactly this text' }),
})

export const OrderQuery = OrderFilter.extend({
  which: z.enum(['today', 'working', 'all']).optional().meta({
    description: 'today where nothing says which: from this session, and those that still work',
  }),
  from: day.meta({ description: 'Entered at this date or moment, or later; a bare date is the venue’s day' }),
  to: day.meta({ description: 'Entered on this date or before this moment' }),
  limit: z.coerce.number().int().min(1).max(LONGEST).default(1000),
  cursor: z.string().max(20).optional().meta({ description: 'From the Link of an answer that was cut' }),
})
type OrderQuery = z.infer<typeof OrderQuery>

/** Whether an order is about a security: also one of its legs. */
export const isAbout = ({ symbol, legs }: Pick<Order, 'symbol' | 'legs'>, asked: string): boolean =>
  symbol === asked || (legs?.some((leg) => leg.symbol === asked) ?? false)

/** Whether an order meets a filter. */
export function meets(order: Order, filter: z.infer<typeof OrderFilter>, account: Account): boolean {
  const { symbol, side, ordStatus, clOrdId, clOrdIdBegins, text } = filter
  return (
    (symbol === undefined || isAbout(order, plainSymbol(symbol.toUpperCase()))) &&
    (side === undefined || order.side === side) &&
    (ordStatus === undefined || order.ordStatus === ordStatus) &&
    (clOrdId === undefined ||
      order.clOrdId === clOrdId ||
      account.book.byClOrdId[clOrdId] === order.orderId) &&
    (clOrdIdBegins === undefined || order.clOrdId.startsWith(clOrdIdBegins)) &&
    (text === undefined || order.text === text)
  )
}

/**
 * The orders that are asked for, newest first; those of the past are read from the disk, others being answered between. An
 * answer that is cut says so in its headers, and where the rest is.
 */
export async function ordersFor(
  c: Context,
  account: Account,
  query: OrderQuery,
  now: number,
): Promise<Order[]> {
  const { from, to, limit, cursor, ...filter } = query
  const { zone } = account.exchange.market.venue
  const since = from === undefined ? undefined : momentOf(from, 'from', zone, false)
  const until = to === undefined ? undefined : momentOf(to, 'to', zone, true)
  const named = filter.clOrdId ?? filter.clOrdIdBegins
  const { which = (since ?? until ?? named ?? filter.ordStatus) ? 'all' : 'today' } = filter
  const today = account.today(now)
  const found: Order[] = []
  let seen = 0
  for (const number of numbersOf(account, which, filter, firstNumber(cursor, account))) {
    if (++seen % 500 === 0) await giveWay()
    const order = account.orderNumbered(number)
    if (!order) continue
    const entered = (since ?? until) ? Date.parse(order.enteredTime) : 0
    // Orders come in the order of time: what is before is earlier still.
    if (since !== undefined && entered < since) break
    if (!meets(order, filter, account) || (until !== undefined && entered >= until)) continue
    const working = isWorking(order.ordStatus)
    if (which === 'working' && !working) continue
    if (which === 'today' && !working && order.tradeDate < today) continue
    if (found.length === limit) {
      tellRest(c, found)
      break
    }
    found.push(order)
  }
  return found
}

/** Numbers of the orders that may be meant, up to one, the highest first: only those in memory where no more are needed. */
function* numbersOf(
  { book }: Account,
  which: 'today' | 'working' | 'all',
  { clOrdId, clOrdIdBegins }: z.infer<typeof OrderFilter>,
  first: number,
): Generator<number> {
  if (clOrdId !== undefined) {
    const orderId = book.byClOrdId[clOrdId]
    if (orderId !== undefined && numberOf(orderId) <= first) yield numberOf(orderId)
    return
  }
  let some: string[] | undefined
  if (which !== 'all') some = Object.keys(book.orders)
  else if (clOrdIdBegins !== undefined)
    some = Object.keys(book.byClOrdId).flatMap((id) =>
      id.startsWith(clOrdIdBegins) ? book.byClOrdId[id] : [],
    )
  if (some) {
    const numbers = [...new Set(some.map(numberOf))].sort((a, b) => b - a)
    for (const number of numbers) if (number <= first) yield number
  } else for (let number = first; number >= 1; number--) yield number
}

function firstNumber(cursor: string | undefined, account: Account): number {
  if (cursor === undefined) return account.book.count
  const number = /^O\d{1,12}$/.test(cursor) ? numberOf(cursor) - 1 : NaN
  if (number < account.book.count) return number
  throw new Problem(
    'malformed-request',
    `The cursor "${cursor}" is of no answer of this account.`,
    'Ask without a cursor first, then follow the Link of each answer.',
  )
}

const tellRest = (c: Context, found: readonly Order[]): void =>
  tellCut(c, `the newest ${found.length} orders; there are more`, restOf(c, 'cursor', found.at(-1)!.orderId))
