import { type ScanRow } from './scan'

/** By which value the rows of a scan are ranked: `symbol`, `close`, `change`, `hits`, or "measure …" with its text. */
export interface ScanOrder {
  by: string
  down: boolean
}

/**
 * Rows in the order asked, unknown values last whichever way it goes; those alike stay as they were. An order by a
 * column that is not there leaves the rows as they are.
 */
export function ranked(
  rows: readonly ScanRow[],
  order: ScanOrder | undefined,
  measureTexts: readonly string[],
): ScanRow[] {
  const value = order && valueOf(order.by, measureTexts)
  if (!value) return [...rows]
  const way = order.down ? -1 : 1
  return [...rows].sort((a, b) => {
    const [x, y] = [value(a), value(b)]
    if (typeof x === 'string' || typeof y === 'string') return way * String(x).localeCompare(String(y))
    if (Number.isNaN(x) || Number.isNaN(y)) return Number(Number.isNaN(x)) - Number(Number.isNaN(y))
    return way * (x - y)
  })
}

function valueOf(by: string, texts: readonly string[]): ((row: ScanRow) => number | string) | undefined {
  if (by === 'symbol') return (row) => row.symbol
  if (by === 'close' || by === 'change' || by === 'hits') return (row) => row[by]
  const at = texts.indexOf(by.replace(/^measure /, ''))
  return at < 0 ? undefined : (row) => row.values[at]
}
