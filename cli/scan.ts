import { writeCsv } from '../core/formats/csv'
import { completedOn, endOfDate } from '../core/market/moments'
import { finishScan, scan as scanBars } from '../core/scan/scan'
import { type Timeframe } from '../core/market/timeframe'
import { measureTree, ruleTree } from './expressions'
import { EXIT, Failure, note } from './fail'
import { groupsOf, type SecuritiesOptions } from './securities'

export interface ScanOptions extends SecuritiesOptions {
  rule: string
  measure: string[]
}

/** Names are told up to here, then counted. */
const TOLD = 8

/**
 * The securities that meet a rule at their last bar, as CSV: symbol, date of that bar, close, then the measures.
 * Securities for which the rule is unknown, that end earlier or miss bars, are told. Throws Failure.
 */
export async function scan(options: ScanOptions): Promise<string> {
  const { rule, measure } = options
  const by = options.asOf === undefined ? undefined : dateOf(options.asOf)
  const out: (string | number)[][] = []
  const treesOf = (every: Timeframe) => [
    ruleTree(rule, every),
    ...measure.map((text) => measureTree(text, every)),
  ]
  for (const { every, set, rows, others, besides, dateOf: dateOfBar } of await groupsOf(options, treesOf)) {
    const [ruleOf, ...measures] = treesOf(every)
    const query = { rule: ruleOf, measures, every }
    const result = finishScan(scanBars(set, query, { rows, others, besides, by }))
    const lastRow = new Map(
      rows.map((i) => {
        return [set.symbols[i], completedOn(set.bars[i], by).time.length - 1]
      }),
    )
    for (const row of result.rows)
      out.push([row.symbol, dateOfBar(row.symbol, lastRow.get(row.symbol)!), row.close, ...row.values])
    tell(result.unknown, (n) => `unknown for ${n}, mostly for want of bars`)
    tell(
      result.stale.map((s) => s.symbol),
      (n) => `${n} end earlier than the others`,
    )
    tell(result.holey, (n) => `${n} miss some bars`)
  }
  return writeCsv(['symbol', 'date', 'close', ...measure], out, '\n')
}

/** The date as it was written, once it is one. Throws Failure. */
function dateOf(date: string): string {
  try {
    endOfDate(date, 'UTC')
  } catch (error) {
    throw new Failure((error as Error).message, EXIT.usage)
  }
  return date
}

function tell(names: readonly string[], what: (count: number) => string): void {
  if (names.length === 0) return
  const some =
    names.length > TOLD
      ? `${names.slice(0, TOLD).join(', ')} and ${names.length - TOLD} more`
      : names.join(', ')
  note(`${what(names.length)}: ${some}`)
}
