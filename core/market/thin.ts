import { type Bars, columnNames, COUNTED } from './bars'

/** Bars drawn as fewer: each stands for `step` of them. */
export interface Thinned {
  bars: Bars
  /** Row of the first bar that is drawn, and how many bars each stands for. */
  from: number
  step: number
}

/**
 * Rows `from` up to, not including, `to`, as at most `most` bars: several together keep first open, extremes, last
 * close and all volume, so that nothing that is seen was not there.
 */
export function thinned(bars: Bars, from: number, to: number, most: number): Thinned {
  const step = Math.max(1, Math.ceil((to - from) / most))
  const n = Math.ceil((to - from) / step)
  const out: Bars = { ...bars }
  for (const name of columnNames(bars)) {
    const source = bars[name]!
    if (step === 1) {
      out[name] = source.subarray(from, to)
      continue
    }
    const column = (out[name] = new Float64Array(n))
    const counted = name === 'volume' || (COUNTED as readonly string[]).includes(name)
    for (let k = 0; k < n; k++) {
      const first = from + k * step
      const end = Math.min(to, first + step)
      if (name === 'time' || name === 'open') column[k] = source[first]
      else if (counted) {
        for (let i = first; i < end; i++) column[k] += source[i]
      } else if (name === 'high' || name === 'low') {
        let best = NaN
        for (let i = first; i < end; i++) {
          const x = source[i]
          if (x === x && (best !== best || (name === 'high' ? x > best : x < best))) best = x
        }
        column[k] = best
      } else column[k] = source[end - 1]
    }
  }
  return { bars: out, from, step }
}

/** A column of values for the same rows: of several together, the last. */
export function thinnedColumn(values: Float64Array, { bars, from, step }: Thinned): Float64Array {
  const n = bars.time.length
  if (step === 1) return values.subarray(from, from + n)
  const out = new Float64Array(n)
  for (let k = 0; k < n; k++) out[k] = values[Math.min(values.length - 1, from + (k + 1) * step - 1)]
  return out
}
