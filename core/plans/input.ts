import * as z from 'zod'

/** What stands in one place and may be written, by its name, wherever rule text takes a value; and at numbers, times and lengths of bars of clauses. */
export const Input = z.strictObject({
  name: z
    .string()
    .regex(/^[a-z][a-z0-9_]{0,29}$/, 'use small letters, digits and _, beginning with a letter'),
  value: z.string().min(1).max(400).meta({
    description:
      'As it would be written in its place: 20, 1.5%, 15 min, 40 ticks, 09:45; or rule text that is used several times, in which inputs before it may stand',
  }),
  at: z.array(z.string().min(1).max(120)).max(20).optional().meta({
    description:
      'Numbers, times and lengths of bars of clauses where it stands as well: sides.0.then.exits.stop.percent',
  }),
})
export type Input = z.infer<typeof Input>
