import { type BarSet } from '../market/barTable'
import { percentChange } from '../market/change'
import { type Timeframe } from '../market/timeframe'
import { compile } from '../rules/exec/compile'
import { barSource, ColumnMachine } from '../rules/exec/columns'
import { type Node } from '../rules/tree'
import { HOLDS } from '../rules/verdict'
import { type ScanOptions } from './scan'

/** One time that a rule came true, and what the close did over the bars after it. */
export interface Hit {
  symbol: string
  /** Start of the bar, epoch milliseconds, and the zone in which it is told. */
  time: number
  zone: string
  /** Start of the first bar that was looked at. */
  first: number
  close: number
  /** Change of the close over each number of bars ahead, in percent; unknown where they have not come yet. */
  changes: number[]
  /** Start of the last of those bars. */
  until: number[]
}

/** What some securities had of a rule's past; several of them add up. */
export interface HitCounts {
  every: Timeframe
  ahead: number[]
  hits: Hit[]
  /** Changes, in percent, from each bar on which the rule did not come true: pieces for each number of bars ahead. */
  others: Float64Array[][]
}

type HitOptions = Pick<ScanOptions, 'rows' | 'others' | 'besides'>

/** Every time that a rule came true: it holds and did not on the bar before. */
export const countHits = (
  set: BarSet,
  rule: Node,
  ahead: readonly number[],
  options: HitOptions = {},
): HitCounts => hitCounter(set, rule, ahead, options)(options.rows ?? set.symbols.keys())

/** The same in pieces: compiled once, run over as many rows at a time as one likes. */
export function hitCounter(
  set: BarSet,
  rule: Node,
  ahead: readonly number[],
  options: HitOptions = {},
): (rows: Iterable<number>) => HitCounts {
  const every: Timeframe = set.bars[0]?.every ?? { count: 1, unit: 'day' }
  const graph = compile([rule], every)
  const machine = new ColumnMachine(graph)
  return (rows) => {
    const out: HitCounts = { every, ahead: [...ahead], hits: [], others: ahead.map(() => []) }
    for (const row of rows) {
      const symbol = set.symbols[row]
      const bars = set.bars[row]
      machine.run(barSource(bars, options.others?.(symbol), options.besides?.(symbol)))
      const verdicts = machine.verdicts[graph.results[0]]
      const { close, time } = bars
      const change = (i: number, n: number) =>
        i + n < close.length ? percentChange(close[i], close[i + n]) : NaN
      const rest = ahead.map((n) => new Float64Array(Math.max(0, close.length - n)))
      const filled = ahead.map(() => 0)
      for (let i = 0; i < verdicts.length; i++) {
        if (i > 0 && verdicts[i] === HOLDS && verdicts[i - 1] !== HOLDS) {
          out.hits.push({
            symbol,
            time: time[i],
            zone: bars.zone,
            first: time[0],
            close: close[i],
            changes: ahead.map((n) => change(i, n)),
            until: ahead.map((n) => time[Math.min(i + n, time.length - 1)]),
          })
        } else
          for (const [k, n] of ahead.entries()) {
            const moved = change(i, n)
            if (moved === moved) rest[k][filled[k]++] = moved
          }
      }
      for (const [k, column] of rest.entries()) out.others[k].push(column.slice(0, filled[k]))
    }
    return out
  }
}

export function addHits(to: HitCounts | undefined, more: HitCounts): HitCounts {
  if (!to) return more
  for (const hit of more.hits) to.hits.push(hit)
  for (const [k, pieces] of more.others.entries()) to.others[k].push(...pieces)
  return to
}
