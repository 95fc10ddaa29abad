import * as z from 'zod'

/** Where in the text a node stands: offsets of its first character and of the one after its last. */
export const Span = z.object({ from: z.int().nonnegative(), to: z.int().nonnegative() })
export type Span = z.infer<typeof Span>

export const LiteralUnit = z.enum(['number', 'price', 'percent', 'ticks'])
export type LiteralUnit = z.infer<typeof LiteralUnit>

export const DurationUnit = z.enum(['bar', 'min', 'hour', 'day', 'week', 'month'])
export type DurationUnit = z.infer<typeof DurationUnit>

/** Currency of an amount by its sign, where that is not the dollar. */
export const CURRENCY_SIGNS = { $: 'USD', '€': 'EUR', '£': 'GBP' } as const
export const Currency = z.enum(['USD', 'EUR', 'GBP'])
export type Currency = z.infer<typeof Currency>

export type Arithmetic = '+' | '-' | '*' | '/'

/** Whether every one of several must meet a condition, one is enough, or those that do are counted. */
export type Each = 'all' | 'any' | 'count'

type Placed = { at?: Span }

/**
 * A rule or measure as a tree: the canonical form that text and builder edit. `how` two sides of a relation stand to
 * each other is the name of a word: ">", "crosses above".
 */
export type Node = Placed &
  (
    | { kind: 'number'; value: number; unit: LiteralUnit; currency?: Currency }
    | { kind: 'duration'; count: number; unit: DurationUnit }
    | { kind: 'time'; minutes: number }
    | { kind: 'text'; value: string }
    | { kind: 'name'; name: string }
    | { kind: 'call'; name: string; args: Node[]; output?: string }
    | { kind: 'negate'; of: Node }
    | { kind: 'arith'; op: Arithmetic; left: Node; right: Node }
    | { kind: 'relate'; how: string; left: Node; right: Node }
    | { kind: 'between'; of: Node; low: Node; high: Node }
    | { kind: 'logic'; op: 'and' | 'or'; parts: Node[] }
    | { kind: 'not'; of: Node }
    | { kind: 'fan'; each: Each; parts: Node[] }
  )

export type CallNode = Extract<Node, { kind: 'call' }>

const at = Span.optional()

/** Validates a tree that comes from a file or another program. */
export const NodeSchema: z.ZodType<Node> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.object({
      kind: z.literal('number'),
      value: z.number().nonnegative(),
      unit: LiteralUnit,
      currency: Currency.optional(),
      at,
    }),
    z.object({ kind: z.literal('duration'), count: z.int().positive(), unit: DurationUnit, at }),
    z.object({ kind: z.literal('time'), minutes: z.int().min(0).max(1439), at }),
    z.object({ kind: z.literal('text'), value: z.string(), at }),
    z.object({ kind: z.literal('name'), name: z.string(), at }),
    z.object({
      kind: z.literal('call'),
      name: z.string(),
      args: z.array(NodeSchema),
      output: z.string().optional(),
      at,
    }),
    z.object({ kind: z.literal('negate'), of: NodeSchema, at }),
    z.object({
      kind: z.literal('arith'),
      op: z.enum(['+', '-', '*', '/']),
      left: NodeSchema,
      right: NodeSchema,
      at,
    }),
    z.object({ kind: z.literal('relate'), how: z.string(), left: NodeSchema, right: NodeSchema, at }),
    z.object({ kind: z.literal('between'), of: NodeSchema, low: NodeSchema, high: NodeSchema, at }),
    z.object({ kind: z.literal('logic'), op: z.enum(['and', 'or']), parts: z.array(NodeSchema).min(2), at }),
    z.object({ kind: z.literal('not'), of: NodeSchema, at }),
    z.object({
      kind: z.literal('fan'),
      each: z.enum(['all', 'any', 'count']),
      parts: z.array(NodeSchema).min(1),
      at,
    }),
  ]),
)

/** The nodes directly below a node, in reading order. */
export function childrenOf(node: Node): Node[] {
  switch (node.kind) {
    case 'call':
      return node.args
    case 'negate':
    case 'not':
      return [node.of]
    case 'arith':
    case 'relate':
      return [node.left, node.right]
    case 'between':
      return [node.of, node.low, node.high]
    case 'logic':
    case 'fan':
      return node.parts
    default:
      return []
  }
}
