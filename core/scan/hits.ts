import { type Bars } from '../market/bars'
import { percentChange } from '../market/change'
import { compile } from '../rules/exec/compile'
import { type BarSource, ColumnMachine } from '../rules/exec/columns'
import { type Node } from '../rules/tree'
import { HOLDS, type Verdict, verdictOf } from '../rules/verdict'
import { median } from './followed'

/** A rule over the bars of one security: the rows at which it came true, and its verdict on each. */
export interface RuleColumn {
  rows: number[]
  verdictAt(row: number): Verdict
}

export function ruleColumn(rule: Node, source: BarSource): RuleColumn {
  const graph = compile([rule], source.base.every)
  const machine = new ColumnMachine(graph)
  machine.run(source)
  const verdicts = machine.verdicts[graph.results[0]]
  const rows: number[] = []
  for (let i = 0; i < verdicts.length; i++)
    if (i > 0 && verdicts[i] === HOLDS && verdicts[i - 1] !== HOLDS) rows.push(i)
  return { rows, verdictAt: (row) => verdictOf(verdicts[row]) }
}

/** Rows at which a rule came true: it holds there and did not on the bar before. */
export const hitRows = (rule: Node, source: BarSource): number[] => ruleColumn(rule, source).rows

/** A measure as a column of its own. */
export function measureColumn(measure: Node, source: BarSource): Float64Array {
  const graph = compile([measure], source.base.every)
  const machine = new ColumnMachine(graph)
  machine.run(source)
  return machine.numbers[graph.results[0]].slice()
}

/** What followed: change of the close over the next `ahead` bars, in percent, after hits and after all bars. */
export function whatFollowed(
  bars: Bars,
  rows: readonly number[],
  ahead: number,
): { cases: number; after: number; always: number } {
  const change = (row: number) => percentChange(bars.close[row], bars.close[row + ahead])
  const known = (row: number) => row + ahead < bars.close.length && Number.isFinite(change(row))
  const cases = rows.filter(known)
  const all = Array.from(bars.close.keys()).filter(known)
  return { cases: cases.length, after: median(cases.map(change)), always: median(all.map(change)) }
}
