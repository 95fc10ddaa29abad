import { type Report } from './report'

export type { Report }

/** What is known of a company besides its prices (see rules/words/figures). */
export type FigureName =
  | 'shares outstanding'
  | 'float'
  | 'market value'
  | 'earnings per share'
  | 'earnings growth'
  | 'days to earnings'
  | 'earnings confirmed'
  | 'earnings before open'

/** A day as a number, for counting days between dates; NaN for what is no date. */
export const dayNumber = (date: string): number => Math.floor(Date.parse(`${date}T00:00:00Z`) / 86_400_000)

/** Days of the calendar from a date to the next report of earnings, as known at a moment; NaN where none is known. */
export function daysToEarnings(reports: readonly Report[], at: number, date: string): number {
  const next = reports.findLast((one) => one.known <= at && one.nextEarnings !== undefined)?.nextEarnings
  const days = next === undefined ? NaN : dayNumber(next) - dayNumber(date)
  return days >= 0 ? days : NaN
}

/**
 * A figure at each bar: what was known when the bar was complete, from reports in the order of their time.
 * `end`, `close` and `session` are columns of the bars. Unknown before the first report that has it.
 */
export function figureColumn(
  name: FigureName,
  reports: readonly Report[],
  { end, close, session }: { end: Float64Array; close: Float64Array; session: Float64Array },
  out: Float64Array,
): void {
  let next = 0
  const now: Report = { known: -Infinity }
  for (let i = 0; i < out.length; i++) {
    while (next < reports.length && reports[next].known <= end[i]) Object.assign(now, reports[next++])
    out[i] = valueOf(name, now, close[i], session[i])
  }
}

function valueOf(name: FigureName, now: Report, close: number, session: number): number {
  switch (name) {
    case 'shares outstanding':
      return now.sharesOutstanding ?? NaN
    case 'float':
      return now.float ?? NaN
    case 'market value':
      return (now.sharesOutstanding ?? NaN) * close
    case 'earnings per share':
      return now.eps ?? NaN
    case 'earnings growth':
      return now.epsGrowth ?? NaN
    default: {
      const days = now.nextEarnings === undefined ? NaN : dayNumber(now.nextEarnings) - session
      // A date that has gone by says nothing of the next report.
      if (!(days >= 0)) return NaN
      if (name === 'days to earnings') return days
      const flag = name === 'earnings confirmed' ? now.confirmed : now.beforeOpen
      return flag === undefined ? NaN : Number(flag)
    }
  }
}
