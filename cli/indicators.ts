import { writeCsv } from '../core/formats/csv'
import { barSource } from '../core/rules'
import { measureColumn } from '../core/scan/hits'
import { readBarsFile } from './barFiles'
import { measureTree } from './expressions'
import { EXIT, Failure } from './fail'

export interface IndicatorsOptions {
  bars: string
  expr: string[]
  symbol?: string
  zone: string
}

/**
 * Measures over the bars of one security as CSV: the file's date column, then a column for each expression,
 * headed by its text; empty where unknown. Rows stand in the file's order. Throws Failure.
 */
export function indicators({ bars: path, expr, symbol, zone }: IndicatorsOptions): string {
  const file = readBarsFile(path, zone)
  const wanted = symbol?.toUpperCase()
  const names = file.securities.map((s) => s.symbol)
  if (!wanted && names.length > 1)
    throw new Failure(
      `${file.path} holds ${names.length} securities. Choose one with --symbol, for example --symbol ${names[0]}`,
      EXIT.usage,
    )
  const security = wanted ? file.securities.find((s) => s.symbol === wanted) : file.securities[0]
  if (!security)
    throw new Failure(`${file.path} has no ${wanted}. It has ${names.slice(0, 12).join(', ')}.`, EXIT.usage)
  const { bars, lines, dates } = security
  const source = barSource(bars)
  const columns = expr.map((text) => measureColumn(measureTree(text, bars.every), source))
  const order = lines.map((_, row) => row).sort((a, b) => lines[a] - lines[b])
  return writeCsv(
    [file.dateColumn, ...expr],
    order.map((row) => [dates[row], ...columns.map((column) => column[row])]),
    '\n',
  )
}
