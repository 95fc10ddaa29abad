import { readdirSync, readFileSync, statSync } from 'node:fs'
import { basename, join } from 'node:path'
import { isZip, unpackTexts } from '../core/formats/archive'
import { BAR_FIELDS, type BarField, type ColumnMap, missingFields } from '../core/formats/barColumns'
import { columnsOf, openBarsText, type ReadFile, symbolOf } from '../core/formats/barFiles'
import { readBars } from '../core/formats/barsCsv'
import { decodeText } from '../core/formats/decodeText'
import { type BadLine, FileFailure } from '../core/formats/problems'
import { sayFile, sayLine } from '../core/formats/say'
import { type Bars } from '../core/market/bars'
import { EXIT, Failure, note } from './fail'

/** How bars files are to be read. */
export interface FileOptions {
  zone: string
  /** Columns by name or number, "date=Datum,close=5"; found by their names and what they hold where left out. */
  columns?: string
}

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

/** Bad lines are shown one by one up to here, then counted. */
const TOLD = 5

/** Reads the bars of a file, `-` being standard input, or of every file of an archive. Throws Failure. */
export function readBarsFiles(path: string, options: FileOptions): BarsFile[] {
  const name = path === '-' ? 'standard input' : path
  const bytes = bytesOf(path, name)
  const texts = guarded(name, () =>
    isZip(bytes)
      ? unpackTexts(bytes).map((text) => ({ shown: `${name}, ${text.name}`, ...text }))
      : [{ shown: name, name: path === '-' ? 'stdin' : basename(path), bytes }],
  )
  return texts.map(({ shown, name: own, bytes: part }) =>
    readOne(
      shown,
      guarded(shown, () => openBarsText(own, decodeText(part))),
      options,
    ),
  )
}

function readOne(shown: string, file: ReadFile, { zone, columns }: FileOptions): BarsFile {
  const { grid } = file
  const map =
    columns === undefined ? columnsOf(file) : { ...columnsOf(file), ...chosenColumns(columns, file) }
  const missing = missingFields(map)
  if (missing.length > 0)
    throw new Failure(
      `${shown}: no column for ${missing.join(', ')}. It has ${grid.columns.map((c) => `"${c}"`).join(', ')}. Name them, for example --columns ${missing[0]}="${grid.columns[0]}".`,
    )
  if (!file.headed && columns === undefined)
    note(
      `${shown} names no columns; taken for ${BAR_FIELDS.filter((f) => map[f] >= 0)
        .map((f) => `${f}=${map[f] + 1}`)
        .join(',')} (--columns says otherwise)`,
    )
  const read = readBars(grid, map, symbolOf(file.name), zone)
  tellBadLines(shown, read.bad)
  if (read.good === 0) throw new Failure(`${shown}: no bars could be read from it.`)
  const when = (cells: readonly string[]) =>
    map.time >= 0 ? `${cells[map.date]} ${cells[map.time]}` : cells[map.date]
  const cells = new Map(grid.rows.map((row) => [row.line, when(row.cells)]))
  return {
    path: shown,
    dateColumn: file.headed ? grid.columns[map.date] : 'date',
    securities: read.securities.map((s) => ({ ...s, dates: s.lines.map((line) => cells.get(line)!) })),
  }
}

/** Fields and columns as they were named on the command line; `time` without a date column is the time of day. */
function chosenColumns(text: string, { grid }: ReadFile): Partial<ColumnMap> {
  const out: Partial<ColumnMap> = {}
  const parts = text.match(/[^,"]*(?:"[^"]*"[^,"]*)*/g)!.filter((part) => part.trim() !== '')
  for (const part of parts) {
    const at = part.indexOf('=')
    const field = part.slice(0, at).trim().toLowerCase() as BarField
    const column = part
      .slice(at + 1)
      .trim()
      .replace(/^"(.*)"$/, '$1')
    if (at < 0 || !BAR_FIELDS.includes(field))
      throw new Failure(
        `--columns: "${part.trim()}" names no field. Write field=column, the fields being ${BAR_FIELDS.join(', ')}.`,
        EXIT.usage,
      )
    const named = grid.columns.findIndex((name) => name.toLowerCase() === column.toLowerCase())
    const numbered = /^\d+$/.test(column) ? Number(column) - 1 : -1
    const found = named >= 0 ? named : numbered
    if (found < 0 || found >= grid.columns.length)
      throw new Failure(
        `--columns: there is no column "${column}". There are ${grid.columns.map((c) => `"${c}"`).join(', ')}.`,
        EXIT.usage,
      )
    out[field] = found
  }
  return out
}

function bytesOf(path: string, name: string): Uint8Array {
  try {
    return readFileSync(path === '-' ? 0 : path)
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException
    if (code === 'ENOENT') throw new Failure(`${name}: there is no such file.`)
    if (code === 'EISDIR') throw new Failure(`${name} is a folder; name a file in it.`)
    if (code === 'EACCES') throw new Failure(`${name} may not be read by this user.`)
    throw new Failure(`${name} could not be read: ${message}`)
  }
}

/** What core says of a file, with the file's name before it. */
function guarded<T>(name: string, read: () => T): T {
  try {
    return read()
  } catch (error) {
    if (error instanceof FileFailure) throw new Failure(`${name}: ${sayFile(error.problem)}`)
    throw error
  }
}

function tellBadLines(name: string, bad: readonly BadLine[]): void {
  for (const { line, problem } of bad.slice(0, TOLD))
    note(`${name}, line ${line} left out: ${sayLine(problem)}`)
  if (bad.length > TOLD) note(`${name}: ${bad.length - TOLD} more lines left out`)
}

/** Paths of bars files: folders are replaced by the files of bars in them, in order of name. Throws Failure. */
export function expandPaths(paths: readonly string[]): string[] {
  return paths.flatMap((path) => {
    if (path === '-') return ['-']
    const stat = statSync(path, { throwIfNoEntry: false })
    if (!stat) throw new Failure(`${path}: there is no such file or folder.`)
    if (!stat.isDirectory()) return [path]
    const files = readdirSync(path)
      .filter((name) => /\.(csv|txt|tsv|prn|zip)$/i.test(name))
      .sort()
    if (files.length === 0) throw new Failure(`${path}: there are no CSV files in this folder.`)
    return files.map((name) => join(path, name))
  })
}

/** The securities of several files, each once: one that comes again is shown and left out. Throws Failure. */
export function readAll(paths: readonly string[], options: FileOptions): FileSecurity[] {
  const seen = new Map<string, string>()
  return paths
    .flatMap((path) => readBarsFiles(path, options))
    .flatMap((file) =>
      file.securities.filter(({ symbol }) => {
        const before = seen.get(symbol)
        if (before === undefined) seen.set(symbol, file.path)
        else note(`${symbol} in ${file.path} left out: it came in ${before} already`)
        return before === undefined
      }),
    )
}
