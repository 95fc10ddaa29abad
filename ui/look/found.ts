import { type Bars, sliceBars } from '@/core/market/bars'
import { dateIn } from '@/core/market/moments'
import { isIntraday } from '@/core/market/timeframe'

/** How far the start of a day may lie from that date's midnight in UTC, and a day more. */
const SLACK = 2 * 86_400_000

/** Row of the bar that an address names by its start: a date for days and longer; undefined where it is not there. */
export function barNamed(bars: Bars, name: string | undefined): number | undefined {
  if (name === undefined) return undefined
  const intraday = isIntraday(bars.every)
  const moment = Date.parse(name)
  for (let row = bars.time.length - 1; row >= 0; row--) {
    const away = bars.time[row] - moment
    // Rows only get earlier.
    if (away < -SLACK) return undefined
    // A date is dear to ask for: only of bars that are near.
    if (intraday ? away === 0 : away < SLACK && dateIn(bars.time[row], bars.zone) === name) return row
  }
  return undefined
}

/**
 * The bars as a scan looked at them: from its first bar on, since an average that began earlier is another one. All of
 * them where that bar is not among them.
 */
export function asFound(bars: Bars, first: string | undefined): Bars {
  const row = barNamed(bars, first)
  return row === undefined || row === 0 ? bars : sliceBars(bars, row, bars.time.length)
}
