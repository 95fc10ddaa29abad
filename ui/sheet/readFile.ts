import { type Grid, readCsv } from '@/core/formats/csv'
import { unpackedSize } from '@/core/formats/zipSize'

/** Larger files are refused before they are read. */
export const FILE_LIMIT = 10 * 1024 * 1024
export const ROW_LIMIT = 5_000
/** A small workbook may unpack to gigabytes: refused before it is unpacked. */
const UNPACKED_LIMIT = 200 * 1024 * 1024

/** Reads a CSV file or the first sheet of a workbook. Throws RangeError that says what to do. */
export async function readFile(file: File, rowLimit = ROW_LIMIT): Promise<Grid> {
  if (file.size > FILE_LIMIT)
    throw new RangeError(
      `${file.name} has ${Math.round(file.size / 1024 / 1024)} MB; at most ${FILE_LIMIT / 1024 / 1024} MB are read. Split it.`,
    )
  const head = new Uint8Array(await file.slice(0, 4).arrayBuffer())
  // "PK": a ZIP archive, as every workbook of ECMA-376 is. D0 CF is the older binary form.
  const isZip = head[0] === 0x50 && head[1] === 0x4b
  if (head[0] === 0xd0 && head[1] === 0xcf)
    throw new RangeError(`${file.name} is a workbook of the old binary form. Save it as .xlsx or .csv.`)
  const grid = isZip ? await readWorkbook(file) : readCsv(await file.text())
  if (grid.rows.length > rowLimit)
    throw new RangeError(
      `${file.name} has ${grid.rows.length.toLocaleString('en-US')} rows; at most ${rowLimit.toLocaleString('en-US')} are read. Split it.`,
    )
  return grid
}

async function readWorkbook(file: File): Promise<Grid> {
  // NaN is no sound archive: the reader says what is wrong with it.
  const unpacked = unpackedSize(new Uint8Array(await file.arrayBuffer()))
  if (unpacked > UNPACKED_LIMIT)
    throw new RangeError(
      `${file.name} would unpack to ${Math.round(unpacked / 1024 / 1024)} MB; at most ${UNPACKED_LIMIT / 1024 / 1024} MB are read. Save the sheet as CSV.`,
    )
  const { readSheet } = await import('read-excel-file/browser')
  let data: unknown[][]
  try {
    data = (await readSheet(file)) as unknown[][]
  } catch (cause) {
    throw new RangeError(
      `${file.name} cannot be read as a workbook: ${(cause as Error).message}. Save it again as .xlsx, or as .csv.`,
      { cause },
    )
  }
  const [header, ...rows] = data.map((row) => row.map(cellText))
  if (!header || header.every((cell) => cell === ''))
    throw new RangeError(`The first sheet of ${file.name} has no header row. Name the columns in row 1.`)
  return {
    columns: header,
    rows: rows
      .map((cells, i) => ({ line: i + 2, cells }))
      .filter(({ cells }) => cells.some((cell) => cell !== '')),
  }
}

function cellText(cell: unknown): string {
  if (cell === null || cell === undefined) return ''
  if (cell instanceof Date) return cell.toISOString().replace(/T00:00:00\.000Z$/, '')
  return String(cell).trim()
}
