import * as z from 'zod'
import { parseTimeframe } from '../market/timeframe'
import { type Pair } from '../scan/pairs'

/** A search for pairs, and when the pairs of a plan were taken from it: they stay until it is asked again. */
export const PairScan = z.strictObject({
  in: z
    .union([
      z.literal('All'),
      z.strictObject({ index: z.string().min(1).max(21) }),
      z.strictObject({ list: z.array(z.string().min(1).max(21)).min(1).max(2000) }),
    ])
    .meta({ description: 'Where it looks: everything that is listed, the members of an index, or a list' }),
  every: z.string().refine((text) => parseTimeframe(text) !== undefined, {
    message: 'is no timeframe; use one such as 1 hour or 1 day',
  }),
  length: z.int().min(10).max(500).meta({ description: 'Bars over which they are compared' }),
  least: z.number().min(0).max(1).meta({ description: 'Correlation of their changes at least' }),
  first: z.int().min(1).max(250).meta({ description: 'So many pairs at most, the closest first' }),
  at: z.iso.datetime({ offset: true }).optional().meta({
    description: 'Moment of the market as of which the pairs were found; not asked yet where left out',
  }),
})
export type PairScan = z.infer<typeof PairScan>

/**
 * The closest of pairs, each security in one of them at most: what is held of it could not be told apart otherwise. Of pairs as
 * close the symbols decide, so that two searches over the same bars choose the same.
 */
export function chosenPairs(found: readonly Pair[], first: number): [string, string][] {
  const name = ({ one, other }: Pair) => `${one} ${other}`
  const closest = [...found].sort((a, b) => b.correlation - a.correlation || (name(a) < name(b) ? -1 : 1))
  const taken = new Set<string>()
  const out: [string, string][] = []
  for (const { one, other, ratio } of closest) {
    if (out.length >= first) break
    // A pair without a ratio cannot be traded in one.
    if (taken.has(one) || taken.has(other) || !Number.isFinite(ratio)) continue
    taken.add(one).add(other)
    out.push([one, other])
  }
  return out
}

/** How pairs were found, in words. */
export function pairScanText({ in: where, every, length, least, first, at }: PairScan): string {
  const among =
    where === 'All'
      ? 'everything'
      : 'index' in where
        ? `the members of ${where.index}`
        : `${where.list.length} securities`
  const as = at === undefined ? '' : `, as of ${at.slice(0, 16).replace('T', ' ')}`
  return `the ${first} closest of ${among}, correlated at least ${least} over ${length} bars of ${every}${as}`
}
