import { readdirSync, readFileSync, statSync } from 'node:fs'
import { basename, join } from 'node:path'
import { type BadLine, matchColumns, missingFields, readBars } from '../core/formats/barsCsv'
import { type Grid, readCsv } from '../core/formats/csv'
import { type Bars } from '../core/market/bars'
import { Failure, note } from './fail'

/** One security of a bars file. `dates` is the text of the date column for each bar, as the file has it. */
export interface FileSecurity {
  symbol: string
  bars: Bars
  lines: number[]
  dates: string[]
}

export interface BarsFile {
  path: string
  /** Header of the file's date column. */
  dateColumn: string
  securities: FileSecurity[]
}

/** Bad lines are told one by one up to here, then counted. */
const TOLD = 5

/** Reads one bars file, `-` being standard input. Bad lines are left out and told. Throws Failure. */
export function readBarsFile(path: string, zone: string): BarsFile {
  const name = path === '-' ? 'standard input' : path
  const grid = readGrid(path, name)
  const map = matchColumns(grid.columns)
  const missing = missingFields(map)
  if (missing.length > 0)
    throw new Failure(
      `${name}: no column for ${missing.join(', ')}. It has ${grid.columns.map((c) => `"${c}"`).join(', ')}. Name the columns date, open, high, low, close, volume.`,
    )
  const symbol =
    path === '-'
      ? 'STDIN'
      : basename(path)
          .replace(/\.[^.]+$/, '')
          .toUpperCase()
  const read = readBars(grid, map, symbol, zone)
  tellBadLines(name, read.bad)
  if (read.good === 0) throw new Failure(`${name}: no bars could be read from it.`)
  const cells = new Map(grid.rows.map((row) => [row.line, row.cells[map.time]]))
  return {
    path: name,
    dateColumn: grid.columns[map.time],
    securities: read.securities.map((s) => ({ ...s, dates: s.lines.map((line) => cells.get(line)!) })),
  }
}

function readGrid(path: string, name: string): Grid {
  try {
    return readCsv(readFileSync(path === '-' ? 0 : path, 'utf8'))
  } catch (error) {
    if (error instanceof RangeError) throw new Failure(`${name}: ${error.message}`)
    const { code, message } = error as NodeJS.ErrnoException
    if (code === 'ENOENT') throw new Failure(`${name}: there is no such file.`)
    if (code === 'EISDIR') throw new Failure(`${name} is a folder; name a file in it.`)
    if (code === 'EACCES') throw new Failure(`${name} may not be read by this user.`)
    throw new Failure(`${name} could not be read: ${message}`)
  }
}

function tellBadLines(name: string, bad: readonly BadLine[]): void {
  for (const { line, reason } of bad.slice(0, TOLD)) note(`${name}, line ${line} left out: ${reason}`)
  if (bad.length > TOLD) note(`${name}: ${bad.length - TOLD} more lines left out`)
}

/** Paths of bars files: folders are replaced by the CSV files in them, in order of name. Throws Failure. */
export function expandPaths(paths: readonly string[]): string[] {
  return paths.flatMap((path) => {
    if (path === '-') return ['-']
    const stat = statSync(path, { throwIfNoEntry: false })
    if (!stat) throw new Failure(`${path}: there is no such file or folder.`)
    if (!stat.isDirectory()) return [path]
    const files = readdirSync(path)
      .filter((name) => /\.csv$/i.test(name))
      .sort()
    if (files.length === 0) throw new Failure(`${path}: there are no CSV files in this folder.`)
    return files.map((name) => join(path, name))
  })
}

/** The securities of several files, each once: one that comes again is told and left out. Throws Failure. */
export function readAll(paths: readonly string[], zone: string): FileSecurity[] {
  const seen = new Map<string, string>()
  return paths.flatMap((path) => {
    const file = readBarsFile(path, zone)
    return file.securities.filter(({ symbol }) => {
      const before = seen.get(symbol)
      if (before === undefined) seen.set(symbol, file.path)
      else note(`${symbol} in ${file.path} left out: it came in ${before} already`)
      return before === undefined
    })
  })
}
