import * as z from 'zod'
import { plainSymbol } from '../options/osi'

export const Side = z.enum(['Buy', 'Sell', 'SellShort']).meta({
  description: 'Sell closes what is held; SellShort opens a short position. Of options likewise',
})
export type Side = z.infer<typeof Side>

/** A symbol as it is sent; that of an option contract may lack its blanks. */
export const SentSymbol = z
  .string()
  .min(1)
  .max(32)
  .overwrite(plainSymbol)
  .meta({ description: 'Of an option contract by OSI', example: 'OSPRY' })

/** One security of a multi-leg order. */
export const Leg = z
  .strictObject({
    symbol: SentSymbol,
    legSide: Side,
    legRatioQty: z.int().min(1).max(100_000).default(1).meta({
      description: 'Contracts, or shares of the underlying, for each unit of orderQty',
    }),
  })
  .meta({ id: 'Leg' })
export type Leg = z.infer<typeof Leg>

/** What a trade of a multi-leg order did to one of its legs. */
export const LegFill = z
  .object({
    symbol: z.string(),
    side: Side,
    lastQty: z.number(),
    lastPx: z.number(),
    commission: z.number(),
  })
  .meta({ id: 'LegFill' })
export type LegFill = z.infer<typeof LegFill>

/** How the id of a leg ends, behind that of its order. */
export const legIdOf = (clOrdId: string, index: number): string => `${clOrdId}/leg${index + 1}`

/** True of the id of a leg. */
export const isLegId = (id: string): boolean => /\/leg\d$/.test(id)

/** Greatest common divisor of whole numbers. */
export const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b))

/** What is wrong with legs as they are sent, in words; undefined where nothing is. */
export function wrongLegs(legs: readonly Leg[]): string | undefined {
  const symbols = new Set(legs.map(({ symbol }) => symbol))
  if (symbols.size < legs.length) return 'two legs are of one security; make them one'
  // Fewer than two legs are refused as such.
  const common = legs.map(({ legRatioQty }) => legRatioQty).reduce(gcd, 0)
  if (common > 1)
    return `every ratio is a multiple of ${common}; divide them by it and multiply orderQty by it`
  return undefined
}
