import * as z from 'zod'
import { parseTimeframe } from '../market/timeframe'
import { Exits } from '../orders/exits'

/**
 * A plan: when to look, among what, on which condition, what must hold of the order, what to order, how to get out, and what
 * must never happen. A document with versions: one that was armed is never changed, another takes its place.
 */
export const PLAN_FORM = 'fleet-heron-plan'

const timeframe = z.string().refine((text) => parseTimeframe(text) !== undefined, {
  message: 'is no timeframe; use one such as 5 min, 1 hour or 1 day',
})

/** A time of a session: by the clock of the venue, or so many minutes after its open or before its close. */
export const SessionTime = z.union([
  z.strictObject({ clock: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'use hours and minutes, as 09:45') }),
  z.strictObject({ afterOpen: z.int().min(0).max(1440) }),
  z.strictObject({ beforeClose: z.int().min(0).max(1440) }),
])
export type SessionTime = z.infer<typeof SessionTime>

/** Bounds entries only: what is held is watched at all times. */
export const When = z.strictObject({
  from: SessionTime.optional().meta({ description: 'First moment of a session at which it may enter' }),
  until: SessionTime.optional().meta({ description: 'Moment from which it enters no more' }),
  weekdays: z.array(z.int().min(1).max(7)).min(1).optional().meta({
    description: '1 is Monday; every day where left out',
  }),
})
export type When = z.infer<typeof When>

export const Among = z.strictObject({ list: z.array(z.string().min(1).max(21)).min(1).max(500) })
export type Among = z.infer<typeof Among>

/** The condition, in rule text, and the bars that it is asked on. */
export const Condition = z.strictObject({
  rule: z.string().min(1).max(2000),
  every: timeframe,
})
export type Condition = z.infer<typeof Condition>

/** A check of the very order that would be sent, in rule text over its own measures. */
export const PlanGate = z.strictObject({ name: z.string().min(1).max(60), rule: z.string().min(1).max(400) })
export type PlanGate = z.infer<typeof PlanGate>

const percent = z.number().positive().max(100)

export const PlanSize = z.union([
  z.strictObject({ shares: z.int().positive().max(10_000_000) }),
  z.strictObject({ money: z.number().positive().max(1_000_000_000) }),
  z.strictObject({ equity: percent.meta({ description: 'Percent of the equity of the account now' }) }),
  z.strictObject({ risk: percent.meta({ description: 'Percent of it that is lost at the stop' }) }),
])
export type PlanSize = z.infer<typeof PlanSize>

/** Where an entry is priced: at the market, or as a limit at the bid, the ask, their middle or the last trade. */
export const PlanPrice = z.union([
  z.literal('market'),
  z.strictObject({
    at: z.enum(['bid', 'ask', 'mid', 'last']),
    ticks: z.int().min(-1000).max(1000).default(0).meta({ description: 'So many ticks above it' }),
  }),
])
export type PlanPrice = z.infer<typeof PlanPrice>

export const Do = z.strictObject({
  open: z.enum(['Long', 'Short']),
  price: PlanPrice,
  size: PlanSize,
  timeInForce: z.enum(['Day', 'GoodTillCancel', 'ImmediateOrCancel']).default('Day'),
})
export type Do = z.infer<typeof Do>

export const Then = z.strictObject({
  exits: Exits.optional().meta({ description: 'Held by the broker, measured from the actual fill' }),
  outAt: SessionTime.optional().meta({ description: 'Time of the session at which all is closed' }),
})
export type Then = z.infer<typeof Then>

const count = z.int().min(1).max(10_000)
const money = z.number().positive().max(1_000_000_000)

/** Limits that hold whatever the other clauses say. */
export const Never = z.strictObject({
  entriesPerSecurityAndDay: count.optional(),
  entriesPerDay: count.optional(),
  exposurePerSecurity: money.optional().meta({ description: 'Of the account in one security' }),
  exposure: money.optional().meta({ description: 'Of this plan, in all' }),
  lossPerDay: money.optional().meta({ description: 'Taken by this plan' }),
  freeBuyingPower: money.optional().meta({ description: 'What must be left of buying power' }),
  quoteAge: z.int().positive().max(86_400).default(10).meta({ description: 'Seconds' }),
})
export type Never = z.infer<typeof Never>

export const Side = z.strictObject({
  among: Among,
  if: Condition,
  provided: z.array(PlanGate).max(20),
  do: Do,
  then: Then,
})
export type Side = z.infer<typeof Side>

export const Plan = z
  .strictObject({
    form: z.literal(PLAN_FORM),
    formVersion: z.literal(1),
    id: z.string().regex(/^[a-z0-9-]{1,40}$/, 'use small letters, digits and -'),
    name: z.string().min(1).max(60),
    version: z.int().positive(),
    note: z.string().max(2000).optional(),
    when: When,
    sides: z.array(Side).min(1).max(2).meta({ description: 'A second one opens the other way' }),
    opposite: z.enum(['Ignore', 'Close', 'Turn']).default('Ignore').meta({
      description:
        'When the condition of the other side begins while something is held: nothing, close it, or close it and, once that is filled, open the other way',
    }),
    never: Never,
  })
  .superRefine(({ sides }, ctx) => {
    const [one, other] = sides
    if (other && one.do.open === other.do.open)
      ctx.addIssue({
        code: 'custom',
        path: ['sides', 1, 'do', 'open'],
        message: 'the second side opens the other way',
      })
  })
  .meta({ id: 'Plan' })
export type Plan = z.infer<typeof Plan>
