import * as z from 'zod'
import { ExitLevel, type Exits, exitsWith, partsOf } from '../orders/exits'
import { Gone, Measure, Unfilled } from './entry'
import { SessionTime } from './times'
import { parseTimeframe } from '../market/timeframe'

/** A level of an exit: one that an order can carry, or one that a measure tells when the order is made. */
export const PlanLevel = z
  .union([
    ExitLevel,
    z.strictObject({
      level: Measure.meta({ description: 'A price, such as opening(15 min).middle' }),
      otherwise: ExitLevel.optional().meta({
        description: 'What holds on a day on which that lies on the wrong side; left out, nothing is ordered',
      }),
    }),
    z.strictObject({
      distance: Measure.meta({ description: 'From the fill, such as 2 * atr(14)' }),
    }),
  ])
  .meta({ id: 'PlanLevel' })
export type PlanLevel = z.infer<typeof PlanLevel>

export const PlanExits = exitsWith(PlanLevel)
export type PlanExits = z.infer<typeof PlanExits>

/** A stop that is moved while something is held, never further away; or a target, to either side. */
export const StopMove = z.strictObject({
  of: z.enum(['Stop', 'Target']).default('Stop'),
  when: z
    .union([
      z.literal('EntryBar').meta({ description: 'Once the bar in which it was entered is complete' }),
      z.literal('EveryBar'),
      z.strictObject({
        gain: Gone,
      }),
    ])
    .meta({
      description: 'Or once the price has gone so far from the fill; risk is the distance of the stop',
    }),
  to: z
    .union([z.literal('Fill'), z.strictObject({ level: Measure })])
    .meta({ description: 'The price of the fill, or a measure' }),
})
export type StopMove = z.infer<typeof StopMove>

/** How a plan itself closes what it holds, where that is not at the market. */
export const LeaveAt = z
  .strictObject({
    at: z.enum(['bid', 'ask', 'mid', 'last']),
    ticks: z.int().min(-1000).max(1000).default(0).meta({ description: 'So many ticks above it' }),
    unfilled: Unfilled,
  })
  .meta({
    description:
      'How it is left by a rule, by the time or on the opposite signal: at a limit, and what follows when that is not filled. At the market where this is left out, and where the session ends before that',
  })
export type LeaveAt = z.infer<typeof LeaveAt>

export const Then = z.strictObject({
  exits: PlanExits.optional().meta({ description: 'Held by the broker, measured from the actual fill' }),
  stopWaits: z.int().min(1).max(390).optional().meta({
    description:
      'Minutes that a stop which was set off waits at its limit (see exits.stopLimit); then all is closed at the market. As long as the broker lets it where this is left out',
  }),
  moves: z.array(StopMove).max(4).optional().meta({
    description:
      'How the stop or the target is moved; the plan does it, the order itself stays at the broker',
  }),
  on: z
    .strictObject({
      every: z
        .string()
        .refine((text) => parseTimeframe(text) !== undefined, {
          message: 'is no timeframe; use one such as 5 min or 1 day',
        })
        .optional(),
      bars: z.enum(['Complete', 'SoFar']).default('Complete'),
    })
    .optional()
    .meta({
      description:
        'Bars on which its rule and the levels of its moves are asked while something is held, complete ones or at each tick; those of If where this is left out',
    }),
  leaveIf: z.string().min(1).max(2000).optional().meta({
    description: 'Rule text: where it holds, all is closed at the market; the plan watches it',
  }),
  sessions: z.int().min(1).max(1000).optional().meta({
    description: 'Sessions that it is held at most, that of the entry included; closed at outAt of the last',
  }),
  net: z
    .strictObject({
      gain: z.number().positive().max(10_000).optional(),
      loss: z.number().positive().max(10_000).optional(),
    })
    .optional()
    .meta({
      description:
        'Of several legs: all are closed at the market once they have gained, or lost, so many percent of the net price of the fill, at the middle of their quotes. Of a pair: so many percent of what both legs were worth at their fills, at the last prices',
    }),
  daysLeft: z.int().min(0).max(1000).optional().meta({
    description:
      'Of contracts: closed in the session in which so many days are left until the first of them ends; at outAt where that is given',
  }),
  outAt: SessionTime.optional().meta({ description: 'Time of the session at which all is closed' }),
  leave: LeaveAt.optional(),
})
export type Then = z.infer<typeof Then>

/** Every measure that the levels of a side are told by when its order is made. */
export function measuresOfLevels({ exits }: Then): string[] {
  const levels = exits ? partsOf(exits).flatMap(({ stop, target }) => [stop, target]) : []
  return levels.flatMap((one) =>
    !one ? [] : 'level' in one ? [one.level] : 'distance' in one ? [one.distance] : [],
  )
}

/** Every measure that the stop of a side is moved to. */
export const measuresOfMoves = ({ moves = [] }: Then): string[] =>
  moves.flatMap(({ to }) => (to === 'Fill' ? [] : [to.level]))

/** What levels by measure are fixed with when an order is made. */
export interface LevelFacts {
  valueOf(measure: string): number
  /** The likely price of the fill, and 1 where what is opened gains when the price rises, else -1. */
  entry: number
  way: 1 | -1
  onTick(price: number): number
}

/** A level that is not known, or would lie on the wrong side of the price. */
interface NotFixed {
  why: 'unknown' | 'wrong side'
  role: 'stop' | 'target'
  measure: string
}

/** Exits as an order carries them: measures are asked once, now. Or the measure that is not known, or lies on the wrong side. */
export function fixedExits(exits: PlanExits, facts: LevelFacts): { exits: Exits } | NotFixed {
  const { parts: _parts, stop: _stop, target: _target, ...ofAll } = exits
  if (!exits.parts) {
    const fixed = fixedPart(exits, facts)
    if ('why' in fixed) return fixed
    const { stop, target } = fixed
    return { exits: { stop, target, ...ofAll } }
  }
  const parts: NonNullable<Exits['parts']> = []
  for (const part of exits.parts) {
    const fixed = fixedPart(part, facts)
    if ('why' in fixed) return fixed
    parts.push(part.share === undefined ? fixed : { ...fixed, share: part.share })
  }
  return { exits: { parts, ...ofAll } }
}

interface Levels {
  stop?: PlanLevel
  target?: PlanLevel
}

function fixedPart(part: Levels, facts: LevelFacts): { stop?: ExitLevel; target?: ExitLevel } | NotFixed {
  const stop = fixedLevel(part.stop, 'stop', facts)
  if (stop && 'why' in stop) return stop
  const target = fixedLevel(part.target, 'target', facts)
  if (target && 'why' in target) return target
  return { stop, target }
}

function fixedLevel(
  level: PlanLevel | undefined,
  role: 'stop' | 'target',
  { valueOf, entry, way, onTick }: LevelFacts,
): ExitLevel | NotFixed | undefined {
  if (!level || !('level' in level || 'distance' in level)) return level
  const measure = 'level' in level ? level.level : level.distance
  const value = valueOf(measure)
  if (!(value > 0)) return { why: 'unknown', role, measure }
  if ('distance' in level) return { amount: value }
  const price = onTick(value)
  if (way * (role === 'target' ? 1 : -1) * (price - entry) > 0) return { price }
  return level.otherwise ?? { why: 'wrong side', role, measure }
}
