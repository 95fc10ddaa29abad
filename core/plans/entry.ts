import * as z from 'zod'
import { SentSymbol } from '../orders/legs'
import { SessionTime } from './times'

/** A measure in rule text, on the bars of If. */
export const Measure = z.string().min(1).max(400)

const percent = z.number().positive().max(100)
const ticks = z.int().min(-1000).max(1000).default(0).meta({ description: 'So many ticks above it' })
const percentAbove = z.number().min(-50).max(50).meta({ description: 'So many percent above it' })
const above = percentAbove.default(0)

export const EquityBase = z.enum(['Now', 'DayStart', 'Start', 'Share']).meta({
  description:
    'Of which equity: that of the account now, which is meant where this is left out; at the start of the session; with which it was opened; or the share of it that is the plan’s (see never.share)',
})
export type EquityBase = z.infer<typeof EquityBase>

export const PlanSize = z.union([
  z.strictObject({ shares: z.int().positive().max(10_000_000) }),
  z.strictObject({ money: z.number().positive().max(1_000_000_000) }),
  z.strictObject({
    equity: percent.meta({ description: 'Percent of the equity of the account' }),
    of: EquityBase.optional(),
  }),
  z.strictObject({
    risk: percent.meta({ description: 'Percent of it that is lost at the stop' }),
    of: EquityBase.optional(),
    over: Measure.optional().meta({
      description: 'A distance in place of that of the stop, such as twice the average range',
    }),
  }),
])
export type PlanSize = z.infer<typeof PlanSize>

/**
 * Where an order is priced: at the market; as a limit at the bid, the ask, their middle or the last trade; as a limit, or as a
 * stop that waits for the price to come, at a measure.
 */
export const PlanPrice = z.union([
  z.literal('market'),
  z.strictObject({ at: z.enum(['bid', 'ask', 'mid', 'last']), ticks, percent: percentAbove.optional() }),
  z.strictObject({ limit: Measure, ticks, percent: above }),
  z.strictObject({ stop: Measure, ticks, percent: above }),
])
export type PlanPrice = z.infer<typeof PlanPrice>

/** An entry that rests at its price from when the condition begins until it holds no more. */
export const Rests = z.strictObject({
  follows: z.boolean().default(false).meta({ description: 'Its price moves with its measure' }),
  until: SessionTime.optional().meta({ description: 'Moment at which it is withdrawn in any case' }),
})
export type Rests = z.infer<typeof Rests>

const timeInForce = z.enum(['Day', 'GoodTillCancel', 'ImmediateOrCancel']).default('Day')

/** Of an entry also AtTheOpening: it is sent while the venue is closed, and trades in its next opening auction. */
const entryInForce = z.enum(['Day', 'GoodTillCancel', 'ImmediateOrCancel', 'AtTheOpening']).default('Day')

/** The other security of a pair: traded the other way, together with the first. */
export const MateDeed = z.strictObject({
  ratio: Measure.meta({
    description:
      'Shares of it for each share of the first, fixed when the order is made: 0.8, or hedge(close, mate(close), 60).ratio',
  }),
  alone: z.enum(['Close', 'Keep']).default('Close').meta({
    description: 'What becomes of one leg when the other is refused or ends unfilled',
  }),
})
export type MateDeed = z.infer<typeof MateDeed>

/** A way that the price has gone: percent, ticks, or so many times the distance of the first stop. */
export const Gone = z.union([
  z.strictObject({ percent: z.number().positive().max(1000) }),
  z.strictObject({ ticks: z.int().positive().max(1_000_000) }),
  z.strictObject({ risk: z.number().positive().max(1000) }),
])
export type Gone = z.infer<typeof Gone>

/** Whether it orders more of what it holds. */
export const Adds = z.strictObject({
  most: z.int().min(1).max(20).meta({ description: 'So many times at most, after the first' }),
  after: z.union([z.literal('Signal'), z.strictObject({ gain: Gone }), z.strictObject({ loss: Gone })]).meta({
    description:
      'Each time the condition begins anew, or once the price has gone so far from the last of its fills; all other clauses must hold then',
  }),
  upTo: z
    .union([
      z.strictObject({ shares: z.int().positive().max(10_000_000) }),
      z.strictObject({ money: z.number().positive().max(1_000_000_000) }),
    ])
    .optional()
    .meta({ description: 'Most that the position may become; of a pair, what the first leg may' }),
  apart: z.int().min(1).max(390).optional().meta({
    description:
      'Minutes at least from the last fill to the next order for more; where this is left out 1, and none after a signal',
  }),
  stops: z.enum(['Own', 'Newest']).default('Own').meta({
    description:
      'Own: what each order has bought keeps its own stop. Newest: all stops go to that of the newest order, never back',
  }),
})
export type Adds = z.infer<typeof Adds>

const least = z.number().positive().max(100).optional().meta({
  description:
    'Where limits and buying power leave room for less than the size, what they leave is ordered, but not less than so many percent of it: 20 where this is left out, 100 for all or nothing',
})

/** Percent of the size that is ordered at least where limits leave less. */
export const leastOf = ({ least: percent = 20 }: Pick<Open | OpenLegs, 'least'>): number => percent

export const Open = z.strictObject({
  open: z.enum(['Long', 'Short']),
  price: PlanPrice,
  size: PlanSize,
  least,
  timeInForce: entryInForce,
  rests: Rests.optional(),
  mate: MateDeed.optional(),
  adds: Adds.optional(),
  most: z.int().min(1).max(500).optional().meta({
    description: 'Securities that it holds or has orders for at one time, at most',
  }),
})
export type Open = z.infer<typeof Open>

/** What follows an order on the way out that waits at its limit, and is not filled there. */
export const Unfilled = z.strictObject({
  minutes: z.int().min(1).max(390),
  next: z.enum(['Market', 'Again']).default('Market').meta({
    description: 'Market: what is left goes at the market. Again: at its limit as the quotes are by then',
  }),
})
export type Unfilled = z.infer<typeof Unfilled>

/** Closes what the account holds of a security, whoever bought it. */
export const Close = z.strictObject({
  close: percent.meta({ description: 'Percent of the position, in whole lots' }),
  price: PlanPrice,
  timeInForce,
  unfilled: Unfilled.optional(),
})
export type Close = z.infer<typeof Close>

/** Equity in words: "equity", "the equity at the day's start". */
export const BASE_TEXT: Record<EquityBase, string> = {
  Now: 'equity',
  DayStart: 'the equity at the day’s start',
  Start: 'the starting cash',
  Share: 'its share of the equity',
}

/** One contract of several that are opened together. */
export const PlanLeg = z.strictObject({
  contract: SentSymbol.meta({ description: 'Of the security that is looked at, by OSI' }),
  side: z.enum(['Buy', 'SellShort']).meta({ description: 'SellShort writes it' }),
  ratio: z.int().min(1).max(100).default(1).meta({ description: 'Contracts for each unit' }),
})
export type PlanLeg = z.infer<typeof PlanLeg>

/** What several legs are bought and sold for together: at the market, or at a limit about the middle of their net price. */
export const NetPrice = z.union([
  z.literal('market'),
  z.strictObject({
    net: z.literal('mid'),
    worse: z.int().min(-1000).max(1000).default(0).meta({ description: 'So many cents worse than it' }),
  }),
])
export type NetPrice = z.infer<typeof NetPrice>

/** Opens several contracts of the security that is looked at, filled together or not at all. */
export const OpenLegs = z.strictObject({
  legs: z.array(PlanLeg).min(2).max(4),
  price: NetPrice,
  size: z.union([
    z.strictObject({ units: z.int().positive().max(100_000) }),
    z.strictObject({
      loss: percent.meta({ description: 'Percent of the equity of the account now that is kept for them' }),
    }),
  ]),
  least,
  timeInForce,
  most: z.int().min(1).max(500).optional(),
})
export type OpenLegs = z.infer<typeof OpenLegs>

/** Orders nothing: the trader is told. */
export const Tell = z.strictObject({ tell: z.literal(true) })
export type Tell = z.infer<typeof Tell>

export const Do = z.union([Open, Close, OpenLegs, Tell])
export type Do = z.infer<typeof Do>

/** The way in which a side opens: 1 long, also several legs, which are bought together; -1 short, 0 where it closes. */
export const wayOf = (deed: Do): 1 | -1 | 0 =>
  'close' in deed || 'tell' in deed ? 0 : 'legs' in deed || deed.open === 'Long' ? 1 : -1
