import * as z from 'zod'

/** Which way the trader thinks that the day goes. */
export const View = z.enum(['Up', 'Down', 'Neither'])
export type View = z.infer<typeof View>

/** The trader's own view of one session day, said once. */
export const DayView = z.strictObject({
  /** Session date of the account's venue. */
  date: z.string(),
  view: View,
  note: z.string().max(400).optional(),
  at: z.number().meta({ description: 'Epoch milliseconds of the market' }),
})
export type DayView = z.infer<typeof DayView>

export const VIEW_TEXT: Record<View, string> = { Up: 'up', Down: 'down', Neither: 'neither up nor down' }
