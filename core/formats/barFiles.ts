import { sayBar } from '../market/moments'
import { type Bars } from '../market/bars'
import { timeframeText } from '../market/timeframe'
import { type ColumnMap, guessColumns, looksLikeData, matchColumns, missingFields } from './barColumns'
import { readBars, type ReadBars } from './barsCsv'
import { type Grid, gridOf, readRows } from './csv'
import { type BadLine, type LineProblem } from './problems'

/** A bars file that was read as rows of text. */
export interface ReadFile {
  name: string
  grid: Grid
  /** False where its first line holds figures, so that columns are told by what they hold. */
  headed: boolean
}

export type FileBars = { symbol: string; bars: Bars }

/** A file's rows, its first line being names of columns or, where that holds figures, already a bar. */
export function openBarsText(name: string, text: string): ReadFile {
  const rows = readRows(text)
  const headed = !(rows[0] && looksLikeData(rows[0].cells))
  return { name, headed, grid: gridOf(rows, headed) }
}

/** Which column is which: by its name, and what names leave open by what the columns hold. */
export function columnsOf({ grid, headed }: ReadFile): ColumnMap {
  const named = headed ? matchColumns(grid.columns) : undefined
  return named && missingFields(named).length === 0 ? named : guessColumns(grid, named)
}

/** Symbol of a file that names none. */
export const symbolOf = (name: string): string => name.replace(/\.[^.]+$/, '').toUpperCase()

/** A line of a file, and what it is read as, or why it is left out. */
export interface FirstLine {
  line: number
  cells: string[]
  read?: {
    symbol: string
    when: string
    open: number
    high: number
    low: number
    close: number
    volume: number
  }
  problem?: LineProblem
}

/** Lines that stand under the choice of columns. */
const SHOWN = 5

export function firstLines({ grid }: ReadFile, read?: ReadBars): FirstLine[] {
  return grid.rows.slice(0, SHOWN).map(({ line, cells }): FirstLine => {
    for (const { symbol, bars, lines } of read?.securities ?? []) {
      const row = lines.indexOf(line)
      if (row < 0) continue
      const [open, high, low, close, volume] = (['open', 'high', 'low', 'close', 'volume'] as const).map(
        (name) => bars[name][row],
      )
      return { line, cells, read: { symbol, when: sayBar(bars, row), open, high, low, close, volume } }
    }
    return { line, cells, problem: read?.bad.find((bad) => bad.line === line)?.problem }
  })
}

/**
 * Reads several files as one set. The columns chosen for the first file hold for every file with the same
 * header; a file with another is matched by its own names. `mixed` holds the lengths of bars where they differ, so
 * that the files cannot be one set.
 */
export function readFiles(files: readonly ReadFile[], map: ColumnMap, zone: string) {
  const securities: FileBars[] = []
  const known = new Set<string>()
  const bad: (BadLine & { file: string })[] = []
  let good = 0
  let datesOnly = true
  let first: FirstLine[] = []
  for (const [k, file] of files.entries()) {
    const { name, grid, headed } = file
    const alike = headed === files[0].headed && grid.columns.join() === files[0].grid.columns.join()
    const own = alike ? map : columnsOf(file)
    const missing = missingFields(own)
    if (missing.length > 0) {
      bad.push({ file: name, line: 1, problem: { code: 'no_columns', columns: missing } })
      continue
    }
    const read = readBars(grid, own, symbolOf(name), zone)
    if (k === 0) first = firstLines(file, read)
    good += read.good
    if (read.good > 0) datesOnly &&= read.datesOnly
    bad.push(...read.bad.map((line) => ({ ...line, file: name })))
    for (const { symbol, bars } of read.securities) {
      if (known.has(symbol)) bad.push({ file: name, line: 1, problem: { code: 'earlier_file', symbol } })
      else securities.push({ symbol, bars })
      known.add(symbol)
    }
  }
  const frames = [...new Set(securities.map((s) => timeframeText(s.bars.every)))]
  const mixed = frames.length > 1 ? frames : undefined
  return { securities, bad, good, datesOnly, mixed, first }
}
