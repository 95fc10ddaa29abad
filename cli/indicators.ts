import { writeCsv } from '../core/formats/csv'
import { barSource } from '../core/rules'
import { search } from '../core/rules/search'
import { measureColumn } from '../core/scan/hits'
import { type FileOptions, readBarsFiles } from './barFiles'
import { measureTree } from './expressions'
import { EXIT, Failure } from './fail'
import { coarser, timeframe } from './timeframe'

export interface IndicatorsOptions extends FileOptions {
  bars?: string
  expr: string[]
  symbol?: string
  /** Timeframe to make the bars into first. */
  every?: string
  /** Prints what there is instead, or what fits a word. */
  list?: string | true
}

/**
 * Measures over the bars of one security as CSV: the file's date column, then a column for each expression,
 * headed by its text; empty where unknown. Rows stand in the file's order. Throws Failure.
 */
export function indicators(options: IndicatorsOptions): string {
  if (options.list !== undefined) return listed(options.list === true ? '' : options.list)
  const { bars: path, expr, every } = options
  if (path === undefined)
    throw new Failure('Name a file with --bars, or see what there is with --list.', EXIT.usage)
  if (expr.length === 0)
    throw new Failure('Name a measure with --expr, for example --expr "sma(close, 20)".', EXIT.usage)
  const files = readBarsFiles(path, options)
  const securities = files.flatMap((file) => file.securities)
  const wanted = options.symbol?.toUpperCase()
  const names = securities.map((s) => s.symbol)
  if (!wanted && names.length > 1)
    throw new Failure(
      `${path} holds ${names.length} securities. Choose one with --symbol, for example --symbol ${names[0]}`,
      EXIT.usage,
    )
  const read = wanted ? securities.find((s) => s.symbol === wanted) : securities[0]
  if (!read)
    throw new Failure(`${path} has no ${wanted}. It has ${names.slice(0, 12).join(', ')}.`, EXIT.usage)
  const { bars, lines, dates } = every === undefined ? read : coarser(read, timeframe(every))
  const source = barSource(bars)
  const columns = expr.map((text) => measureColumn(measureTree(text, bars.every), source))
  const order = lines.map((_, row) => row).sort((a, b) => lines[a] - lines[b])
  return writeCsv(
    [files[0].dateColumn, ...expr],
    order.map((row) => [dates[row], ...columns.map((column) => column[row])]),
    '\n',
  )
}

/** Everything that can be measured, or what fits a word by name or explanation: how it is written and what it is. */
function listed(word: string): string {
  const found = search(word)
  if (found.length === 0)
    throw new Failure(`Nothing fits "${word}". heron indicators --list shows everything.`, EXIT.usage)
  const width = Math.min(40, Math.max(...found.map((entry) => entry.usage.length)))
  const rows = found.map((entry) => {
    const outputs = entry.outputs.length > 0 ? ` Gives ${entry.outputs.map((o) => `.${o}`).join(' ')}.` : ''
    return `${entry.usage.padEnd(width)}  ${entry.doc}${outputs}`
  })
  return `${rows.join('\n')}\n`
}
