import * as z from 'zod'

/** A check of an account's own, in rule text about the order that would be sent. */
export const Gate = z
  .strictObject({
    name: z.string().min(1).max(60).meta({ example: 'largest order' }),
    rule: z.string().min(1).max(400).meta({
      description: 'Rule text about the order; what it does not let pass is refused or asked about',
      example: 'order value <= 20000',
    }),
    otherwise: z.enum(['Refuse', 'AskFirst']).meta({
      description:
        'AskFirst: the order waits, PendingNew, until another key than the sending one approves it',
    }),
  })
  .meta({ id: 'Gate' })
export type Gate = z.infer<typeof Gate>

export const Gates = z.array(Gate).max(20)
