import { type Bars, sliceBars } from '../core/market/bars'
import { stampOf } from '../core/market/moments'
import { resample } from '../core/market/resample'
import { parseTimeframe, roughMinutes, type Timeframe, timeframeText } from '../core/market/timeframe'
import { type FileSecurity } from './barFiles'
import { EXIT, Failure } from './fail'

/** The timeframe that a text names. Throws Failure. */
export function timeframe(text: string): Timeframe {
  const every = parseTimeframe(text)
  if (every) return every
  throw new Failure(
    `"${text}" is not a timeframe. Write a whole number of min, hours, days, weeks or months, such as "1 week".`,
    EXIT.usage,
  )
}

/** The security with bars of a longer timeframe, those that are complete; as it is where it has them. Throws Failure. */
export function coarser(security: FileSecurity, every: Timeframe): FileSecurity {
  const { bars } = security
  if (timeframeText(bars.every) === timeframeText(every)) return security
  if (roughMinutes(every) < roughMinutes(bars.every))
    throw new Failure(
      `${security.symbol} has bars of ${timeframeText(bars.every)}; ${timeframeText(every)} is finer. Choose a longer one.`,
      EXIT.usage,
    )
  const made = complete(resample(bars, every).bars)
  return {
    ...security,
    bars: made,
    lines: Array.from(made.time, (_, row) => row),
    dates: Array.from(made.time, (start) => stampOf(made.every, made.zone, start)),
  }
}

function complete(bars: Bars): Bars {
  const n = bars.time.length
  return n > 0 && bars.end[n - 1] === Infinity ? sliceBars(bars, 0, n - 1) : bars
}
