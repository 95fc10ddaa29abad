import { writeCsv } from '../core/formats/csv'
import { timeframeText } from '../core/market/timeframe'
import { breadth as breadthOf, sayBreadth } from '../core/scan/breadth'
import { expandPaths, readAll } from './barFiles'
import { EXIT, Failure, note } from './fail'

export interface BreadthOptions {
  bars: string[]
  lookBack: number
  last: number
  zone: string
}

/**
 * How the securities of some files moved together, as CSV: a row for each date with counts of new closing highs
 * and lows, of rises and falls, and the shares above the 50 and 200 averages in percent. Throws Failure.
 */
export function breadth({ bars: paths, lookBack, last, zone }: BreadthOptions): string {
  const securities = readAll(expandPaths(paths), zone)
  const frames = new Set(securities.map((s) => timeframeText(s.bars.every)))
  if (frames.size > 1)
    throw new Failure(
      `The files hold bars of different lengths (${[...frames].join(', ')}). Name those of one.`,
      EXIT.usage,
    )
  const all = breadthOf(
    securities.map((s) => s.bars),
    lookBack,
  )
  const dates = new Map(securities.flatMap((s) => s.dates.map((date, i) => [s.bars.time[i], date])))
  note(sayBreadth(all, lookBack))
  const rows = Array.from(all.time, (moment, row) => [
    dates.get(moment)!,
    all.counted[row],
    all.highs[row],
    all.lows[row],
    all.advancing[row],
    all.declining[row],
    all.above50[row],
    all.above200[row],
  ])
  return writeCsv(
    ['date', 'counted', 'highs', 'lows', 'advancing', 'declining', 'above 50 %', 'above 200 %'],
    rows.slice(-last),
    '\n',
  )
}
