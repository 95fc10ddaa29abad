import { type Timeframe, timeframeText } from '../core/market/timeframe'
import { barSource, type BarSource, type Besides, type Node } from '../core/rules'
import { expandPaths, type FileOptions, type FileSecurity, readAll } from './barFiles'
import { amongOf } from './among'
import { EXIT, Failure } from './fail'
import { type Group, marketGroup, type MarketOptions } from './market'
import { coarser, timeframe } from './timeframe'

/** What the commands over the securities of files have in common. */
export interface FilesOptions extends FileOptions {
  /** Files and folders of them. */
  bars: string[]
  /** Timeframe to make the bars into; as they are in the files where left out. */
  every?: string
  /** Symbols between commas, or @file with a list of them; all where left out. */
  among?: string
  /** Which of the securities "index" stands for in beside("index", x). */
  index?: string
}

/** The same where no file need be named: the broker's market is looked at then. */
export type SecuritiesOptions = Omit<FilesOptions, 'bars'> & MarketOptions & { bars?: string[] }

/**
 * The securities of the files by timeframe, or, where no file is named, those of the broker's market with all that the trees for a
 * timeframe ask for. Throws Failure.
 */
export async function groupsOf(
  options: SecuritiesOptions,
  treesOf: (every: Timeframe) => Node[],
): Promise<Group[]> {
  const { bars } = options
  if (bars) {
    onlyOfMarket(options)
    return filesOf({ ...options, bars })
  }
  for (const name of ['columns', 'index'] as const)
    if (options[name] !== undefined)
      throw new Failure(`--${name} is for files: name them with --bars, or leave it out.`, EXIT.usage)
  return [await marketGroup(options, treesOf)]
}

/** Refuses options that files have no use for. Throws Failure. */
export function onlyOfMarket({ last, soFar }: MarketOptions): void {
  const wrong = last !== undefined ? '--last' : soFar ? '--so-far' : undefined
  if (wrong)
    throw new Failure(`${wrong} is for the broker's market: leave out --bars, or ${wrong}.`, EXIT.usage)
}

/** Reads the files and groups their securities by timeframe. Throws Failure. */
export function filesOf(options: FilesOptions): Group[] {
  const wanted = options.every === undefined ? undefined : timeframe(options.every)
  const read = readAll(expandPaths(options.bars), options)
  if (read.length === 0) throw new Failure('There are no bars to look at.')
  const among =
    options.among === undefined ? undefined : amongOf(options.among, new Set(read.map((one) => one.symbol)))
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
