import * as z from 'zod'

/** What a security is; options come with their own section of core. */
export const SecurityKind = z.enum(['Stock', 'Fund', 'Index'])
export type SecurityKind = z.infer<typeof SecurityKind>

export const Security = z
  .object({
    symbol: z.string().meta({ example: 'OSPRY' }),
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
  })
  .meta({ id: 'Security' })
export type Security = z.infer<typeof Security>
