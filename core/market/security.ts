import * as z from 'zod'

/** What a security is. */
export const SecurityKind = z.enum(['Stock', 'Fund', 'Index', 'Option'])
export type SecurityKind = z.infer<typeof SecurityKind>

/** What an option contract is about, by FIX field names. */
export const OptionContract = z
  .object({
    underlyingSymbol: z.string().meta({ example: 'OSPRY' }),
    maturityDate: z.string().meta({ description: 'Last day on which it is traded', example: '2026-04-17' }),
    putOrCall: z.enum(['Put', 'Call']),
    strikePrice: z.number().positive(),
    exerciseStyle: z.enum(['American', 'European']),
    contractMultiplier: z.number().meta({ description: 'Shares that one contract is about', example: 100 }),
    securityStatus: z.enum(['Active', 'Expired']),
  })
  .meta({ id: 'OptionContract' })
export type OptionContract = z.infer<typeof OptionContract>

export const Security = z
  .object({
    symbol: z.string().meta({ description: 'Of an option contract by OSI, 21 characters', example: 'OSPRY' }),
    name: z.string().meta({ example: 'Osprey Lantern' }),
    kind: SecurityKind,
    sector: z.string().meta({ example: 'Instruments' }),
    venue: z.string().meta({ description: 'ISO 10383 market identifier code', example: 'XBKW' }),
    country: z.string().meta({ description: 'ISO 3166 code of its seat', example: 'CA' }),
    currency: z.string().meta({ description: 'ISO 4217', example: 'USD' }),
    lot: z.int().positive().meta({ description: 'Quantities are whole multiples of this' }),
    increments: z
      .array(z.object({ from: z.number(), step: z.number().positive() }))
      .meta({ description: 'Price increment by price band' }),
    indices: z.array(z.string()).meta({
      description: 'Names of the indices that it is a member of',
      example: ['Brackwater All-Share'],
    }),
    orderable: z.boolean().meta({ description: 'An index has a price but cannot be ordered' }),
    option: OptionContract.optional().meta({ description: 'Of an option contract' }),
  })
  .meta({ id: 'Security' })
export type Security = z.infer<typeof Security>
