import { writeCsv } from '../core/formats/csv'
import { timeframeText } from '../core/market/timeframe'
import { breadth as breadthOf, sayBreadth } from '../core/scan/breadth'
import { EXIT, Failure, note } from './fail'
import { filesOf, type FilesOptions } from './securities'

export interface BreadthOptions extends FilesOptions {
  lookBack: number
  last: number
}

/**
 * How the securities of some files moved together, as CSV: a row for each date with counts of new closing highs
 * and lows, of rises and falls, and the shares above the 50 and 200 averages in percent. Throws Failure.
 */
export function breadth({ lookBack, last, ...options }: BreadthOptions): string {
  const groups = filesOf(options)
  if (groups.length > 1)
    throw new Failure(
      `The files hold bars of different lengths (${groups.map((g) => timeframeText(g.every)).join(', ')}). Name those of one, or make all into one with --every.`,
      EXIT.usage,
    )
  const [{ set, rows: chosen, dateOf }] = groups
  const all = breadthOf(
    chosen.map((i) => set.bars[i]),
    lookBack,
  )
  const dates = new Map(
    chosen.flatMap((i) =>
      Array.from(set.bars[i].time, (t, row) => [t, dateOf(set.symbols[i], row)] as const),
    ),
  )
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
