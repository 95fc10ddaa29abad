import { type Bars } from '../market/bars'
import { type BarSet } from '../market/barTable'
import { completedOn } from '../market/moments'
import { type Timeframe } from '../market/timeframe'
import { compile } from '../rules/exec/compile'
import { spreadFan } from '../rules/fan'
import { barSource, type Besides, ColumnMachine } from '../rules/exec/columns'
import { print } from '../rules/print'
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
  /** When the last bar was complete, and the zone in which its moments are told. */
  asOf: number
  zone: string
  /** Start of the bar on which it was found, and of the first bar that was looked at: the chart shows the same. */
  bar: number
  first: number
  /** Last closes, oldest first, for a small line. */
  recent: number[]
}

/** How many securities one part of a rule lets through at their last bar. */
export interface PartCount {
  text: string
  holds: number
  fails: number
  unknown: number
}

/** What a scan of some securities found; several of them add up to a scan of all. */
export interface ScanPart {
  rows: ScanRow[]
  looked: number
  failed: number
  /** Securities for which the rule is unknown; mostly for want of bars. */
  unknown: string[]
  /** The parts joined by the outermost "and" or "or"; the rule itself where there are none. */
  parts: PartCount[]
  /** Bars on which the rule held, of those on which it was known. */
  barsTrue: number
  barsKnown: number
  /** Moments at which the rule came true, of all securities together. */
  came: number
  /** When the last bar of each was complete, and in which zone; those without bars are not there. */
  ends: [symbol: string, end: number, zone: string][]
  /** Securities that have no bar at all, and those that miss some between their first and last. */
  empty: string[]
  holey: string[]
}

export interface ScanResult extends Omit<ScanPart, 'ends'> {
  /** Latest moment for which any security has a complete bar, the zone of that one, and those that end before it. */
  asOf: number
  zone: string
  stale: { symbol: string; end: number }[]
}

const RECENT = 42

export interface ScanOptions {
  /** Rows of the set to look at; all where left out. */
  rows?: Iterable<number>
  /** Bars of further timeframes, and what else is known of a security. */
  others?: (symbol: string) => readonly Bars[]
  besides?: (symbol: string) => Besides
  /** Moment at which bars that are still under way were taken; their start where left out. */
  takenAt?: number
  /** Only bars complete by the end of this date, in their own zone, are looked at: the scan as it would have been then. */
  by?: string
}

/** The parts of a rule that are counted: what its outermost "and" or "or" joins. */
export function partsOf(rule: Node): Node[] {
  const joined = spreadFan(rule) ?? rule
  return joined.kind === 'logic' ? joined.parts : [joined]
}

/** Runs a rule over the last bars of securities. */
export const scan = (set: BarSet, query: ScanQuery, options: ScanOptions = {}): ScanPart =>
  scanner(set, query, options)(options.rows ?? set.symbols.keys())

/** The same in pieces: compiled once, run over as many rows at a time as one likes. The set may grow between them. */
export function scanner(
  set: BarSet,
  query: ScanQuery,
  options: ScanOptions = {},
): (rows: Iterable<number>) => ScanPart {
  const parts = partsOf(query.rule)
  const graph = compile([query.rule, ...parts, ...query.measures], query.every)
  const machine = new ColumnMachine(graph)
  const [rule, ...others] = graph.results
  const partValues = others.slice(0, parts.length)
  const measures = others.slice(parts.length)
  const texts = parts.map(print)
  return (rows) => {
    const out = emptyPart(texts)
    const usual = usualRows(set.bars)
    for (const i of rows) {
      const symbol = set.symbols[i]
      const bars = completedOn(set.bars[i], options.by)
      const n = bars.time.length
      out.looked++
      if (n === 0) {
        out.empty.push(symbol)
        out.unknown.push(symbol)
        for (const part of out.parts) part.unknown++
        continue
      }
      const end = lastEnd(bars, options.takenAt)
      out.ends.push([symbol, end, bars.zone])
      if (options.by === undefined && usual(set.bars[i])) out.holey.push(symbol)
      machine.run(barSource(bars, options.others?.(symbol), options.besides?.(symbol)))
      for (const [k, part] of out.parts.entries()) {
        const verdict = machine.verdicts[partValues[k]][n - 1]
        part[verdict === HOLDS ? 'holds' : verdict === UNKNOWN ? 'unknown' : 'fails']++
      }
      const verdicts = machine.verdicts[rule]
      const verdict = verdicts[n - 1]
      const { hits, barsTrue, barsKnown } = countRows(verdicts)
      out.barsTrue += barsTrue
      out.barsKnown += barsKnown
      out.came += hits
      if (verdict === UNKNOWN) out.unknown.push(symbol)
      else if (verdict !== HOLDS) out.failed++
      else
        out.rows.push({
          symbol,
          values: measures.map((value) => machine.numbers[value][n - 1]),
          close: bars.close[n - 1],
          change: n > 1 ? 100 * (bars.close[n - 1] / bars.close[n - 2] - 1) : NaN,
          hits,
          asOf: end,
          zone: bars.zone,
          bar: bars.time[n - 1],
          first: bars.time[0],
          recent: Array.from(bars.close.subarray(Math.max(0, n - RECENT))),
        })
    }
    return out
  }
}

/** What a scan of no securities finds. */
export const emptyPart = (texts: readonly string[]): ScanPart => ({
  rows: [],
  looked: 0,
  failed: 0,
  unknown: [],
  parts: texts.map((text) => ({ text, holds: 0, fails: 0, unknown: 0 })),
  barsTrue: 0,
  barsKnown: 0,
  came: 0,
  ends: [],
  empty: [],
  holey: [],
})

/** Adds what another part found to the first. */
export function addPart(to: ScanPart | undefined, more: ScanPart): ScanPart {
  if (!to) return more
  for (const list of ['rows', 'unknown', 'ends', 'empty', 'holey'] as const)
    (to[list] as unknown[]).push(...(more[list] as unknown[]))
  for (const count of ['looked', 'failed', 'barsTrue', 'barsKnown', 'came'] as const) to[count] += more[count]
  to.parts.forEach((part, k) => {
    for (const count of ['holds', 'fails', 'unknown'] as const) part[count] += more.parts[k][count]
  })
  return to
}

/** The whole of a scan, with what is behind the latest of it. Ends of different venues are told apart by a day. */
export function finishScan(all: ScanPart): ScanResult {
  const { ends, ...rest } = all
  let [asOf, zone] = [-Infinity, 'UTC']
  for (const [, end, its] of ends) if (end > asOf) [asOf, zone] = [end, its]
  const stale = ends.filter(([, end]) => asOf - end >= STALE_AFTER).map(([symbol, end]) => ({ symbol, end }))
  return { ...rest, asOf, zone, stale }
}

/** Venues close at different hours: only what lies further back is behind. */
const STALE_AFTER = 12 * 3_600_000

/** End of the last bar; of one that is still growing, when it was taken. */
function lastEnd(bars: Bars, takenAt: number | undefined): number {
  const last = bars.end.length - 1
  return Number.isFinite(bars.end[last]) ? bars.end[last] : (takenAt ?? bars.time[last])
}

/** How often a condition came true (it holds and did not on the bar before), held, and was known. */
function countRows(verdicts: Uint8Array): { hits: number; barsTrue: number; barsKnown: number } {
  let [hits, barsTrue, barsKnown] = [0, 0, 0]
  for (let i = 0; i < verdicts.length; i++) {
    if (verdicts[i] === UNKNOWN) continue
    barsKnown++
    if (verdicts[i] !== HOLDS) continue
    barsTrue++
    if (i > 0 && verdicts[i - 1] !== HOLDS) hits++
  }
  return { hits, barsTrue, barsKnown }
}

/** Symbols of a set, of the rows looked at, whose bars miss some which most of the set's have. */
export function holeyIn(set: BarSet, rows: Iterable<number>): string[] {
  const usual = usualRows(set.bars)
  const out: string[] = []
  for (const row of rows)
    if (set.bars[row].time.length > 0 && usual(set.bars[row])) out.push(set.symbols[row])
  return out
}

/**
 * Tells bars that miss some which most of the set's have: fewer rows between first and last than the fullest
 * calendar of the same zone. Calendars are shared, so each is counted once.
 */
function usualRows(all: readonly Bars[]): (bars: Bars) => boolean {
  const full = new Map<string, Bars>()
  for (const bars of all) {
    const key = bars.zone
    if (bars.time.length > (full.get(key)?.time.length ?? 0)) full.set(key, bars)
  }
  const told = new Map<Float64Array, boolean>()
  return (bars) => {
    let answer = told.get(bars.time)
    if (answer === undefined) {
      const fullest = full.get(bars.zone)!.time
      const first = bars.time[0]
      const last = bars.time[bars.time.length - 1]
      let expected = 0
      for (let i = 0; i < fullest.length; i++) if (fullest[i] >= first && fullest[i] <= last) expected++
      answer = expected > bars.time.length
      told.set(bars.time, answer)
    }
    return answer
  }
}
