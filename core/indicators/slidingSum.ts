/**
 * Sum over a moving window, by blocks as long as the window: what is left of the block before, added up from
 * its end, and what has come of this one. Only values of the window are ever added, so a huge or unknown value
 * leaves nothing behind when it goes. Unknown while the window holds an unknown value or is not full.
 * Source: the two-scan scheme of van Herk (1992), with sums in place of extremes.
 */
export function slidingSum(src: Float64Array, n: number, out: Float64Array): void {
  const rest = room(n + 1)
  rest.fill(NaN, 0, n)
  rest[n] = 0
  for (let start = 0; start < src.length; start += n) {
    const end = Math.min(start + n, src.length)
    let come = 0
    for (let i = start, k = 1; i < end; i++, k++) {
      come += src[i]
      out[i] = rest[k] + come
    }
    let left = 0
    for (let k = n - 1, i = start + k; k >= 0; k--, i--) rest[k] = left += src[i]
  }
}

/** The same as a mean: each sum over n. */
export function slidingMean(src: Float64Array, n: number, out: Float64Array): void {
  const rest = room(n + 1)
  rest.fill(NaN, 0, n)
  rest[n] = 0
  for (let start = 0; start < src.length; start += n) {
    const end = Math.min(start + n, src.length)
    let come = 0
    for (let i = start, k = 1; i < end; i++, k++) {
      come += src[i]
      out[i] = (rest[k] + come) / n
    }
    // What is left of the last block is asked for no more.
    if (end === src.length) return
    let left = 0
    for (let k = n - 1, i = start + k; k >= 0; k--, i--) rest[k] = left += src[i]
  }
}

let window = new Float64Array(256)

/** Room for one pass over a window; its values are whatever the pass before left there. */
export function room(n: number): Float64Array {
  if (window.length < n) window = new Float64Array(2 * n)
  return window
}

const columns: Float64Array[] = []

/**
 * A column of n rows to work in, one for each number from 0: making a new one for each security costs more
 * than most indicators. Only for use within one call; its values are whatever was left there.
 */
export function scratch(which: number, n: number): Float64Array {
  const kept = columns[which]
  if (kept?.length === n) return kept
  return (columns[which] = new Float64Array(n))
}
