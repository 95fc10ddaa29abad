import { type BarSet } from '../market/barTable'
import { chance } from '../market/chance'
import { compile } from '../rules/compile'
import { barSource, Machine } from '../rules/machine'
import { type Node } from '../rules/tree'
import { HOLDS } from '../rules/verdict'
import { type ScanOptions } from './scan'

/** One time that a rule came true, and what the close did over the bars after it. */
export interface Hit {
  symbol: string
  /** Start of the bar, epoch milliseconds. */
  time: number
  close: number
  /** Change of the close over each number of bars ahead, in percent; unknown where they have not come yet. */
  changes: number[]
  /** Start of the last of those bars. */
  until: number[]
}

/** Changes counted in bins of a quarter of a percent, from -100 to 100; what lies beyond is in the last ones. */
export interface Histogram {
  counts: Float64Array
  total: number
  sum: number
  rose: number
}

const BIN = 0.25
const REACH = 100
const BINS = (2 * REACH) / BIN

/** What some securities had of a rule's past; several of them add up. */
export interface HitCounts {
  ahead: number[]
  hits: Hit[]
  /** All bars on which the rule did not come true, for each number of bars ahead. */
  others: Histogram[]
}

const emptyHistogram = (): Histogram => ({ counts: new Float64Array(BINS), total: 0, sum: 0, rose: 0 })

export function addTo(histogram: Histogram, change: number): void {
  const bin = Math.max(0, Math.min(BINS - 1, Math.floor((change + REACH) / BIN)))
  histogram.counts[bin]++
  histogram.total++
  histogram.sum += change
  if (change > 0) histogram.rose++
}

/** Every time that a rule came true: it holds and did not on the bar before. */
export function countHits(
  set: BarSet,
  rule: Node,
  ahead: readonly number[],
  options: Pick<ScanOptions, 'rows' | 'others' | 'besides'> = {},
): HitCounts {
  const every = set.bars[0]?.every ?? { count: 1, unit: 'day' }
  const program = compile([rule], every)
  const machine = new Machine(program)
  const out: HitCounts = { ahead: [...ahead], hits: [], others: ahead.map(emptyHistogram) }
  for (const row of options.rows ?? set.symbols.keys()) {
    const symbol = set.symbols[row]
    const bars = set.bars[row]
    machine.run(barSource(bars, options.others?.(symbol), options.besides?.(symbol)))
    const verdicts = machine.verdicts[program.results[0]]
    const { close, time } = bars
    const change = (i: number, n: number) =>
      i + n < close.length ? 100 * (close[i + n] / close[i] - 1) : NaN
    for (let i = 0; i < verdicts.length; i++) {
      if (verdicts[i] === HOLDS && (i === 0 || verdicts[i - 1] !== HOLDS)) {
        out.hits.push({
          symbol,
          time: time[i],
          close: close[i],
          changes: ahead.map((n) => change(i, n)),
          until: ahead.map((n) => time[Math.min(i + n, time.length - 1)]),
        })
      } else
        for (const [k, n] of ahead.entries()) {
          const moved = change(i, n)
          if (moved === moved) addTo(out.others[k], moved)
        }
    }
  }
  return out
}

export function addHits(to: HitCounts | undefined, more: HitCounts): HitCounts {
  if (!to) return more
  to.hits.push(...more.hits)
  for (const [k, histogram] of more.others.entries()) {
    const into = to.others[k]
    for (let b = 0; b < BINS; b++) into.counts[b] += histogram.counts[b]
    into.total += histogram.total
    into.sum += histogram.sum
    into.rose += histogram.rose
  }
  return to
}

/** What followed a rule over a number of bars, beside what followed all other bars. Changes in percent. */
export interface Followed {
  ahead: number
  /** Hits whose bars ahead have come, and how many of them do not overlap one another. */
  cases: number
  independent: number
  median: number
  mean: number
  /** Share that rose, in percent. */
  rose: number
  /** Bounds between which the median lies with 95 % confidence, by the bootstrap; unknown below five cases. */
  low: number
  high: number
  others: { total: number; median: number; mean: number; rose: number }
  /** Both as shares of their own total, in percent, by bins of `step` percent from `from` on. */
  bins: { from: number; step: number; hits: number[]; others: number[] }
}

const RESAMPLES = 1000

/**
 * Summary of what followed. Hits that share a stretch of time, of one security or of several, are one case:
 * the bootstrap draws whole cases (Efron and Tibshirani, An Introduction to the Bootstrap, 1993, chapters 6
 * and 13: percentile interval; drawn by cluster). The draw is seeded, so the same hits give the same bounds.
 */
export function followed(counts: HitCounts, which: number): Followed {
  const ahead = counts.ahead[which]
  const known = counts.hits.filter((hit) => !Number.isNaN(hit.changes[which]))
  const changes = known.map((hit) => hit.changes[which])
  const cases = casesOf(known, which)
  const other = counts.others[which]
  const bounds = cases.length >= 5 ? bootstrap(cases) : { low: NaN, high: NaN }
  return {
    ahead,
    cases: changes.length,
    independent: cases.length,
    median: median(changes),
    mean: changes.length > 0 ? changes.reduce((a, b) => a + b, 0) / changes.length : NaN,
    rose: changes.length > 0 ? (100 * changes.filter((x) => x > 0).length) / changes.length : NaN,
    ...bounds,
    others: {
      total: other.total,
      median: histogramMedian(other),
      mean: other.total > 0 ? other.sum / other.total : NaN,
      rose: other.total > 0 ? (100 * other.rose) / other.total : NaN,
    },
    bins: bins(changes, other),
  }
}

/** Hits gathered into cases that do not overlap in time: each begins after the one before has ended. */
export function casesOf(hits: readonly Hit[], which: number): number[][] {
  const byTime = [...hits].sort((a, b) => a.time - b.time)
  const out: number[][] = []
  let until = -Infinity
  for (const hit of byTime) {
    if (hit.time > until) {
      out.push([])
      until = hit.until[which]
    }
    out[out.length - 1].push(hit.changes[which])
  }
  return out
}

/**
 * Medians of cases drawn with replacement. All changes are sorted once; how often each case was drawn then says how
 * often each of its changes counts on the way to the middle, so that no draw is sorted again.
 */
function bootstrap(cases: readonly number[][]): { low: number; high: number } {
  const luck = chance(20_001)
  const all = cases
    .flatMap((changes, k) => changes.map((change) => ({ change, k })))
    .sort((a, b) => a.change - b.change)
  const change = Float64Array.from(all, (one) => one.change)
  const caseOf = Int32Array.from(all, (one) => one.k)
  const size = Int32Array.from(cases, (changes) => changes.length)
  const drawn = new Int32Array(cases.length)
  const medians = Float64Array.from({ length: RESAMPLES }, () => {
    drawn.fill(0)
    let total = 0
    for (let k = 0; k < cases.length; k++) {
      const one = luck.below(cases.length)
      drawn[one]++
      total += size[one]
    }
    const upper = total >> 1
    const lower = total % 2 === 1 ? upper : upper - 1
    let [i, passed] = [0, drawn[caseOf[0]]]
    while (passed <= lower) passed += drawn[caseOf[++i]]
    const first = change[i]
    while (passed <= upper) passed += drawn[caseOf[++i]]
    return (first + change[i]) / 2
  }).sort()
  return { low: medians[Math.floor(0.025 * RESAMPLES)], high: medians[Math.ceil(0.975 * RESAMPLES) - 1] }
}

/** Middle value; the mean of the two middle ones of an even number. NaN of none. */
export function median(values: readonly number[]): number {
  if (values.length === 0) return NaN
  const sorted = Float64Array.from(values).sort()
  const half = sorted.length >> 1
  return sorted.length % 2 === 1 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2
}

/** Median to within a bin: the middle of the one that holds it. */
function histogramMedian({ counts, total }: Histogram): number {
  let left = total / 2
  for (let b = 0; b < BINS && total > 0; b++) {
    left -= counts[b]
    if (left <= 0) return -REACH + (b + 0.5) * BIN
  }
  return NaN
}

/** Both distributions in some twenty bins that span the middle of the hits. */
function bins(changes: readonly number[], other: Histogram): Followed['bins'] {
  const sorted = Float64Array.from(changes).sort()
  const span = Math.max(2, Math.abs(sorted[0] ?? 2), Math.abs(sorted[sorted.length - 1] ?? 2))
  const step = Math.max(BIN, BIN * Math.ceil(Math.min(span, 40) / 10 / BIN))
  const count = 2 * Math.ceil(Math.min(span, 40) / step)
  const from = (-count / 2) * step
  const place = (x: number) => Math.max(0, Math.min(count - 1, Math.floor((x - from) / step)))
  const [hits, others] = [new Array<number>(count).fill(0), new Array<number>(count).fill(0)]
  for (const x of changes) hits[place(x)] += 100 / changes.length
  for (let b = 0; b < BINS; b++)
    if (other.counts[b] > 0) others[place(-REACH + (b + 0.5) * BIN)] += (100 * other.counts[b]) / other.total
  return { from, step, hits, others }
}
