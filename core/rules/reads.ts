import { type ColumnName } from '../market/columns'
import { roughMinutes, type Timeframe, timeframeText } from '../market/timeframe'
import { checkTree } from './check'
import { compile } from './exec/compile'
import { type Source } from './exec/source'
import { MATE } from './exec/mate'
import { type Node } from './tree'

/** What must be there before rules and measures can be computed, besides the bars they are run on. */
export interface Reads {
  columns: ReadonlySet<ColumnName>
  sources: ReadonlySet<Source['of']>
  /** Symbols of other securities, in their order; "index" is the index of the venue. */
  symbols: readonly string[]
  /** Of each of them the finest bars that anything is read of. */
  finestOf: ReadonlyMap<string, Timeframe>
  /** Whether the other security of a pair is asked about. */
  mate: boolean
  /** Timeframes coarser, and finer, than that of the bars, each once. */
  coarser: readonly Timeframe[]
  finer: readonly Timeframe[]
}

/** Told by the graph that would be run; trees that are not sound read nothing. */
export function readsOf(trees: readonly Node[], every: Timeframe): Reads {
  const sound = trees.filter((tree) => checkTree(tree, every).type !== undefined)
  const { frames, operations, values } = compile(sound, every)
  const sources = operations.flatMap((operation) => (operation.kind === 'source' ? [operation.source] : []))
  const others = new Map(frames.map((frame) => [timeframeText(frame.every), frame.every]))
  const finestOf = new Map<string, Timeframe>()
  for (const operation of operations) {
    if (operation.kind !== 'source') continue
    const { beside, every: on } = frames[values[operation.out].frame]
    if (beside === undefined || beside === MATE) continue
    const least = finestOf.get(beside)
    if (!(least && roughMinutes(least) <= roughMinutes(on))) finestOf.set(beside, on)
  }
  const beyond = (sign: 1 | -1) =>
    [...others.values()].filter((other) => sign * (roughMinutes(other) - roughMinutes(every)) > 0)
  return {
    columns: new Set(sources.flatMap((source) => (source.of === 'bars' ? [source.column] : []))),
    sources: new Set(sources.map((source) => source.of)),
    symbols: [...new Set(frames.flatMap(({ beside }) => beside ?? []))].filter((one) => one !== MATE).sort(),
    finestOf,
    mate: frames.some(({ beside }) => beside === MATE),
    coarser: beyond(1),
    finer: beyond(-1),
  }
}
