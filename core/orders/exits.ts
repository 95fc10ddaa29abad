import * as z from 'zod'

const price = z.number().positive().max(1_000_000)

/** How far a trailing stop stays behind the best price since it came. */
export const Trail = z
  .union([z.strictObject({ amount: price }), z.strictObject({ percent: z.number().positive().lt(100) })])
  .meta({ id: 'Trail', description: 'An amount a share, or percent of the price' })
export type Trail = z.infer<typeof Trail>

/** A level of an exit: a price, or a distance from the average price of the fill. */
export const ExitLevel = z
  .union([
    z.strictObject({ price }),
    z.strictObject({ percent: z.number().positive().lt(100) }),
    z.strictObject({ ticks: z.int().positive().max(1_000_000) }),
    z.strictObject({ amount: price }),
    z.strictObject({ total: z.number().positive().max(1_000_000_000) }),
    z.strictObject({ risk: z.number().positive().max(1000) }),
    z.strictObject({ trail: Trail }),
  ])
  .meta({
    id: 'ExitLevel',
    description:
      'An absolute price; or a distance from the average price of the fill: percent, ticks, amount (money a share), total (money for the whole position, or for its part), risk (a target: so many times the distance of the stop), trail (a stop: it follows the best price)',
  })
export type ExitLevel = z.infer<typeof ExitLevel>

/** Levels of a part of a position, whatever tells them. */
const partWith = <L extends z.ZodType<object>>(level: L) =>
  z.strictObject({
    ...{ stop: level.optional(), target: level.optional() },
    share: z.number().positive().lt(100).optional().meta({
      description: 'Percent of the position, in whole lots; the last part leaves it out and takes the rest',
    }),
  })
const ExitPart = partWith(ExitLevel).meta({ id: 'ExitPart' })
export type ExitPart = z.infer<typeof ExitPart>

interface Levels {
  stop?: object
  target?: object
}
type Wrong = (path: (string | number)[], message: string) => void

function checkLevels({ stop, target }: Levels, wrong: Wrong, at: (string | number)[]): void {
  if (!stop && !target) wrong(at, 'give a stop, a target or both')
  if (stop && 'risk' in stop)
    wrong([...at, 'stop'], 'risk measures a target by its stop; give the stop another way')
  if (target && 'trail' in target) wrong([...at, 'target'], 'only a stop trails')
  if (target && 'risk' in target && !stop)
    wrong([...at, 'target'], 'risk is the distance of the stop; give a stop')
}

function checkParts(parts: readonly (Levels & { share?: number })[], wrong: Wrong): void {
  parts.forEach((part, i) => {
    checkLevels(part, wrong, ['parts', i])
    const last = i === parts.length - 1
    if (last === (part.share !== undefined))
      wrong(
        ['parts', i, 'share'],
        last ? 'the last part takes the rest; leave its share out' : 'give a share',
      )
  })
  if (parts.reduce((sum, { share = 0 }) => sum + share, 0) >= 100)
    wrong(['parts'], 'the shares come to 100 % or more, and leave nothing for the last part')
}

const wrongSide = z.enum(['LeaveAtOnce', 'Refuse']).optional().meta({
  description:
    'What happens where a level would lie on the wrong side of the actual fill: the position is left at once (where left out), or nothing is traded at such a price and the rest of the entry canceled',
})

function checkExits(
  exits: Levels & { parts?: readonly (Levels & { share?: number })[]; stopLimit?: object },
  ctx: z.RefinementCtx,
): void {
  const wrong: Wrong = (path, message) => ctx.addIssue({ code: 'custom', path, message })
  const fixed = (exits.parts ?? [exits]).some(({ stop }) => stop && !('trail' in stop))
  if (exits.stopLimit && !fixed)
    wrong(['stopLimit'], 'there is no stop, or none that does not trail; leave it out')
  if (!exits.parts) return checkLevels(exits, wrong, [])
  if (exits.stop || exits.target) wrong(['parts'], 'give stop and target of each part, not beside them')
  checkParts(exits.parts, wrong)
}

/** How far beyond a stop the limit lies that it becomes. */
export const StopLimitBy = z
  .union([
    z.strictObject({ ticks: z.int().min(0).max(10_000) }),
    z.strictObject({ percent: z.number().positive().lt(100) }),
  ])
  .meta({ id: 'StopLimitBy', description: 'Ticks, or percent of the stop' })
export type StopLimitBy = z.infer<typeof StopLimitBy>

/** What holds for all exits of an entry. */
const ofAll = {
  wrongSide,
  stopLimit: StopLimitBy.optional().meta({
    description:
      'Stops that do not trail become limit orders so far beyond them (StopLimit), which may stay unfilled; market orders where left out. Where such a stop is moved, its limit goes along',
  }),
  timeInForce: z.enum(['Day', 'GoodTillCancel']).optional().meta({
    description: 'How long they stay; good till cancel where left out',
  }),
}

const PARTS = 'Instead of stop and target: several exits for parts of the position'

/** The form of exits whose levels are told by more than an order can carry. */
export const exitsWith = <L extends z.ZodType<object>>(level: L) =>
  z
    .strictObject({
      ...{ stop: level.optional(), target: level.optional() },
      parts: z.array(partWith(level)).min(2).max(4).optional().meta({ description: PARTS }),
      ...ofAll,
    })
    .superRefine((exits, ctx) => checkExits(exits as Parameters<typeof checkExits>[0], ctx))

export const Exits = z
  .strictObject({
    ...{ stop: ExitLevel.optional(), target: ExitLevel.optional() },
    parts: z.array(ExitPart).min(2).max(4).optional().meta({ description: PARTS }),
    ...ofAll,
  })
  .superRefine(checkExits)
  .meta({
    id: 'Exits',
    description:
      'Held by the broker, released by the first fill of the entry; with both, one cancels the other.',
  })
export type Exits = z.infer<typeof Exits>

/** The parts of a position with their levels; one part where nothing else is said. */
export const partsOf = <L>({
  parts,
  stop,
  target,
}: {
  parts?: readonly { stop?: L; target?: L; share?: number }[]
  stop?: L
  target?: L
}): readonly { stop?: L; target?: L; share?: number }[] => parts ?? [{ stop, target }]

/** How much of a quantity each part is, in whole lots; the last takes the rest. */
export function shareOut(parts: readonly { share?: number }[], quantity: number, lot: number): number[] {
  let [before, percent] = [0, 0]
  return parts.map(({ share }, i) => {
    percent += share ?? 0
    const upTo = i === parts.length - 1 ? quantity : Math.floor((quantity * percent) / 100 / lot + 1e-9) * lot
    const own = upTo - before
    before = upTo
    return own
  })
}
