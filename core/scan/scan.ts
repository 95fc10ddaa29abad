import { type BarSet } from '../formats/barsBinary'
import { type Bars } from '../market/bars'
import { type Timeframe } from '../market/timeframe'
import { compile } from '../rules/compile'
import { barSource, Machine } from '../rules/machine'
import { type Node } from '../rules/tree'
import { HOLDS, UNKNOWN } from '../rules/verdict'

/** What to look for, and what to show of it. The trees have passed the checker. */
export interface ScanQuery {
  rule: Node
  measures: readonly Node[]
  every: Timeframe
}

/** One security that meets the rule at its last bar. */
export interface ScanRow {
  symbol: string
  /** Values of the measures at the last bar, in their order; NaN where unknown. */
  values: number[]
  close: number
  /** Change of the last bar's close from the one before, in percent. */
  change: number
  /** Moments at which the rule came true, over all bars. */
  hits: number
  /** When the last bar was complete. */
  asOf: number
  /** Last closes, oldest first, for a small line. */
  recent: number[]
}

export interface ScanResult {
  rows: ScanRow[]
  looked: number
  failed: number
  /** Securities for which the rule is unknown; mostly for want of bars. */
  unknown: string[]
  /** Latest moment for which any security has a complete bar, and those that end before it. */
  asOf: number
  stale: string[]
}

const RECENT = 42

/**
 * Runs a rule over the last bars of securities. `others` gives bars of further timeframes of the same security,
 * if there are any. `progress` is told from time to time how many are done; it may return false to stop.
 */
export function scan(
  set: Pick<BarSet, 'symbols' | 'bars'>,
  query: ScanQuery,
  options: {
    among?: ReadonlySet<string>
    others?: (symbol: string) => readonly Bars[]
    progress?: (done: number) => boolean
    /** Moment at which bars that are still under way were taken; their start where left out. */
    takenAt?: number
  } = {},
): ScanResult | undefined {
  const program = compile([query.rule, ...query.measures], query.every)
  const machine = new Machine(program)
  const [rule, ...measures] = program.results
  const out: ScanResult = { rows: [], looked: 0, failed: 0, unknown: [], asOf: -Infinity, stale: [] }
  const ends = new Map<string, number>()
  for (const [i, symbol] of set.symbols.entries()) {
    if (options.among && !options.among.has(symbol)) continue
    if (i % 64 === 0 && options.progress?.(i) === false) return undefined
    const bars = set.bars[i]
    const n = bars.time.length
    out.looked++
    if (n > 0) ends.set(symbol, lastEnd(bars, options.takenAt))
    machine.run(barSource(bars, options.others?.(symbol)))
    const verdicts = machine.verdicts[rule]
    const verdict = n > 0 ? verdicts[n - 1] : UNKNOWN
    if (verdict === UNKNOWN) out.unknown.push(symbol)
    else if (verdict !== HOLDS) out.failed++
    else {
      out.rows.push({
        symbol,
        values: measures.map((register) => machine.numbers[register][n - 1]),
        close: bars.close[n - 1],
        change: n > 1 ? 100 * (bars.close[n - 1] / bars.close[n - 2] - 1) : NaN,
        hits: countHits(verdicts),
        asOf: lastEnd(bars, options.takenAt),
        recent: Array.from(bars.close.subarray(Math.max(0, n - RECENT))),
      })
    }
  }
  for (const end of ends.values()) if (end > out.asOf) out.asOf = end
  for (const [symbol, end] of ends) if (end < out.asOf) out.stale.push(symbol)
  return out
}

/** End of the last bar; of one that is still growing, when it was taken. */
function lastEnd(bars: Bars, takenAt: number | undefined): number {
  const last = bars.end.length - 1
  return Number.isFinite(bars.end[last]) ? bars.end[last] : (takenAt ?? bars.time[last])
}

/** How often a condition came true: it holds and did not on the bar before. */
function countHits(verdicts: Uint8Array): number {
  let hits = 0
  for (let i = 1; i < verdicts.length; i++) if (verdicts[i] === HOLDS && verdicts[i - 1] !== HOLDS) hits++
  return hits
}
