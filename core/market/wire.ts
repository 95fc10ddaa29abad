import * as z from 'zod'

/** What a venue, a quote and the stand-in clock look like on the wire. All times carry an offset. */

const moment = z.string().meta({ format: 'date-time' })

export const SessionView = z
  .object({
    mic: z.string(),
    name: z.string(),
    zone: z.string(),
    currency: z.string().meta({ description: 'ISO 4217' }),
    index: z.string().meta({ description: 'Symbol of the index of the venue' }),
    state: z.enum(['PreOpen', 'Open', 'Closed']),
    date: z.string().meta({ description: 'Date of the session under way, or of the next' }),
    opens: moment,
    closes: moment,
    now: moment,
    market: z
      .int()
      .default(1)
      .meta({ description: 'Version of the stand-in market: bars of another one are not comparable' }),
  })
  .meta({ id: 'Session' })
export type SessionView = z.infer<typeof SessionView>

export const Quote = z
  .object({
    halted: z.literal(true).optional().meta({ description: 'Trading in it is halted' }),
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

/** A quote of a stream, with what was traded since the one before of the same security: many seconds, if need be. */
export const QuoteTick = Quote.extend({
  since: z
    .object({
      at: moment.meta({ description: 'Moment of the message before' }),
      high: z.number(),
      low: z.number(),
      volume: z.number(),
      uptrades: z.number().meta({ description: 'Trades at a higher price than the one before' }),
      downtrades: z.number(),
    })
    .optional()
    .meta({ description: 'Left out in the first message, and where nothing was traded' }),
}).meta({ id: 'QuoteTick' })
export type QuoteTick = z.infer<typeof QuoteTick>

export const ReportView = z
  .object({
    symbol: z.string(),
    known: moment.meta({ description: 'When it became known' }),
    sharesOutstanding: z.number().optional(),
    float: z.number().optional(),
    eps: z.number().optional().meta({ description: 'Earnings per share of four quarters' }),
    epsGrowth: z.number().optional().meta({ description: 'Percent, against the four quarters before' }),
    nextEarnings: z.string().optional().meta({ description: 'Date of the next report' }),
    confirmed: z.boolean().optional().meta({ description: 'By the company; else estimated' }),
    beforeOpen: z
      .boolean()
      .optional()
      .meta({ description: 'Before the open of its day; else after the close' }),
  })
  .meta({ id: 'CompanyReport' })
export type ReportView = z.infer<typeof ReportView>

/** A security at a past second: its last price, and what was bid and asked. */
export const Tick = z
  .object({
    at: moment,
    last: z.number(),
    bid: z.number(),
    bidSize: z.number(),
    ask: z.number(),
    askSize: z.number(),
    volume: z.number().optional().meta({ description: 'Traded in that second' }),
  })
  .meta({ id: 'Tick' })
export type Tick = z.infer<typeof Tick>

/** By what an amount of one currency is converted into another. */
export const Rate = z
  .object({
    from: z.string(),
    to: z.string(),
    date: z.string().meta({ description: 'Of trades: the rate is that of the session before' }),
    rate: z.number().meta({ description: 'Units of `to` for a unit of `from`' }),
  })
  .meta({ id: 'Rate' })
export type Rate = z.infer<typeof Rate>

export const Clock = z
  .object({
    now: moment,
    running: z.boolean(),
    standsStill: z.string().optional().meta({ description: 'Why time does not pass though it should' }),
    rate: z.number().meta({ description: 'Market seconds for each real second' }),
    sessionTakes: z.number().meta({ description: 'Real seconds that a whole session takes at this rate' }),
    session: z.enum(['PreOpen', 'Open', 'Closed']),
  })
  .meta({ id: 'Clock' })
export type Clock = z.infer<typeof Clock>
