import { type Grid, readCsv } from '@/core/formats/csv'
import { FileFailure } from '@/core/formats/problems'
import { unpackedSize } from '@/core/formats/zipSize'

/** Larger files are refused before they are read. */
export const FILE_LIMIT = 10 * 1024 * 1024
export const ROW_LIMIT = 5_000
/** A small workbook may unpack to gigabytes: refused before it is unpacked. */
const UNPACKED_LIMIT = 200 * 1024 * 1024

/** Reads a CSV file or the first sheet of a workbook. Throws FileFailure. */
export async function readFile(file: File, rowLimit = ROW_LIMIT): Promise<Grid> {
  if (file.size > FILE_LIMIT)
    throw new FileFailure({ code: 'too_large', bytes: file.size, limit: FILE_LIMIT, unpacked: false })
  const head = new Uint8Array(await file.slice(0, 4).arrayBuffer())
  // "PK": a ZIP archive, as every workbook of ECMA-376 is. D0 CF is the older binary form.
  const isZip = head[0] === 0x50 && head[1] === 0x4b
  if (head[0] === 0xd0 && head[1] === 0xcf) throw new FileFailure({ code: 'old_workbook' })
  const grid = isZip ? await readWorkbook(file) : readCsv(await file.text())
  if (grid.rows.length > rowLimit)
    throw new FileFailure({ code: 'too_many_rows', rows: grid.rows.length, limit: rowLimit })
  return grid
}

async function readWorkbook(file: File): Promise<Grid> {
  // NaN is no sound archive: the reader says what is wrong with it.
  const unpacked = unpackedSize(new Uint8Array(await file.arrayBuffer()))
  if (unpacked > UNPACKED_LIMIT)
    throw new FileFailure({ code: 'too_large', bytes: unpacked, limit: UNPACKED_LIMIT, unpacked: true })
  const { readSheet } = await import('read-excel-file/browser')
  let data: unknown[][]
  try {
    data = (await readSheet(file)) as unknown[][]
  } catch (cause) {
    throw new FileFailure({ code: 'workbook_unreadable', reason: (cause as Error).message }, { cause })
  }
  const [header, ...rows] = data.map((row) => row.map(cellText))
  if (!header || header.every((cell) => cell === ''))
    throw new FileFailure({ code: 'no_header', workbook: true })
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
