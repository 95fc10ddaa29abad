import { type Finding } from '@/core/orders/findings'
import { type Order } from '@/core/orders/model'
import { type CheckCode } from '@/core/orders/checks'
import { isLegId } from '@/core/orders/legs'
import { allowsNext } from '@/core/orders/states'
import { sayFinding } from '@/core/orders/say'
import { type Account } from '../account/account'
import { Problem, type ProblemKind } from './problems'

const KIND: Record<CheckCode, ProblemKind> = {
  security: 'unknown-security',
  orderable: 'not-orderable',
  quantity: 'quantity-not-whole',
  tick: 'price-off-tick',
  // A price is asked about and never refused.
  price: 'price-off-tick',
  'client-order-id': 'duplicate-client-order-id',
  'market-open': 'market-closed',
  expiry: 'expiry-past',
  'standing-down': 'stood-down',
  gate: 'stopped-by-gate',
  legs: 'legs-not-one',
  trigger: 'trigger-not-working',
  locate: 'shares-not-to-be-borrowed',
  'option-level': 'option-level-too-low',
  'exit-side': 'exit-on-wrong-side',
  'shares-held': 'shares-not-held',
  'buying-power': 'not-enough-buying-power',
}

/** An order as it is told: with what its state allows next. */
export const toldOrder = (order: Order): Order => ({ ...order, allows: allowsNext(order) })

/** Why an order, or a change of one, was refused, with every check that it was put to. */
export function refusedBy(findings: readonly Finding[], refused: Finding, order?: Order): Problem {
  const checks = findings.map(sayFinding)
  const wrong = checks.filter(({ code, verdict }) =>
    refused.code === 'client-order-id' ? code === refused.code : verdict === 'fails',
  )
  const mends = wrong.map((check) => check.mend).filter(Boolean)
  return new Problem(KIND[refused.code], wrong.map((check) => check.sentence).join(' '), mends.join(' '), {
    checks,
    order,
  })
}

/** The order that a client order id stands for. Throws Problem where there is none. */
export function orderBy(account: Pick<Account, 'orderUnder'>, clOrdId: string): Order {
  const order = account.orderUnder(clOrdId)
  if (!order)
    throw new Problem(
      'unknown-order',
      `No order stands under the client order id ${clOrdId.slice(0, 64)}.`,
      'GET orders?which=all lists every order of an account.',
    )
  return order
}

/** The same, to be changed or canceled: a leg alone cannot be. Throws Problem. */
export function wholeBy(account: Pick<Account, 'orderUnder'>, clOrdId: string): Order {
  const order = orderBy(account, clOrdId)
  if (!order.legs || !isLegId(clOrdId)) return order
  throw new Problem(
    'part-of-whole',
    `${clOrdId} is a leg of the multi-leg order ${order.clOrdId}, which trades all its legs together.`,
    `Change or cancel ${order.clOrdId} as a whole.`,
    { order },
  )
}
