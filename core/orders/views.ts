import * as z from 'zod'
import { Gate } from './gate'
import { AccountRules } from './accountRules'

/** What an account has and holds, as the broker tells it. */

const moment = z
  .string()
  .meta({ format: 'date-time', description: 'Market time, with the offset of the venue' })

export const Position = z
  .object({
    symbol: z.string(),
    quantity: z.number().meta({ description: 'Shares; negative when short' }),
    avgPx: z.number(),
    last: z.number(),
    marketValue: z.number(),
    unrealized: z.number(),
    realizedToday: z.number(),
    rate: z.number().optional().meta({
      description: 'Of a security in another currency: what a unit of it is worth in the account’s',
    }),
    currencyGain: z.number().optional().meta({ description: 'Part of its profit that the rate has brought' }),
    stopPx: z.number().optional().meta({
      description: 'Of the working stop that lies nearest to the last price; see exits for all of them',
    }),
    targetPx: z.number().optional().meta({ description: 'The same of targets' }),
    exits: z
      .array(
        z.object({
          role: z.enum(['Stop', 'Target']),
          price: z.number(),
          quantity: z.number().meta({ description: 'Shares that it closes' }),
          orderId: z.string(),
        }),
      )
      .default([])
      .meta({ description: 'Every working order that closes it at a price, nearest first, whoever sent it' }),
    withoutStop: z.number().default(0).meta({ description: 'Shares, or contracts, that no stop covers' }),
  })
  .meta({ id: 'Position' })
export type Position = z.infer<typeof Position>

/** What an account stands down from: of a security, or of everything where none is named. */
export const StoodDown = z
  .object({
    symbol: z.string().optional(),
    since: moment,
    by: z.string().meta({ description: 'Key that did it' }),
  })
  .meta({ id: 'StoodDown', description: 'Orders that would open something are refused until it is lifted' })
export type StoodDown = z.infer<typeof StoodDown>

/** Shares of one fill that are still held. */
export const LotView = z
  .object({
    id: z.string(),
    symbol: z.string(),
    opened: z.string().meta({ description: 'Session date' }),
    quantity: z.number().meta({ description: 'Negative when short' }),
    price: z.number(),
    last: z.number(),
    unrealized: z.number(),
  })
  .meta({ id: 'Lot' })
export type LotView = z.infer<typeof LotView>

/** What orders of one group hold together: one line with one profit. */
export const GroupView = z
  .object({
    group: z.string(),
    legs: z.array(
      z.object({
        symbol: z.string(),
        quantity: z.number(),
        avgPx: z.number(),
        last: z.number(),
        unrealized: z.number(),
      }),
    ),
    unrealized: z.number(),
    realized: z.number(),
    commission: z.number(),
    profit: z.number().meta({ description: 'Unrealized and realized, less commission' }),
  })
  .meta({ id: 'Group' })
export type GroupView = z.infer<typeof GroupView>

/** Money that moved without a trade. */
export const Booking = z
  .object({
    kind: z.enum(['Dividend', 'Interest']),
    at: moment,
    date: z.string().meta({ description: 'Session date' }),
    symbol: z.string().optional(),
    amount: z.number().meta({ description: 'In the account’s currency; below 0 where it is paid' }),
    text: z.string(),
  })
  .meta({ id: 'Booking' })
export type Booking = z.infer<typeof Booking>

/** An account at the end of a date, once every venue has closed on it. */
export const AccountDay = z
  .object({
    date: z.string(),
    cash: z.number(),
    equity: z.number(),
    unrealized: z.number(),
    realized: z.number(),
    commission: z.number(),
    booked: z.number().meta({ description: 'Dividends and interest' }),
    currencyGain: z
      .number()
      .default(0)
      .meta({ description: 'Part of the unrealized profit that exchange rates have brought' }),
    currencyRealized: z
      .number()
      .default(0)
      .meta({ description: 'Part of the realized profit that exchange rates have brought' }),
  })
  .meta({ id: 'AccountDay' })
export type AccountDay = z.infer<typeof AccountDay>

/** What will happen to contracts of an account that expire in a session or may be assigned. */
export const ExpiryNotice = z
  .object({
    symbol: z.string(),
    quantity: z.int().meta({ description: 'Contracts; negative if written' }),
    date: z.string().meta({ description: 'Session date' }),
    outcome: z.enum(['Exercise', 'Assign', 'AssignEarly', 'CloseOut', 'NotExercised', 'Lapse']),
    text: z.string(),
  })
  .meta({ id: 'ExpiryNotice' })
export type ExpiryNotice = z.infer<typeof ExpiryNotice>

/** One line of a statement: what moved cash, and what there was then. */
export const StatementLine = z
  .object({
    at: moment,
    date: z.string(),
    kind: z.enum(['Opening', 'Trade', 'Split', 'Dividend', 'Interest']),
    symbol: z.string().optional(),
    side: z.string().optional(),
    quantity: z.number().optional(),
    price: z.number().optional(),
    commission: z.number().optional(),
    amount: z.number(),
    cash: z.number().meta({ description: 'After it' }),
    clOrdId: z.string().optional(),
    text: z.string().optional(),
  })
  .meta({ id: 'StatementLine' })
export type StatementLine = z.infer<typeof StatementLine>

/** That an account must bring in money, or close something. */
export const MarginCall = z
  .object({
    equity: z.number(),
    maintenance: z.number().meta({
      description:
        'A quarter of what is held long, 30 % of what is short, and what options hold (FINRA rule 4210)',
    }),
    missing: z.number(),
  })
  .meta({ id: 'MarginCall' })

export const Account = z
  .object({
    account: z.string(),
    environment: z.enum(['paper', 'live']),
    rules: AccountRules,
    currency: z.string(),
    cash: z.number(),
    settledCash: z.number().meta({ description: 'Of it settled; what is sold settles on the next session' }),
    equity: z.number(),
    buyingPower: z.number(),
    marginHeld: z.number().meta({
      description: 'Held for positions: half of their value (Regulation T), all of it in a cash account',
    }),
    keptForOrders: z.number().meta({ description: 'Held for working orders' }),
    unrealized: z.number(),
    realizedToday: z.number(),
    commissionToday: z.number(),
    currencyGain: z.number().meta({
      description: 'Part of unrealized profit that rates have brought of securities in other currencies',
    }),
    currencyRealizedToday: z.number().meta({ description: 'The same of what was realized today' }),
    maintenanceMargin: z.number().meta({
      description: 'Equity must not fall below it: a quarter of long stock, 30 % of short (FINRA rule 4210)',
    }),
    marginCall: MarginCall.optional(),
    stoodDown: z.array(StoodDown),
    gates: z.array(Gate),
    asOf: moment,
  })
  .meta({ id: 'Account' })
export type Account = z.infer<typeof Account>
