import quickselect from 'quickselect'
import { chance } from '../market/chance'
import { type Hit, type HitCounts } from './history'

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

/** Finest step of the bins, in percent. */
const BIN = 0.25

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
  const other = joined(counts.others[which])
  const bounded = bins(changes, other)
  const bounds = cases.length >= 5 ? bootstrap(cases) : { low: NaN, high: NaN }
  return {
    ahead,
    cases: changes.length,
    independent: cases.length,
    median: median(changes),
    mean: mean(changes),
    rose: shareThatRose(changes),
    ...bounds,
    others: {
      total: other.length,
      mean: mean(other),
      rose: shareThatRose(other),
      median: medianInPlace(other),
    },
    bins: bounded,
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

/** The same, by selection (Floyd and Rivest, 1975); puts the values in another order. */
function medianInPlace(values: Float64Array): number {
  if (values.length === 0) return NaN
  const half = values.length >> 1
  quickselect(values as unknown as number[], half)
  if (values.length % 2 === 1) return values[half]
  let below = -Infinity
  for (let i = 0; i < half; i++) if (values[i] > below) below = values[i]
  return (below + values[half]) / 2
}

function joined(pieces: readonly Float64Array[]): Float64Array {
  const out = new Float64Array(pieces.reduce((sum, piece) => sum + piece.length, 0))
  let at = 0
  for (const piece of pieces) {
    out.set(piece, at)
    at += piece.length
  }
  return out
}

function mean(values: ArrayLike<number>): number {
  let sum = 0
  for (let i = 0; i < values.length; i++) sum += values[i]
  return values.length > 0 ? sum / values.length : NaN
}

function shareThatRose(values: ArrayLike<number>): number {
  let rose = 0
  for (let i = 0; i < values.length; i++) if (values[i] > 0) rose++
  return values.length > 0 ? (100 * rose) / values.length : NaN
}

/** Both distributions in some twenty bins that span the middle of the hits: for drawing alone. */
function bins(changes: readonly number[], other: Float64Array): Followed['bins'] {
  const sorted = Float64Array.from(changes).sort()
  const span = Math.max(2, Math.abs(sorted[0] ?? 2), Math.abs(sorted[sorted.length - 1] ?? 2))
  const step = Math.max(BIN, BIN * Math.ceil(Math.min(span, 40) / 10 / BIN))
  const count = 2 * Math.ceil(Math.min(span, 40) / step)
  const from = (-count / 2) * step
  const place = (x: number) => Math.max(0, Math.min(count - 1, Math.floor((x - from) / step)))
  const [hits, others] = [new Array<number>(count).fill(0), new Array<number>(count).fill(0)]
  for (const x of changes) hits[place(x)] += 100 / changes.length
  for (let i = 0; i < other.length; i++) others[place(other[i])] += 100 / other.length
  return { from, step, hits, others }
}
