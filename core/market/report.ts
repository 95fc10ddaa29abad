import * as z from 'zod'
import { Moment } from './momentText'

/** One report of a company, known from a moment on. */
export const Report = z.object({
  known: Moment.meta({
    description: 'Moment from which it was known, with an offset; epoch milliseconds are taken as well',
  }),
  sharesOutstanding: z.number().optional(),
  float: z.number().optional(),
  eps: z.number().optional().meta({ description: 'In the currency of the listing, over four quarters' }),
  epsGrowth: z.number().optional().meta({ description: 'Percent' }),
  nextEarnings: z.string().optional().meta({ description: 'Local date of the next report, yyyy-MM-dd' }),
  confirmed: z.boolean().optional(),
  beforeOpen: z.boolean().optional(),
})
export type Report = z.infer<typeof Report>
