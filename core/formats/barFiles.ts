import { type BadLine, type ColumnMap, matchColumns, missingFields, readBars } from './barsCsv'
import { type Grid } from './csv'
import { type Bars } from '../market/bars'
import { timeframeText } from '../market/timeframe'

/** A bars file that was read as rows of text. */
export interface ReadFile {
  name: string
  grid: Grid
}

export type FileBars = { symbol: string; bars: Bars }

/**
 * Reads several files as one set. The columns chosen for the first file hold for every file with the same
 * header; a file with another is matched by its own names. `mixed` says why files cannot be one set.
 */
export function readFiles(files: readonly ReadFile[], map: ColumnMap, zone: string) {
  const securities: FileBars[] = []
  const bad: (BadLine & { file: string })[] = []
  let good = 0
  let datesOnly = true
  for (const { name, grid } of files) {
    const own = grid.columns.join() === files[0].grid.columns.join() ? map : matchColumns(grid.columns)
    const missing = missingFields(own)
    if (missing.length > 0) {
      bad.push({ file: name, line: 1, reason: `no column for ${missing.join(', ')}` })
      continue
    }
    const read = readBars(grid, own, name.replace(/\.[^.]+$/, '').toUpperCase(), zone)
    good += read.good
    datesOnly &&= read.datesOnly
    bad.push(...read.bad.map((line) => ({ ...line, file: name })))
    for (const security of read.securities) {
      if (securities.some((s) => s.symbol === security.symbol))
        bad.push({
          file: name,
          line: 1,
          reason: `${security.symbol} came in an earlier file already; the first is kept`,
        })
      else securities.push(security)
    }
  }
  const frames = [...new Set(securities.map((s) => timeframeText(s.bars.every)))]
  const mixed =
    frames.length > 1
      ? `The files hold bars of different lengths (${frames.join(', ')}). Bring them as one set for each.`
      : undefined
  return { securities, bad, good, datesOnly, mixed }
}
