import { writeCsv } from '@/core/formats/csv'
import { download } from '../shell/download'
import { type Column } from './DataTable'

/** Writes a table as a file, all rows, columns by their headers; XLSX keeps numbers as numbers. */
export async function exportTable<Row>(
  name: string,
  form: 'csv' | 'xlsx',
  rows: readonly Row[],
  columns: readonly Column<Row>[],
): Promise<void> {
  const named = columns.filter((column) => column.header !== '')
  const cells = rows.map((row) => named.map((column) => plain(column.value(row))))
  const headers = named.map((column) => column.header)
  if (form === 'csv') download(`${name}.csv`, writeCsv(headers, cells), 'text/csv')
  else
    download(
      `${name}.xlsx`,
      await workbook(name, headers, cells),
      'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    )
}

/** A figure as people write it, without the last digits that binary fractions make up. */
const plain = <T>(value: T): T | number =>
  typeof value === 'number' && Number.isFinite(value) ? Number(value.toPrecision(12)) : value

/** A workbook of one sheet (ECMA-376) with a bold header row. */
export async function workbook(
  name: string,
  headers: readonly string[],
  rows: readonly (readonly (string | number | undefined)[])[],
): Promise<Blob> {
  const { default: writeXlsxFile } = await import('write-excel-file/browser')
  const data = [
    headers.map((value) => ({ value, fontWeight: 'bold' as const })),
    ...rows.map((row) =>
      row.map((value) =>
        value === undefined || value === '' || (typeof value === 'number' && !Number.isFinite(value))
          ? null
          : { value, type: typeof value === 'number' ? Number : String },
      ),
    ),
  ]
  return (await writeXlsxFile(data as never, { sheet: name.slice(0, 31) })).toBlob()
}
