import { readFileSync } from 'node:fs'
import { readSymbols } from '../core/formats/symbolList'
import { type BarSet } from '../core/market/barTable'
import { type Timeframe, timeframeText } from '../core/market/timeframe'
import { barSource, type BarSource, type Besides } from '../core/rules'
import { expandPaths, type FileOptions, type FileSecurity, readAll } from './barFiles'
import { Failure, note } from './fail'
import { coarser, timeframe } from './timeframe'

/** What the commands over many securities have in common. */
export interface SecuritiesOptions extends FileOptions {
  bars: string[]
  /** Timeframe to make the bars into; as they are in the files where left out. */
  every?: string
  /** Symbols between commas, or @file with a list of them; all where left out. */
  among?: string
  /** Which of the securities "index" stands for in beside("index", x). */
  index?: string
}

/** Securities of one timeframe, with a way from each to the others. */
export interface Group {
  every: Timeframe
  set: BarSet
  /** Rows of the set that are to be looked at; the others are there to be compared with. */
  rows: number[]
  besides(symbol: string): Besides
  /** A bar's date as people write it: the file's own text where the bars are as in the file. */
  dateOf(symbol: string, row: number): string
}

/** Reads the files and groups their securities by timeframe. Throws Failure. */
export function readSecurities(options: SecuritiesOptions): Group[] {
  const wanted = options.every === undefined ? undefined : timeframe(options.every)
  const read = readAll(expandPaths(options.bars), options)
  if (read.length === 0) throw new Failure('There are no bars to look at.')
  const among = options.among === undefined ? undefined : amongOf(options.among, read)
  const groups = new Map<string, FileSecurity[]>()
  for (const security of read) {
    const made = wanted ? coarser(security, wanted) : security
    const key = timeframeText(made.bars.every)
    const group = groups.get(key)
    if (group) group.push(made)
    else groups.set(key, [made])
  }
  return Array.from(groups.values(), (securities) => groupOf(securities, among, options.index))
}

/** Symbols that were asked for; those that the files do not hold are told. */
function amongOf(text: string, read: readonly FileSecurity[]): ReadonlySet<string> {
  let list = text
  if (text.startsWith('@')) {
    try {
      list = readFileSync(text.slice(1), 'utf8')
    } catch {
      throw new Failure(`${text.slice(1)}: this list could not be read.`)
    }
  }
  const { symbols, unknown } = readSymbols(list, new Set(read.map((s) => s.symbol)))
  if (unknown.length > 0)
    note(
      `not in the bars and left out: ${unknown
        .slice(0, 8)
        .map((u) => u.word)
        .join(', ')}${unknown.length > 8 ? ` and ${unknown.length - 8} more` : ''}`,
    )
  return new Set(symbols)
}

function groupOf(
  securities: readonly FileSecurity[],
  among: ReadonlySet<string> | undefined,
  index: string | undefined,
): Group {
  const set = { symbols: securities.map((s) => s.symbol), bars: securities.map((s) => s.bars) }
  const rowOf = new Map(set.symbols.map((symbol, i) => [symbol, i]))
  const made = new Map<string, BarSource | undefined>()
  const besides: Besides = {
    beside(name) {
      const symbol = name === 'index' ? (index ?? '').toUpperCase() : name
      if (!made.has(symbol)) {
        const row = rowOf.get(symbol)
        made.set(symbol, row === undefined ? undefined : barSource(set.bars[row]))
      }
      return made.get(symbol)
    },
  }
  return {
    every: set.bars[0].every,
    set,
    rows: set.symbols.flatMap((symbol, i) => (!among || among.has(symbol) ? [i] : [])),
    besides: () => besides,
    dateOf: (symbol, row) => securities[rowOf.get(symbol)!].dates[row],
  }
}
