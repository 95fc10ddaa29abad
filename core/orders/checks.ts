import * as z from 'zod'

/** What a check of an order is about. */
export const CheckCode = z.enum([
  'security',
  'orderable',
  'quantity',
  'tick',
  'price',
  'client-order-id',
  'market-open',
  'expiry',
  'exit-side',
  'trigger',
  'locate',
  'legs',
  'shares-held',
  'option-level',
  'buying-power',
  'standing-down',
  'gate',
])
export type CheckCode = z.infer<typeof CheckCode>

/** A figure with its unit; money and prices in the currency that is named. */
export const Amount = z
  .union([
    z.object({ amount: z.number(), unit: z.literal('shares') }),
    z.object({ amount: z.number(), unit: z.enum(['money', 'price']), currency: z.string() }),
  ])
  .meta({ id: 'Amount' })
export type Amount = z.infer<typeof Amount>

/** One check of an order: what was looked at, what it is and what it may be. */
export const Check = z
  .object({
    code: CheckCode,
    verdict: z.enum(['holds', 'fails', 'unknown']),
    sentence: z.string(),
    mend: z.string().optional().meta({ description: 'What to do where it fails' }),
    value: Amount.optional().meta({ description: 'What the order has' }),
    limit: Amount.optional().meta({ description: 'What it may have, or what it is measured against' }),
  })
  .meta({ id: 'Check' })
export type Check = z.infer<typeof Check>
