import * as z from 'zod'

/** What became of something that a plan has seen. */
export const Became = z.enum(['Seen', 'Declined', 'Ordered', 'Filled'])
export type Became = z.infer<typeof Became>

/** What of the seen book keeps a plan from acting again. */
export const SeenRule = z.strictObject({
  by: z
    .enum(['Key', 'Symbol'])
    .default('Key')
    .meta({ description: 'Whether the event or the security is remembered' }),
  blocks: z.array(Became).min(1).default(['Seen', 'Declined', 'Ordered', 'Filled']),
  days: z
    .int()
    .min(1)
    .max(3650)
    .optional()
    .meta({ description: 'For so many days; for good where left out' }),
})
export type SeenRule = z.infer<typeof SeenRule>

/** One entry of a seen book. */
export const Seen = z.strictObject({
  symbol: z.string().max(32),
  at: z.number().meta({ description: 'Epoch milliseconds of the market' }),
  became: Became,
  text: z.string().max(400).optional(),
  note: z.string().max(400).optional(),
  waits: z.literal(true).optional().meta({
    description:
      'Nothing has become of it yet: it waits for points or an answer, and a plan that is begun anew asks again',
  }),
})
export type Seen = z.infer<typeof Seen>

/** Something that happened to a security at a moment, from a list or a file. */
export const DatedEvent = z.strictObject({
  key: z.string().min(1).max(120).meta({ description: 'The same key is the same event' }),
  symbol: z.string().min(1).max(32),
  at: z.iso.datetime({ offset: true }),
  text: z.string().max(400).optional(),
})
export type DatedEvent = z.infer<typeof DatedEvent>

const DAY = 86_400_000

/** Under which key of the book an event of a security stands. */
export const seenKey = ({ by }: SeenRule, { key, symbol }: { key: string; symbol: string }): string =>
  by === 'Key' ? key : symbol

/** The entry that keeps a plan from acting on an event; undefined where nothing does. */
export function blockedBy(
  rule: SeenRule,
  book: Readonly<Record<string, Seen>>,
  event: { key: string; symbol: string; at: number },
): Seen | undefined {
  const entry = book[seenKey(rule, event)]
  if (!entry || !rule.blocks.includes(entry.became)) return undefined
  return rule.days !== undefined && event.at - entry.at > rule.days * DAY ? undefined : entry
}
