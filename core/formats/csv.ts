import Papa from 'papaparse'
import { FileFailure } from './problems'

/** A file of rows and columns as text, from CSV or a workbook. */
export interface Grid {
  columns: string[]
  /** `line` is the line or row number in the file, the header being 1. */
  rows: { line: number; cells: string[] }[]
}

/** Cells that a spreadsheet would take for a formula are quoted, so that an export cannot run anything. */
const FORMULA = /^[=+\-@\t\r](?!\d)/

/**
 * Writes rows as CSV (RFC 4180: commas, CRLF, quotes where needed). Unknown numbers are empty. Text that goes
 * to another program on a terminal ends its lines with "\n".
 */
export function writeCsv(
  columns: readonly string[],
  rows: readonly (readonly (string | number | undefined)[])[],
  newline: '\r\n' | '\n' = '\r\n',
): string {
  const data = rows.map((row) =>
    row.map((cell) => (cell === undefined || (typeof cell === 'number' && Number.isNaN(cell)) ? '' : cell)),
  )
  const text = Papa.unparse(
    { fields: [...columns], data: data as (string | number)[][] },
    { newline, escapeFormulae: FORMULA },
  )
  return text.endsWith(newline) ? text : text + newline
}

/** The delimiter that splits the header line into most columns; a comma where none does. */
function delimiterOf(text: string): string {
  const columns = (delimiter: string) =>
    Papa.parse<string[]>(text, { delimiter, preview: 1 }).data[0]?.length ?? 0
  return [',', ';', '\t', '|'].reduce((best, next) => (columns(next) > columns(best) ? next : best))
}

/**
 * Rows of CSV text, empty ones passed over, each with its line in the file; the delimiter is found out (comma,
 * semicolon, tab). Throws FileFailure where a quote is never closed.
 */
export function readRows(text: string): { line: number; cells: string[] }[] {
  const plain = text.replace(/^\uFEFF/, '')
  const parsed = Papa.parse<string[]>(plain, { delimiter: delimiterOf(plain), skipEmptyLines: false })
  const broken = parsed.errors.find((error) => error.type === 'Quotes')
  if (broken) throw new FileFailure({ code: 'quote_open', line: (broken.row ?? 0) + 1 })
  return parsed.data
    .map((cells, i) => ({ line: i + 1, cells: cells.map((cell) => cell.trim()) }))
    .filter(({ line, cells }) => line === 1 || cells.some((cell) => cell !== ''))
}

/** Rows as a grid: the first names the columns, or where it does not they are counted. Throws FileFailure for none. */
export function gridOf(rows: { line: number; cells: string[] }[], headed = true): Grid {
  const [first, ...rest] = rows
  if (!first || first.cells.every((cell) => cell === ''))
    throw new FileFailure({ code: 'no_header', workbook: false })
  return headed
    ? { columns: first.cells, rows: rest }
    : { columns: first.cells.map((_, i) => `column ${i + 1}`), rows }
}

/**
 * Reads CSV with a header line; empty lines are passed over. Throws FileFailure where there is no header or a quote is
 * never closed.
 */
export const readCsv = (text: string): Grid => gridOf(readRows(text))
