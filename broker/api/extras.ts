import { z } from '@hono/zod-openapi'
import { COUNTED, type ExtraName } from '@/core/market/bars'

/** Further columns that bars are asked with. */
export const extras = z
  .string()
  .optional()
  .refine((text) => !text || text.split(',').every((name) => (COUNTED as readonly string[]).includes(name)), {
    message: `name some of ${COUNTED.join(', ')}, separated by commas`,
  })
  .meta({ description: 'Further columns, separated by commas: uptrades, downtrades, optionvolume' })

/** Their names, of what was asked. */
export const extrasOf = (text: string | undefined): ExtraName[] =>
  (text ? text.split(',') : []) as ExtraName[]
