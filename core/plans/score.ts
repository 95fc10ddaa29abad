import * as z from 'zod'

/** A line of a score card: points that data gives where a rule holds, or that the trader or somebody outside gives. */
export const ScoreLine = z.strictObject({
  name: z.string().min(1).max(60),
  points: z
    .int()
    .min(-1000)
    .max(1000)
    .meta({ description: 'That it gives; of a line from outside the most that it may' }),
  from: z.union([
    z.strictObject({ rule: z.string().min(1).max(400) }).meta({ description: 'Rule text on the bars of If' }),
    z.literal('Trader'),
    z.literal('Outside').meta({ description: 'Brought by a file or a call, under the name of the line' }),
  ]),
})
export type ScoreLine = z.infer<typeof ScoreLine>

export const Score = z.strictObject({
  lines: z.array(ScoreLine).min(1).max(20),
  least: z.int().min(-10_000).max(10_000).meta({ description: 'Sum from which on it passes' }),
  waits: z.int().min(0).max(390).default(0).meta({
    description: 'Minutes that a candidate waits for lines that are not known; then it does not pass',
  }),
})
export type Score = z.infer<typeof Score>

/** Points that were brought for a line of one candidate, until they are no longer valid. */
export const Points = z.strictObject({
  key: z
    .string()
    .min(1)
    .max(120)
    .meta({ description: 'Of the candidate: the key of its event, or its security' }),
  line: z.string().min(1).max(60),
  points: z.int().min(-1000).max(1000),
  reason: z.string().max(400).optional(),
  at: z.iso.datetime({ offset: true }),
  validUntil: z.iso.datetime({ offset: true }).optional(),
})
export type Points = z.infer<typeof Points>

/** What a line came to; points are undefined where that is not known. */
export interface Scored {
  name: string
  points: number | undefined
  reason?: string
}

/** What the lines come to together: what is not known may still bring all of its points, or none. */
export function scoreVerdict(
  { lines, least }: Score,
  scored: readonly Scored[],
): { sum: number; verdict: 'holds' | 'fails' | 'unknown' } {
  let [sum, lowest, highest] = [0, 0, 0]
  scored.forEach(({ points }, i) => {
    sum += points ?? 0
    if (points !== undefined) return
    lowest += Math.min(0, lines[i].points)
    highest += Math.max(0, lines[i].points)
  })
  if (sum + lowest >= least) return { sum, verdict: 'holds' }
  return { sum, verdict: sum + highest < least ? 'fails' : 'unknown' }
}

/** Why points that were brought for a line are not taken; undefined if they are. They stay between nought and what the line gives. */
export function wrongPoints(
  scores: readonly (Score | undefined)[],
  { line: name, points }: Pick<Points, 'line' | 'points'>,
): string | undefined {
  const lines = scores.flatMap((score) => score?.lines ?? [])
  const line = lines.find((one) => one.name === name)
  const brought = lines.filter(({ from }) => typeof from === 'string').map((one) => `“${one.name}”`)
  if (!line || typeof line.from !== 'string')
    return brought.length === 0
      ? `No line of its score card takes points from outside; “${name}” does not.`
      : `Its score card takes no points for “${name}”; it takes them for ${brought.join(', ')}.`
  const [least, most] = [Math.min(0, line.points), Math.max(0, line.points)]
  return points < least || points > most
    ? `“${name}” gives ${least} to ${most} points; ${points} is not between them.`
    : undefined
}
