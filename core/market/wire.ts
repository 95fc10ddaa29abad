import { z } from 'zod'

/** What a venue, a quote and the stand-in clock look like on the wire. All times carry an offset. */

const moment = z.string().meta({ format: 'date-time' })

export const SessionView = z
  .object({
    mic: z.string(),
    name: z.string(),
    zone: z.string(),
    state: z.enum(['PreOpen', 'Open', 'Closed']),
    date: z.string().meta({ description: 'Date of the session under way, or of the next' }),
    opens: moment,
    closes: moment,
    now: moment,
  })
  .meta({ id: 'Session' })
export type SessionView = z.infer<typeof SessionView>

export const Quote = z
  .object({
    symbol: z.string(),
    bid: z.number(),
    bidSize: z.number(),
    ask: z.number(),
    askSize: z.number(),
    last: z.number(),
    at: moment,
  })
  .meta({ id: 'Quote' })
export type Quote = z.infer<typeof Quote>

export const Clock = z
  .object({
    now: moment,
    running: z.boolean(),
    rate: z.number().meta({ description: 'Market seconds for each real second' }),
    sessionTakes: z.number().meta({ description: 'Real seconds that a whole session takes at this rate' }),
    session: z.enum(['PreOpen', 'Open', 'Closed']),
  })
  .meta({ id: 'Clock' })
export type Clock = z.infer<typeof Clock>
