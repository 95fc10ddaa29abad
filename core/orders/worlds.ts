import * as z from 'zod'

/** A world as the broker describes it. */
export const WorldView = z
  .object({
    name: z.string(),
    base: z.string().meta({ description: 'What every path in it begins with', example: '/paper' }),
    id: z.string(),
    epoch: z.int().meta({ description: 'Counts how often it was put back' }),
    environment: z.enum(['paper', 'live']),
    rehearsal: z.boolean(),
    accounts: z.array(z.string()).meta({ description: 'Those that the key speaks for' }),
    now: z.string().meta({ format: 'date-time', description: 'Market time' }),
    running: z.boolean(),
  })
  .meta({ id: 'World' })
export type WorldView = z.infer<typeof WorldView>

/** A world that could not be opened or was set aside, and what to do about it. */
export const SetAside = z
  .object({ name: z.string(), why: z.string(), mend: z.string() })
  .meta({ id: 'SetAside' })
export type SetAside = z.infer<typeof SetAside>
