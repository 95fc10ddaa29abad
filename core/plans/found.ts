import * as z from 'zod'
import { type BarSet } from '../market/barTable'
import { parseTimeframe } from '../market/timeframe'
import { checkMeasure, checkRule, type Node, sayIssue } from '../rules'
import { finishScan, scan, type ScanOptions, type ScanRow } from '../scan/scan'
import { ranked } from '../scan/order'
import { Measure } from './entry'

/** Securities that are found: a scan that the plan carries, run anew as often as it says. */
export const Found = z
  .strictObject({
    name: z.string().min(1).max(60),
    scan: z
      .strictObject({ id: z.string().max(80), version: z.int().positive() })
      .optional()
      .meta({ description: 'The saved scan that it was taken from, and in which version' }),
    rule: z.string().min(1).max(2000),
    every: z.string().refine((text) => parseTimeframe(text) !== undefined, {
      message: 'is no timeframe; use one such as 1 hour or 1 day',
    }),
    soFar: z.boolean().default(false).meta({ description: 'The bar that grows counts as well' }),
    in: z
      .union([
        z.literal('All'),
        z.strictObject({ index: z.string().min(1).max(40) }),
        z.strictObject({ list: z.array(z.string().min(1).max(21)).min(1).max(2000) }),
      ])
      .default('All')
      .meta({ description: 'Where it looks: everything that is listed, the members of an index, or a list' }),
    by: Measure.optional().meta({
      description: 'A measure that tells their order; by symbol where left out or alike',
    }),
    lowest: z.boolean().default(false).meta({ description: 'The lowest come first, not the highest' }),
    first: z.int().min(1).max(500).optional().meta({ description: 'So many of them at most, in that order' }),
    again: z
      .union([z.literal('Session'), z.strictObject({ minutes: z.int().min(1).max(390) })])
      .default('Session')
      .meta({ description: 'When it is run anew: with each session, or every so many minutes' }),
    signal: z.literal(true).optional().meta({
      description:
        'A security that it finds newly counts as a signal at once; those that it finds when the plan is begun do not',
    }),
    asOf: z.iso.date().optional().meta({
      description: 'Date at whose end it stands, whenever it is run; as it is now where left out',
    }),
  })
  .refine(({ asOf, soFar }) => asOf === undefined || !soFar, {
    path: ['soFar'],
    message: 'no bar grows at the end of a past day; leave it out',
  })
export type Found = z.infer<typeof Found>

/** Securities that were found, best first, and those that a limit left out. */
export interface FoundNow {
  symbols: string[]
  left: string[]
  /** Securities of which it cannot be told, mostly for want of bars. */
  unknown: number
  looked: number
}

/** Most securities that a side looks at. */
const MOST = 500

/** What is wrong with a search, in words; undefined where nothing is. */
export function wrongFound({ rule, every, by }: Found): string | undefined {
  const frame = parseTimeframe(every)!
  const checks = [checkRule(rule, frame), ...(by === undefined ? [] : [checkMeasure(by, frame)])]
  const issue = checks.flatMap(({ issues }) => issues).at(0)
  return issue && sayIssue(issue)
}

/** The trees of the rule of a search and of the measure that orders it. Throws RangeError for one that does not check. */
export function treesOfFound({ rule, every, by }: Found): Node[] {
  const frame = parseTimeframe(every)!
  return [checkRule(rule, frame), ...(by === undefined ? [] : [checkMeasure(by, frame)])].map(
    ({ tree, issues }) => {
      if (!tree || issues.length > 0) throw new RangeError(sayIssue(issues[0]))
      return tree
    },
  )
}

/** Runs a search over bars. Throws RangeError for one that does not check. */
export function findNow(found: Found, set: BarSet, options?: ScanOptions): FoundNow {
  const { every, by, lowest, first } = found
  const [rule, ...measures] = treesOfFound(found)
  const query = { rule, measures, every: parseTimeframe(every)! }
  const { rows, unknown, looked } = finishScan(scan(set, query, options))
  // Of those alike the symbol decides, so that two runs over the same bars choose the same.
  const bySymbol = [...rows].sort((a, b) => (a.symbol < b.symbol ? -1 : 1))
  const order: ScanRow[] =
    by === undefined ? bySymbol : ranked(bySymbol, { by: `measure ${by}`, down: !lowest }, [by])
  const symbols = order.map(({ symbol }) => symbol)
  const most = Math.min(first ?? MOST, MOST)
  return { symbols: symbols.slice(0, most), left: symbols.slice(most), unknown: unknown.length, looked }
}
