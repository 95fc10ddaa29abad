import * as z from 'zod'
import { AccountRules } from './accountRules'

/**
 * Orders and what becomes of them, in the terms of FIX 4.4 / 5.0 SP2 with fields in camelCase. These schemas
 * validate requests, describe the API (OpenAPI 3.1) and type both sides of the wire.
 */

export const Side = z.enum(['Buy', 'Sell', 'SellShort'])
export type Side = z.infer<typeof Side>

export const OrdType = z.enum(['Market', 'Limit', 'Stop', 'StopLimit'])
export type OrdType = z.infer<typeof OrdType>

export const TimeInForce = z.enum(['Day', 'GoodTillCancel', 'ImmediateOrCancel', 'FillOrKill']).meta({
  description:
    'ImmediateOrCancel trades what it can at once, FillOrKill all of it or nothing; the rest is canceled',
})
export type TimeInForce = z.infer<typeof TimeInForce>

/** True of kinds that never trade at a price worse than their own. */
export const hasLimit = (type: OrdType): boolean => type === 'Limit' || type === 'StopLimit'

/** True of kinds that wait until the market has reached a price. */
export const hasStop = (type: OrdType): boolean => type === 'Stop' || type === 'StopLimit'

/** True of orders that trade when they come or not at all. */
export const isAtOnce = (good: TimeInForce): boolean => good === 'ImmediateOrCancel' || good === 'FillOrKill'

export const OrdStatus = z.enum([
  'PendingNew',
  'New',
  'PartiallyFilled',
  'Filled',
  'Canceled',
  'Rejected',
  'Expired',
])
export type OrdStatus = z.infer<typeof OrdStatus>

export const ExecType = z
  .enum([
    'PendingNew',
    'New',
    'Trade',
    'Canceled',
    'Rejected',
    'Expired',
    'Restated',
    'Replaced',
    'TriggeredOrActivatedBySystem',
  ])
  .meta({ description: 'Restated: quantity or price of an attached exit follows its entry' })
export type ExecType = z.infer<typeof ExecType>

export const OrdRejReason = z.enum([
  'UnknownSymbol',
  'ExchangeClosed',
  'OrderExceedsLimit',
  'DuplicateOrder',
  'IncorrectQuantity',
  'InvalidPriceIncrement',
  'Other',
])
export type OrdRejReason = z.infer<typeof OrdRejReason>

const price = z.number().positive().max(1_000_000)

/** A level of an exit: a price, or a distance from the average price of the fill. */
export const ExitLevel = z
  .union([
    z.strictObject({ price }),
    z.strictObject({ percent: z.number().positive().lt(100) }),
    z.strictObject({ ticks: z.int().positive().max(1_000_000) }),
  ])
  .meta({
    id: 'ExitLevel',
    description:
      'An absolute price, or a distance in percent or ticks measured from the average price of the fill',
  })
export type ExitLevel = z.infer<typeof ExitLevel>

export const Exits = z
  .strictObject({ stop: ExitLevel.optional(), target: ExitLevel.optional() })
  .refine((exits) => exits.stop || exits.target, { message: 'give a stop, a target or both' })
  .meta({
    id: 'Exits',
    description:
      'Held by the broker, released by the first fill of the entry; with both, one cancels the other. Good till cancel.',
  })
export type Exits = z.infer<typeof Exits>

export const ClOrdId = z
  .string()
  .regex(/^[A-Za-z0-9._:-]{1,64}$/, 'use 1 to 64 letters, digits or . _ : -')
  .meta({
    description: 'Client order id: chosen by the sender, unique in the account',
    example: 'ospry-0316-1',
  })

/** Name of an account within its environment. */
export const AccountName = z
  .string()
  .regex(/^[A-Z0-9][A-Z0-9-]{0,19}$/, 'use 1 to 20 capital letters, digits or -')
  .meta({ description: 'Name of an account', example: 'PAPER-1' })

/** A new order as it is sent. */
export const NewOrder = z
  .strictObject({
    clOrdId: ClOrdId,
    account: AccountName.optional().meta({ description: 'The key’s first account where left out' }),
    symbol: z.string().min(1).max(32).meta({ example: 'OSPRY' }),
    side: Side,
    orderQty: z.number().positive().max(10_000_000).meta({ example: 100 }),
    ordType: OrdType,
    price: price.optional().meta({ description: 'Of a Limit or StopLimit order' }),
    stopPx: price.optional().meta({ description: 'Sets off a Stop or StopLimit order' }),
    timeInForce: TimeInForce.default('Day'),
    exits: Exits.optional(),
    text: z.string().max(200).optional().meta({ description: 'Free text, kept with the order' }),
  })
  .superRefine((order, ctx) => {
    const needs = (field: 'price' | 'stopPx', wanted: boolean) => {
      if (wanted && order[field] === undefined) {
        ctx.addIssue({ code: 'custom', path: [field], message: `a ${order.ordType} order needs ${field}` })
      }
      if (!wanted && order[field] !== undefined) {
        ctx.addIssue({
          code: 'custom',
          path: [field],
          message: `a ${order.ordType} order takes no ${field}; leave it out`,
        })
      }
    }
    needs('price', hasLimit(order.ordType))
    needs('stopPx', hasStop(order.ordType))
    if (isAtOnce(order.timeInForce) && hasStop(order.ordType))
      ctx.addIssue({
        code: 'custom',
        path: ['timeInForce'],
        message: `a ${order.ordType} order waits for its price and cannot be ${order.timeInForce}`,
      })
  })
  .meta({ id: 'NewOrder' })
export type NewOrder = z.infer<typeof NewOrder>

/** A change of a working order: what is left out stays as it is. */
export const OrderChange = z
  .strictObject({
    clOrdId: ClOrdId.meta({
      description: 'Of the order after the change; the one before stands for it as well',
    }),
    orderQty: z
      .number()
      .positive()
      .max(10_000_000)
      .optional()
      .meta({ description: 'In all, with what is filled already' }),
    price: price.optional(),
    stopPx: price.optional(),
    timeInForce: z.enum(['Day', 'GoodTillCancel']).optional(),
  })
  .refine(({ clOrdId: _id, ...rest }) => Object.values(rest).some((value) => value !== undefined), {
    message: 'give orderQty, price, stopPx or timeInForce',
  })
  .meta({ id: 'OrderChange' })
export type OrderChange = z.infer<typeof OrderChange>

const moment = z
  .string()
  .meta({ format: 'date-time', description: 'Market time, with the offset of the venue' })

/** What an order is part of: an entry, or an exit attached to one. */
export const OrderRole = z.enum(['Entry', 'Stop', 'Target'])
export type OrderRole = z.infer<typeof OrderRole>

const orderFields = {
  orderId: z.string().meta({ description: 'Given by the broker' }),
  clOrdId: z.string(),
  account: z.string().optional().meta({ description: 'Left out in what an earlier build kept' }),
  origClOrdId: z.string().optional().meta({ description: 'Client order id before it was last changed' }),
  symbol: z.string(),
  side: Side,
  orderQty: z.number(),
  ordType: OrdType,
  price: z.number().optional(),
  stopPx: z.number().optional(),
  timeInForce: TimeInForce,
  ordStatus: OrdStatus,
  cumQty: z.number(),
  leavesQty: z.number(),
  avgPx: z.number().meta({ description: '0 until something is filled' }),
  role: OrderRole,
  parentOrderId: z.string().optional().meta({ description: 'Entry that an exit belongs to' }),
  contingencyType: z.enum(['OneTriggersTheOther', 'OneCancelsTheOther']).optional(),
  exits: Exits.optional(),
  ordRejReason: OrdRejReason.optional(),
  text: z.string().optional(),
}

/** One report of the broker about an order. `seq` counts all reports of an account without gaps from 1. */
export const ExecutionReport = z
  .object({
    seq: z.int().positive(),
    execId: z.string(),
    execType: ExecType,
    ...orderFields,
    lastQty: z.number().optional(),
    lastPx: z.number().optional(),
    commission: z.number().optional(),
    triggered: z.boolean().optional().meta({ description: 'A Stop that has been set off' }),
    transactTime: moment,
    tradeDate: z.string().meta({ description: 'Session date at the venue', example: '2026-03-16' }),
  })
  .meta({ id: 'ExecutionReport' })
export type ExecutionReport = z.infer<typeof ExecutionReport>

/** An order as it stands, with the states that it went through. */
export const Order = z
  .object({
    ...orderFields,
    triggered: z.boolean().optional(),
    enteredTime: moment,
    transactTime: moment,
    tradeDate: z.string(),
    lastSeq: z.int(),
    chain: z
      .array(
        z.object({
          execId: z.string(),
          ordStatus: OrdStatus,
          execType: ExecType,
          at: moment,
          lastQty: z.number().optional(),
          lastPx: z.number().optional(),
          commission: z.number().optional(),
          cumQty: z.number(),
        }),
      )
      .meta({ description: 'Every state that the order went through, oldest first' }),
  })
  .meta({ id: 'Order' })
export type Order = z.infer<typeof Order>

export const Position = z
  .object({
    symbol: z.string(),
    quantity: z.number().meta({ description: 'Shares; negative when short' }),
    avgPx: z.number(),
    last: z.number(),
    marketValue: z.number(),
    unrealized: z.number(),
    realizedToday: z.number(),
    stopPx: z.number().optional().meta({ description: 'Of a working stop at the broker' }),
    targetPx: z.number().optional(),
  })
  .meta({ id: 'Position' })
export type Position = z.infer<typeof Position>

export const Account = z
  .object({
    account: z.string(),
    environment: z.enum(['paper', 'live']),
    rules: AccountRules,
    currency: z.string(),
    cash: z.number(),
    equity: z.number(),
    buyingPower: z.number(),
    marginHeld: z.number().meta({
      description: 'Held for positions: half of their value (Regulation T), all of it in a cash account',
    }),
    keptForOrders: z.number().meta({ description: 'Held for working orders' }),
    unrealized: z.number(),
    realizedToday: z.number(),
    commissionToday: z.number(),
    asOf: moment,
  })
  .meta({ id: 'Account' })
export type Account = z.infer<typeof Account>

export const CheckCode = z.enum([
  'security',
  'orderable',
  'quantity',
  'tick',
  'client-order-id',
  'market-open',
  'exit-side',
  'shares-held',
  'buying-power',
])
export type CheckCode = z.infer<typeof CheckCode>

/** A figure with its unit; money and prices in the currency that is named. */
export const Amount = z
  .union([
    z.object({ amount: z.number(), unit: z.literal('shares') }),
    z.object({ amount: z.number(), unit: z.enum(['money', 'price']), currency: z.string() }),
  ])
  .meta({ id: 'Amount' })
export type Amount = z.infer<typeof Amount>

/** One check of an order: what was looked at, what it is and what it may be. */
export const Check = z
  .object({
    code: CheckCode,
    verdict: z.enum(['holds', 'fails', 'unknown']),
    sentence: z.string(),
    mend: z.string().optional().meta({ description: 'What to do where it fails' }),
    value: Amount.optional().meta({ description: 'What the order has' }),
    limit: Amount.optional().meta({ description: 'What it may have, or what it is measured against' }),
  })
  .meta({ id: 'Check' })
export type Check = z.infer<typeof Check>

export const isWorking = (status: OrdStatus): boolean =>
  status === 'PendingNew' || status === 'New' || status === 'PartiallyFilled'
