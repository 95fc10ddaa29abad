import { writeCsv } from '../core/formats/csv'
import { barSource } from '../core/rules'
import { search } from '../core/rules/search'
import { measureColumn } from '../core/scan/hits'
import { type FileOptions, readBarsFiles } from './barFiles'
import { type Timeframe } from '../core/market/timeframe'
import { measureTree } from './expressions'
import { EXIT, Failure } from './fail'
import { marketGroup, type MarketOptions } from './market'
import { onlyOfMarket } from './securities'
import { coarser, timeframe } from './timeframe'

/** Rows of the broker's bars where nothing else is said. */
const SHOWN = 250

export interface IndicatorsOptions extends FileOptions, MarketOptions {
  bars?: string
  expr: string[]
  symbol?: string
  /** Prints what there is instead, or what fits a word. */
  list?: string | true
}

/**
 * Measures over the bars of one security as CSV: the file's date column, then a column for each expression, headed by its text; empty
 * where unknown. Rows stand in the file's order; without a file they are the broker's bars. Throws Failure.
 */
export async function indicators(options: IndicatorsOptions): Promise<string> {
  if (options.list !== undefined) return listed(options.list === true ? '' : options.list)
  if (options.expr.length === 0)
    throw new Failure('Name a measure with --expr, for example --expr "sma(close, 20)".', EXIT.usage)
  return options.bars === undefined ? ofMarket(options) : ofFile(options, options.bars)
}

function ofFile(options: IndicatorsOptions, path: string): string {
  onlyOfMarket(options)
  const { expr, every } = options
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

async function ofMarket({ expr, symbol, last = SHOWN, ...options }: IndicatorsOptions): Promise<string> {
  if (symbol === undefined)
    throw new Failure(
      'Name a file with --bars, or a security of the broker with --symbol; --list shows what can be measured.',
      EXIT.usage,
    )
  if (options.columns !== undefined)
    throw new Failure('--columns is for files: name one with --bars, or leave it out.', EXIT.usage)
  const treesOf = (every: Timeframe) => expr.map((text) => measureTree(text, every))
  const group = await marketGroup({ ...options, among: symbol.toUpperCase(), last }, treesOf)
  const { set, every, rows, dateOf } = group
  const [row] = rows
  if (row === undefined) throw new Failure(`The broker has no bars of ${symbol.toUpperCase()}.`)
  const name = set.symbols[row]
  const bars = set.bars[row]
  const source = barSource(bars, group.others?.(name), group.besides(name))
  const columns = treesOf(every).map((tree) => measureColumn(tree, source))
  // Bars before these are there for what looks back.
  const shown = Array.from(bars.time, (_, i) => i).slice(-last)
  return writeCsv(
    ['date', ...expr],
    shown.map((i) => [dateOf(name, i), ...columns.map((column) => column[i])]),
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
