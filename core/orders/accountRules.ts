import * as z from 'zod'

/** What an account may do and what it reckons in; set when it is opened. */
export const AccountRules = z
  .object({
    currency: z.string().length(3).meta({ description: 'ISO 4217; the account trades what is traded in it' }),
    margin: z
      .boolean()
      .meta({ description: 'Lends half of what is bought; else what is bought is paid in full' }),
    short: z.boolean().meta({ description: 'May sell what it does not hold' }),
    optionLevel: z.int().min(0).max(4).meta({
      description:
        '0 none; 1 covered calls and cash-secured puts; 2 also bought options; 3 also spreads; 4 also uncovered',
    }),
  })
  .meta({ id: 'AccountRules' })
export type AccountRules = z.infer<typeof AccountRules>

/** Of an account of which nothing else was said. */
export const USUAL_RULES: AccountRules = { currency: 'USD', margin: true, short: true, optionLevel: 2 }
