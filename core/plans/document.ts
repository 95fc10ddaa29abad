import * as z from 'zod'
import { Drawing } from '../market/drawings'
import { Report } from '../market/report'
import { parseTimeframe } from '../market/timeframe'
import { Do, wayOf } from './entry'
import { Then } from './exits'
import { Found } from './found'
import { Input } from './input'
import { OwnBars, OwnName } from './ownBars'
import { PairScan } from './pairScan'
import { Score } from './score'
import { DatedEvent, SeenRule } from './seen'
import { SessionTime } from './times'
import { View } from './view'

/**
 * A plan: when to look, among what, on which condition, what must hold of the order, what to order, how to get out, and what
 * must never happen. A document with versions: one that was armed is never changed, another takes its place.
 */
export const PLAN_FORM = 'fleet-heron-plan'

const timeframe = z.string().refine((text) => parseTimeframe(text) !== undefined, {
  message: 'is no timeframe; use one such as 5 min, 1 hour or 1 day',
})

/** Bounds entries only: what is held is watched at all times. */
export const When = z.strictObject({
  from: SessionTime.optional().meta({ description: 'First moment of a session at which it may enter' }),
  until: SessionTime.optional().meta({ description: 'Moment from which it enters no more' }),
  weekdays: z.array(z.int().min(1).max(7)).min(1).optional().meta({
    description: '1 is Monday; every day where left out',
  }),
  monthDays: z.array(z.int().min(1).max(31)).min(1).max(31).optional().meta({
    description: 'Days of the month; of a day without a session the next session counts',
  }),
  look: z
    .union([
      z.literal('Bar'),
      z.literal('Tick'),
      z.literal('Event'),
      z.strictObject({ minutes: z.int().min(1).max(390) }),
      z.strictObject({ events: SessionTime }),
      z.strictObject({ calendar: SessionTime }),
    ])
    .default('Bar')
    .meta({
      description:
        'When it looks: at the end of each bar of If; at each quote; when an event comes; every so many minutes; at a time of each trading day, at every event since the last look, oldest first (events); or at a time of the days that weekdays and monthDays name (calendar)',
    }),
})
export type When = z.infer<typeof When>

export const Among = z.union([
  z.strictObject({ list: z.array(z.string().min(1).max(21)).min(1).max(500) }),
  z.strictObject({
    positions: z
      .union([
        z.literal('Account'),
        z.literal('Plan'),
        z.strictObject({ plan: z.string().regex(/^[a-z0-9-]{1,40}$/, 'use the id of a plan') }),
      ])
      .meta({
        description:
          'What is held: by the account, whoever bought it; by this plan; or by another plan, named by its id',
      }),
  }),
  z.strictObject({
    index: z.string().min(1).max(40).meta({ description: 'The members of an index, with each session' }),
  }),
  z.strictObject({ found: Found }),
  z.strictObject({
    any: z.literal('Orderable').meta({
      description:
        'Any security that can be ordered and of which an event tells; for plans that look at events',
    }),
  }),
  z.strictObject({
    pairs: z
      .array(z.tuple([z.string().min(1).max(21), z.string().min(1).max(21)]))
      .min(1)
      .max(250)
      .meta({
        description: 'Pairs of securities; rule text is asked of the first and reads the second as mate(x)',
      }),
    scan: PairScan.optional(),
  }),
])
export type Among = z.infer<typeof Among>

/** The condition, in rule text, and the bars that it is asked on. */
export const Condition = z.strictObject({
  rule: z.string().min(1).max(2000),
  every: timeframe,
  bars: z.enum(['Complete', 'SoFar']).default('Complete').meta({
    description: 'Whether the bar that grows counts as well, as far as it has come',
  }),
  prices: z.enum(['AsTraded', 'OverSplits', 'OverSplitsAndDividends']).optional().meta({
    description: 'How bars of the past are made comparable to today’s; over splits where left out',
  }),
  lasts: z
    .strictObject({
      bars: z.int().min(1).max(1000).optional(),
      percent: z.number().positive().max(100).optional(),
    })
    .optional()
    .meta({
      description:
        'How long a signal stands when other clauses kept it from an order: so many complete bars, so many percent of movement from where it began. Left out, it is of its moment alone',
    }),
})
export type Condition = z.infer<typeof Condition>

/** A check of the very order that would be sent, in rule text over its own measures. */
export const PlanGate = z.strictObject({ name: z.string().min(1).max(60), rule: z.string().min(1).max(400) })
export type PlanGate = z.infer<typeof PlanGate>

const count = z.int().min(1).max(10_000)
const money = z.number().positive().max(1_000_000_000)

/** Limits that hold whatever the other clauses say. */
export const Never = z.strictObject({
  entriesPerSecurityAndDay: count.optional().meta({
    description: 'Of the account, whoever sent them: by hand, script or plan',
  }),
  entriesPerDay: count.optional().meta({ description: 'Of this plan' }),
  entriesInAll: count.optional().meta({
    description: 'Of this plan, for good: 1 is once. One that ended with nothing filled does not count',
  }),
  exposurePerSecurity: money.optional().meta({
    description:
      'Of the account in one security, whoever ordered it: positions, working orders and orders just sent',
  }),
  exposure: money.optional().meta({ description: 'Of this plan, in all: positions and orders' }),
  lossPerDay: money.optional().meta({ description: 'Lost by this plan today; then it enters no more' }),
  lossCounts: z.enum(['Realised', 'WithOpen']).optional().meta({
    description:
      'What that loss counts: Realised, which is meant where this is left out, the trades that have ended; WithOpen, also what the plan would lose on its positions at the last prices',
  }),
  share: z.number().positive().max(100).optional().meta({
    description: 'Percent of the equity of the account that is the plan’s: it never holds more than that',
  }),
  freeBuyingPower: money.optional().meta({ description: 'What must be left of buying power' }),
  largestOrder: money.optional().meta({ description: 'What one order comes to at most' }),
  collar: z.number().positive().max(100).optional().meta({
    description: 'Percent that the price of an entry may lie away from the last trade',
  }),
  hours: z.strictObject({ from: SessionTime.optional(), until: SessionTime.optional() }).optional().meta({
    description:
      'Hours of a session outside of which nothing is entered, whatever When says, and nothing that rests stays; ways out are not bound by them',
  }),
  quoteAge: z.int().positive().max(86_400).default(10).meta({ description: 'Seconds' }),
  barsBehind: count.optional().meta({
    description:
      'Complete bars of If that may be missing, and of those that the plan carries and reads, counted by the sessions of the venue',
  }),
})
export type Never = z.infer<typeof Never>

export const Side = z.strictObject({
  among: Among,
  if: Condition,
  provided: z.array(PlanGate).max(20),
  view: View.optional().meta({
    description: 'Only on a day of which the trader has said that it goes this way',
  }),
  score: Score.optional(),
  ask: z
    .strictObject({ minutes: z.int().min(1).max(390) })
    .optional()
    .meta({ description: 'The trader is asked before an entry is sent, and has so many minutes to answer' }),
  do: Do,
  then: Then,
})
export type Side = z.infer<typeof Side>

/** What a plan does if a hand changes its position, or an order of it. It enters that security no more until it is handed back. */
export const ByHand = z.enum(['LetGo', 'TakeOver', 'StandStill']).meta({
  description:
    'StandStill, which is meant where this is left out: the plan leaves the security alone until it is handed back, and its stop and target stay at the broker. TakeOver: it goes on with what is there, also with what was bought by hand, and says which shares have no stop. LetGo: it gives the security up, and withdraws its own stop and target',
})
export type ByHand = z.infer<typeof ByHand>

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
    byHand: ByHand.optional(),
    never: Never,
    inputs: z.array(Input).max(30).optional().meta({
      description: 'Values by name; their names may stand in rule text',
    }),
    seen: SeenRule.optional().meta({ description: 'What the plan does not act on a second time' }),
    events: z.array(DatedEvent).max(5000).optional().meta({
      description: 'A list of events, kept with the plan; more may come from a file',
    }),
    drawings: z.record(z.string(), z.array(Drawing).max(200)).optional().meta({
      description:
        'What is drawn on the charts of its securities and asked for by its rule text, as it stood then',
    }),
    figures: z.record(z.string().max(32), z.array(Report).max(400)).optional().meta({
      description:
        'Company figures of the trader’s own that its rule text asks for, by security, oldest first; they take the place of the broker’s',
    }),
    bars: z.record(OwnName, OwnBars).optional().meta({
      description:
        'Bars of the trader’s own that its rule text reads beside those of a security, by the name under which it does; they take the place of the broker’s',
    }),
  })
  .superRefine(({ sides }, ctx) => {
    const [one, other] = sides
    if (other && wayOf(one.do) === wayOf(other.do))
      ctx.addIssue({
        code: 'custom',
        path: ['sides', 1, 'do', 'open'],
        message: 'the second side opens the other way',
      })
  })
  .meta({ id: 'Plan' })
export type Plan = z.infer<typeof Plan>
