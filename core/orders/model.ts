import * as z from 'zod'
import { Exits, Trail } from './exits'
import { Leg, LegFill, SentSymbol, Side, wrongLegs } from './legs'

/**
 * Orders and what becomes of them, in the terms of FIX 4.4 / 5.0 SP2 with fields in camelCase. These schemas
 * validate requests, describe the API (OpenAPI 3.1) and type both sides of the wire.
 */

export const OrdType = z.enum(['Market', 'Limit', 'Stop', 'StopLimit', 'TrailingStop'])
export type OrdType = z.infer<typeof OrdType>

export const TimeInForce = z
  .enum([
    'Day',
    'GoodTillCancel',
    'GoodTillDate',
    'ImmediateOrCancel',
    'FillOrKill',
    'AtTheOpening',
    'AtTheClose',
  ])
  .meta({
    description:
      'GoodTillDate ends with the session of expireDate. ImmediateOrCancel trades what it can at once, FillOrKill all of it or nothing; AtTheOpening and AtTheClose trade in the next auction of that kind; what is left then is canceled',
  })
export type TimeInForce = z.infer<typeof TimeInForce>

/** True of kinds that never trade at a price worse than their own. */
export const hasLimit = (type: OrdType): boolean => type === 'Limit' || type === 'StopLimit'

/** True of kinds that are set off at a price of their own. */
export const hasStop = (type: OrdType): boolean => type === 'Stop' || type === 'StopLimit'

/** True of kinds that wait until the market has reached a price, one that follows the market included. */
export const waitsForPrice = (type: OrdType): boolean => hasStop(type) || type === 'TrailingStop'

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
  'PendingCancel',
  'PendingReplace',
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
    'PendingCancel',
    'PendingReplace',
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

/** True of orders that trade in an auction and not between. */
export const isInAuction = (good: TimeInForce): good is 'AtTheOpening' | 'AtTheClose' =>
  good === 'AtTheOpening' || good === 'AtTheClose'

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

/** What an order came from. */
export const Origin = z
  .strictObject({
    from: z.enum(['Hand', 'SheetRow', 'Script', 'Plan']),
    name: z.string().max(80).optional().meta({ description: 'Of the sheet, script or plan' }),
    version: z.string().max(20).optional(),
    row: z.int().positive().optional(),
    signal: z.string().max(80).optional(),
    rule: z.string().max(400).optional().meta({ description: 'The rule or scan that led to it' }),
  })
  .meta({ id: 'Origin' })
export type Origin = z.infer<typeof Origin>

/** Largest quantity of one order: shares, contracts or units. */
export const MOST_QUANTITY = 10_000_000

/** A new order as it is sent. */
export const NewOrder = z
  .strictObject({
    clOrdId: ClOrdId,
    account: AccountName.optional().meta({ description: 'The key’s first account where left out' }),
    symbol: SentSymbol,
    side: Side,
    legs: z.array(Leg).min(2).max(4).optional().meta({
      description:
        'Of a multi-leg order: its securities, all of one underlying, which is its symbol; its side is Buy, and each leg has a side of its own. Filled all legs together, for one net price',
    }),
    orderQty: z
      .number()
      .positive()
      .max(MOST_QUANTITY)
      .optional()
      .meta({ description: 'Shares, contracts, or units of a multi-leg order', example: 100 }),
    cashOrderQty: z.number().positive().max(1_000_000_000).optional().meta({
      description:
        'Instead of orderQty: as many whole lots as this money buys, commission included, where it would likely trade; at most what orderQty may be',
    }),
    ordType: OrdType,
    price: z.number().min(-1_000_000).max(1_000_000).optional().meta({
      description:
        'Of a Limit or StopLimit order. Of a multi-leg order the net price a unit of ratio, option prices a share: above 0 a debit, below 0 a credit, 0 even',
    }),
    stopPx: price.optional().meta({ description: 'Sets off a Stop or StopLimit order' }),
    trail: Trail.optional().meta({ description: 'Of a TrailingStop' }),
    timeInForce: TimeInForce.default('Day'),
    expireDate: z.iso
      .date()
      .optional()
      .meta({ description: 'Of GoodTillDate: its last day, in the venue’s zone' }),
    expireSessions: z.int().min(1).max(250).optional().meta({
      description: 'Of GoodTillDate instead: so many sessions, the one under way or next being the first',
    }),
    exits: Exits.optional(),
    text: z.string().max(200).optional().meta({ description: 'Free text, kept with the order' }),
    lot: z.string().max(20).optional().meta({
      description: 'Of a closing order: the lot that is closed first, by its id; else the oldest',
    }),
    positionEffect: z.literal('Close').optional().meta({
      description: 'Closes what is held and opens nothing, also where less is held by then',
    }),
    clOrdLinkId: ClOrdId.optional().meta({
      description:
        'OneCancelsTheOther: of working orders under one of these the first that trades ends the others',
    }),
    triggerClOrdId: ClOrdId.optional().meta({
      description:
        'OneTriggersTheOther: waits, PendingNew, until this order is filled; where that ends earlier, for the part that was',
    }),
    group: ClOrdId.optional().meta({
      description: 'What is held by orders of one group is told and closed together',
    }),
    origin: Origin.optional(),
  })
  .superRefine((order, ctx) => {
    const needs = (field: 'price' | 'stopPx' | 'trail', wanted: boolean) => {
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
    if ((order.orderQty === undefined) === (order.cashOrderQty === undefined))
      ctx.addIssue({
        code: 'custom',
        path: ['orderQty'],
        message: 'give orderQty or cashOrderQty, one of them',
      })
    needs('price', hasLimit(order.ordType))
    if (order.legs)
      checkWhole(order as SentOrder & { legs: Leg[] }, (path, message) =>
        ctx.addIssue({ code: 'custom', path, message }),
      )
    else if (order.price !== undefined && order.price <= 0)
      ctx.addIssue({ code: 'custom', path: ['price'], message: 'a price is above 0' })
    needs('stopPx', hasStop(order.ordType))
    needs('trail', order.ordType === 'TrailingStop')
    const { ordType, timeInForce, expireDate, expireSessions } = order
    const wrong = (field: string, message: string) => ctx.addIssue({ code: 'custom', path: [field], message })
    if ((isAtOnce(timeInForce) || isInAuction(timeInForce)) && waitsForPrice(ordType))
      wrong('timeInForce', `a ${ordType} order waits for its price and cannot be ${timeInForce}`)
    if (timeInForce === 'GoodTillDate' && (expireDate === undefined) === (expireSessions === undefined))
      wrong('expireDate', 'GoodTillDate needs expireDate or expireSessions, one of them')
    if (timeInForce !== 'GoodTillDate' && (expireDate ?? expireSessions) !== undefined)
      wrong('expireDate', `a ${timeInForce} order takes no expireDate or expireSessions; leave them out`)
  })
  .meta({ id: 'NewOrder' })
export type SentOrder = z.infer<typeof NewOrder>
/** The same once its quantity is known. */
export type NewOrder = SentOrder & { orderQty: number }

/** What a multi-leg order must not be, besides what other orders must not. */
function checkWhole(
  { legs, side, ordType, timeInForce, exits, lot, cashOrderQty, positionEffect }: SentOrder & { legs: Leg[] },
  wrong: (path: string[], message: string) => void,
): void {
  const mistaken = wrongLegs(legs)
  if (mistaken) wrong(['legs'], mistaken)
  if (side !== 'Buy') wrong(['side'], 'a multi-leg order is a Buy; turn the sides of its legs instead')
  if (waitsForPrice(ordType)) wrong(['ordType'], 'a multi-leg order is Market or Limit')
  if (isInAuction(timeInForce)) wrong(['timeInForce'], 'there is no auction for several legs together')
  if (exits) wrong(['exits'], 'a multi-leg order takes no exits; close it by another one')
  if (lot !== undefined) wrong(['lot'], 'a multi-leg order names no lot')
  if (cashOrderQty !== undefined) wrong(['cashOrderQty'], 'give the units of a multi-leg order as orderQty')
  if (positionEffect) wrong(['positionEffect'], 'a leg closes by its side, Sell or Buy')
}

/** A change of a working order: what is left out stays as it is. */
export const OrderChange = z
  .strictObject({
    clOrdId: ClOrdId.meta({
      description: 'Of the order after the change; the one before stands for it as well',
    }),
    orderQty: z
      .number()
      .positive()
      .max(MOST_QUANTITY)
      .optional()
      .meta({ description: 'In all, with what is filled already' }),
    price: z.number().min(-1_000_000).max(1_000_000).optional(),
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

/** What the broker says of an order that was canceled by who asked for it. */
export const ON_REQUEST = 'canceled on request'

/** What an order is: an entry, an exit attached to one, or the venue's own when a contract ends or shares are split. */
export const OrderRole = z.enum(['Entry', 'Stop', 'Target', 'Exercise', 'Split'])
export type OrderRole = z.infer<typeof OrderRole>

const orderFields = {
  orderId: z.string().meta({ description: 'Given by the broker' }),
  clOrdId: z.string(),
  account: z.string().optional().meta({ description: 'Left out in what an earlier build kept' }),
  origClOrdId: z.string().optional().meta({ description: 'Client order id before it was last changed' }),
  symbol: z.string(),
  side: Side,
  legs: z.array(Leg).optional(),
  kept: z.number().optional().meta({
    description: 'Of options: money that is kept for it while nothing of it is filled',
  }),
  orderQty: z.number(),
  ordType: OrdType,
  price: z.number().optional(),
  stopPx: z.number().optional(),
  trail: Trail.optional(),
  timeInForce: TimeInForce,
  expireDate: z.string().optional(),
  lot: z.string().optional(),
  cashOrderQty: z.number().optional(),
  positionEffect: z.literal('Close').optional(),
  clOrdLinkId: z.string().optional(),
  triggerClOrdId: z.string().optional(),
  group: z.string().optional(),
  origin: Origin.optional(),
  sentBy: z.string().optional().meta({ description: 'Id of the key that sent it' }),
  approval: z
    .string()
    .optional()
    .meta({ description: 'Gate for which it waits until another key approves it' }),
  ordStatus: OrdStatus,
  cumQty: z.number(),
  leavesQty: z.number(),
  avgPx: z.number().meta({ description: '0 until something is filled' }),
  role: OrderRole,
  parentOrderId: z.string().optional().meta({ description: 'Entry that an exit belongs to' }),
  asked: OrderChange.optional().meta({ description: 'The change that is pending' }),
  part: z.int().optional().meta({ description: 'Which part of the position an exit is for, from 1' }),
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
    legFills: z.array(LegFill).optional().meta({ description: 'Of a Trade of a multi-leg order' }),
    splitRatio: z.number().optional().meta({
      description: 'Of the Trade of a split, which brings shares for nothing: new shares for one old',
    }),
    triggered: z.boolean().optional().meta({ description: 'A Stop that has been set off' }),
    transactTime: moment,
    tradeDate: z.string().meta({ description: 'Session date at the venue', example: '2026-03-16' }),
    currency: z.string().optional().meta({
      description: 'Of a Trade in another currency than the account’s: that of lastPx',
    }),
    settlCurrFxRate: z.number().optional().meta({
      description: 'What a unit of it is worth in the account’s: the rate of the session before',
    }),
    settlDate: z.string().optional().meta({ description: 'Of a Trade: when its cash is settled' }),
  })
  .meta({ id: 'ExecutionReport' })
export type ExecutionReport = z.infer<typeof ExecutionReport>

/** What an order's state allows next. */
export const Allows = z
  .object({
    cancel: z.boolean(),
    replace: z.array(z.enum(['orderQty', 'price', 'stopPx', 'timeInForce'])).meta({
      description: 'What may be changed of it',
    }),
  })
  .meta({ id: 'Allows' })
export type Allows = z.infer<typeof Allows>

/** An order as it stands, with the states that it went through. */
export const Order = z
  .object({
    ...orderFields,
    triggered: z.boolean().optional(),
    allows: Allows.optional(),
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

/** True of orders that may still trade, also of those that wait for something. */
export const isWorking = (status: OrdStatus): boolean =>
  status === 'PendingNew' || status === 'New' || status === 'PartiallyFilled' || isRequested(status)

/** True of orders whose cancel or change was asked for and not done yet: until then they may trade. */
export const isRequested = (status: OrdStatus): boolean =>
  status === 'PendingCancel' || status === 'PendingReplace'
