import { writeCsv } from '../core/formats/csv'
import { type Timeframe, timeframeText } from '../core/market/timeframe'
import { scan as scanBars } from '../core/scan/scan'
import { expandPaths, type FileSecurity, readAll } from './barFiles'
import { measureTree, ruleTree } from './expressions'
import { Failure, note } from './fail'

export interface ScanOptions {
  rule: string
  bars: string[]
  measure: string[]
  zone: string
}

/** Names are told up to here, then counted. */
const TOLD = 8

/**
 * The securities that meet a rule at their last bar, as CSV: symbol, date of that bar, close, then the measures.
 * Securities for which the rule is unknown, or that end earlier than others, are told. Throws Failure.
 */
export function scan({ rule, bars: paths, measure, zone }: ScanOptions): string {
  const securities = readAll(expandPaths(paths), zone)
  const out: (string | number)[][] = []
  const unknown: string[] = []
  const ends = new Map<string, number>()
  for (const [every, group] of byTimeframe(securities)) {
    const query = {
      rule: ruleTree(rule, every),
      measures: measure.map((text) => measureTree(text, every)),
      every,
    }
    const set = { symbols: group.map((s) => s.symbol), bars: group.map((s) => s.bars) }
    const result = scanBars(set, query)!
    unknown.push(...result.unknown)
    for (const security of group) ends.set(security.symbol, security.bars.time.at(-1)!)
    const dates = new Map(group.map((s) => [s.symbol, s.dates.at(-1)!]))
    for (const row of result.rows) out.push([row.symbol, dates.get(row.symbol)!, row.close, ...row.values])
  }
  tellUnknown(unknown)
  tellOlder(ends)
  return writeCsv(['symbol', 'date', 'close', ...measure], out, '\n')
}

function byTimeframe(securities: readonly FileSecurity[]): [Timeframe, FileSecurity[]][] {
  if (securities.length === 0) throw new Failure('There are no bars to scan.')
  const groups = new Map<string, [Timeframe, FileSecurity[]]>()
  for (const security of securities) {
    const { every } = security.bars
    const group = groups.get(timeframeText(every))
    if (group) group[1].push(security)
    else groups.set(timeframeText(every), [every, [security]])
  }
  return [...groups.values()]
}

const some = (names: readonly string[]): string =>
  names.length > TOLD
    ? `${names.slice(0, TOLD).join(', ')} and ${names.length - TOLD} more`
    : names.join(', ')

function tellUnknown(names: readonly string[]): void {
  if (names.length > 0) note(`unknown for ${names.length}, mostly for want of bars: ${some(names)}`)
}

function tellOlder(ends: ReadonlyMap<string, number>): void {
  const latest = Math.max(...ends.values())
  const older = [...ends].filter(([, end]) => end < latest).map(([symbol]) => symbol)
  if (older.length > 0) note(`${older.length} end earlier than the others: ${some(older)}`)
}
