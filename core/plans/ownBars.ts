import * as z from 'zod'
import { type Bars, completedBy, emptyBars, SERIES, sliceBars } from '../market/bars'
import { sayEnd, stamper } from '../market/moments'
import { isIntraday, parseTimeframe, roughMinutes, type Timeframe, timeframeText } from '../market/timeframe'
import { resampledWhole } from '../market/resample'

/** Bars of one security that a plan carries at most. */
const MOST = 20_000
const DAY = 86_400_000
/** A date, or a moment with its offset. */
const WHEN = /^\d{4}-\d{2}-\d{2}(T\d{2}:\d{2}(:\d{2}(\.\d+)?)?(Z|[+-]\d{2}:\d{2}))?$/

const isDate = (text: string): boolean => text.length === 10

const isZone = (zone: string): boolean => {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: zone }).format(0) !== ''
  } catch {
    return false
  }
}

const price = z.array(z.number().positive()).max(MOST)
const number = z.array(z.number().nonnegative().nullable()).max(MOST)

/** Bars of the trader's own of one security, in columns of equal length, oldest first. */
export const OwnBars = z
  .strictObject({
    every: z
      .string()
      .refine((text) => parseTimeframe(text) !== undefined, {
        message: 'is no timeframe; use one such as 5 min, 1 hour or 1 day',
      })
      .meta({ description: 'Length of a bar' }),
    zone: z
      .string()
      .max(60)
      .refine(isZone, { message: 'is no time zone; use one such as UTC or Europe/Lisbon' })
      .meta({ description: 'IANA zone in which its days are counted; UTC of whole days' }),
    time: z
      .array(
        z.string().refine((text) => WHEN.test(text) && !Number.isNaN(Date.parse(text)), {
          message: 'is neither a date nor a moment with its offset, such as 2026-03-12T14:35:00Z',
        }),
      )
      .min(1)
      .max(MOST)
      .meta({ description: 'When each starts: a date, or a moment with its offset' }),
    open: price,
    high: price,
    low: price,
    close: price,
    volume: number.optional(),
    uptrades: number.optional(),
    downtrades: number.optional(),
  })
  .superRefine((own, ctx) => {
    const wrong = (path: (string | number)[], message: string) =>
      ctx.addIssue({ code: 'custom', path, message })
    for (const name of COLUMNS)
      if (own[name] && own[name].length !== own.time.length)
        wrong([name], `has ${own[name].length} values, and time ${own.time.length}: give one of each bar`)
    const days = !isIntraday(parseTimeframe(own.every) ?? { count: 1, unit: 'min' })
    if (days && own.zone !== 'UTC') wrong(['zone'], 'is UTC of bars of whole days')
    const other = own.time.findIndex((time) => isDate(time) !== days)
    if (other >= 0)
      wrong(
        ['time', other],
        days
          ? 'is a moment: name bars of whole days by their date'
          : 'is a date: give the moment at which the bar starts',
      )
    const later = own.time.findIndex((time, i) => i > 0 && !(Date.parse(time) > Date.parse(own.time[i - 1])))
    if (later > 0) wrong(['time', later], 'comes no later than the one before it: put the oldest first')
  })
export type OwnBars = z.infer<typeof OwnBars>

/** A name under which rule text reads bars of one's own. */
export const OwnName = z
  .string()
  .max(64)
  .refine((name) => name === name.toUpperCase(), { message: 'is written in capitals, as rule text reads it' })

const COLUMNS = [...SERIES, 'uptrades', 'downtrades'] as const

/** When a bar that starts at a moment is over. */
function endOf(every: Timeframe, time: number): number {
  if (isIntraday(every)) return time + roughMinutes(every) * 60_000
  if (every.unit !== 'month') return time + every.count * (every.unit === 'week' ? 7 : 1) * DAY
  const start = new Date(time)
  return start.setUTCMonth(start.getUTCMonth() + every.count)
}

const made = new WeakMap<OwnBars, Bars>()

/** The same as columns of numbers; made once of each. */
export function barsOfOwn(own: OwnBars): Bars {
  const before = made.get(own)
  if (before) return before
  const every = parseTimeframe(own.every)!
  const bars = emptyBars(own.time.length, every, own.zone)
  for (const [i, text] of own.time.entries()) {
    bars.time[i] = Date.parse(text)
    bars.end[i] = endOf(every, bars.time[i])
  }
  for (const name of COLUMNS) {
    const values = own[name]
    if (values) bars[name] = Float64Array.from(values, (value) => value ?? NaN)
  }
  made.set(own, bars)
  return bars
}

/** The newest of some bars as a plan carries them, so many at most; undefined where none is complete. */
export function carriedBars(given: Bars, most: number): OwnBars | undefined {
  const whole = completedBy(given, Number.MAX_VALUE)
  const n = whole.time.length
  if (n === 0) return undefined
  const bars = sliceBars(whole, Math.max(0, n - Math.min(most, MOST)), n)
  const { every, zone, uptrades, downtrades } = bars
  const known = (values: Float64Array) =>
    Array.from(values, (value) => (Number.isFinite(value) ? value : null))
  return {
    ...{ every: timeframeText(every), zone, time: Array.from(bars.time, stamper(every, zone)) },
    ...{ open: [...bars.open], high: [...bars.high], low: [...bars.low], close: [...bars.close] },
    volume: known(bars.volume),
    ...(uptrades ? { uptrades: known(uptrades) } : {}),
    ...(downtrades ? { downtrades: known(downtrades) } : {}),
  }
}

/**
 * Bars of one's own as they are fed to rule text that is asked of bars of a length: finer ones are made as long, as far as they are
 * complete; longer ones are fed as they are, and rule text reads them on their own length alone (see unfitBars).
 */
export function fedAs(own: OwnBars, every: Timeframe): Bars {
  return { ...resampledWhole(barsOfOwn(own), every), every }
}

/** Of bars of one's own, for people: "412 bars of 1 day, up to the close of Thu 12 Mar 2026". */
export function ownBarsText(own: OwnBars): string {
  const { every, zone, end } = barsOfOwn(own)
  const n = end.length
  return `${n} ${n === 1 ? 'bar' : 'bars'} of ${timeframeText(every)}, up to ${sayEnd(every, zone, end[n - 1])}`
}
