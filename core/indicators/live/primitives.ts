/**
 * The building blocks of the columns, one value at a time. Each takes the next value and gives the result with it;
 * with `keep` the value becomes part of the past, without it is only tried: a tick of a bar that still grows. Sums are
 * added in the order of the columns' blocks, so that both give the same to the last bit.
 */
export type Step = (x: number, keep: boolean) => number

/** Sum of the last n (see slidingSum). */
export function sum(n: number): Step {
  const rest = new Float64Array(n + 1).fill(NaN, 0, n)
  const block = new Float64Array(n)
  let [come, k] = [0, 0]
  return (x, keep) => {
    const now = come + x
    const value = rest[k + 1] + now
    if (keep) {
      block[k++] = x
      come = now
      if (k === n) {
        let left = 0
        for (let j = n - 1; j >= 0; j--) rest[j] = left += block[j]
        come = k = 0
      }
    }
    return value
  }
}

export function mean(n: number): Step {
  const of = sum(n)
  return (x, keep) => of(x, keep) / n
}

/** Weighted average (see weigh). */
export function weighted(n: number): Step {
  const rest = new Float64Array(n + 1).fill(NaN, 0, n)
  const placed = new Float64Array(n + 1).fill(NaN, 0, n)
  const block = new Float64Array(n)
  let [come, comePlaced, k] = [0, 0, 0]
  const share = 2 / (n * (n + 1))
  return (x, keep) => {
    const [now, nowPlaced] = [come + x, comePlaced + k * x]
    const old = placed[k + 1] - k * rest[k + 1]
    const value = (old + (n - k) * now + nowPlaced) * share
    if (keep) {
      block[k++] = x
      come = now
      comePlaced = nowPlaced
      if (k === n) {
        let [left, leftPlaced] = [0, 0]
        for (let j = n - 1; j >= 0; j--) {
          rest[j] = left += block[j]
          placed[j] = leftPlaced += j * block[j]
        }
        come = comePlaced = k = 0
      }
    }
    return value
  }
}

/** Greatest (sign 1) or least (-1) of the last n; unknown while one is (see slidingHighest). */
export function extreme(n: number, sign: 1 | -1): Step {
  const further = (a: number, b: number) => (sign * a > sign * b ? a : sign * a <= sign * b ? b : NaN)
  const none = -sign * Infinity
  const rest = new Float64Array(n + 1).fill(NaN, 0, n)
  rest[n] = none
  const block = new Float64Array(n)
  let [come, k] = [none, 0]
  return (x, keep) => {
    const now = further(come, x)
    const value = further(rest[k + 1], now)
    if (keep) {
      block[k++] = x
      come = now
      if (k === n) {
        let left = none
        for (let j = n - 1; j >= 0; j--) rest[j] = left = further(left, block[j])
        come = none
        k = 0
      }
    }
    return value
  }
}

/** Mean and population deviation of the last n; the mean is left in `at.mean` (see slidingDeviation). */
export function deviation(n: number): { step: Step; at: { mean: number } } {
  const rest = new Float64Array(n + 1)
  const squared = new Float64Array(n + 1)
  const block = new Float64Array(n)
  const before = new Float64Array(n).fill(NaN)
  const at = { mean: NaN }
  let [from, come, comeSquared, k] = [NaN, 0, 0, 0]
  const share = 1 / n
  const count = (reference: number) => {
    from = reference
    let [left, leftSquared] = [0, 0]
    for (let j = n - 1; j > 0; j--) {
      const d = before[j] - from
      rest[j] = left += d
      squared[j] = leftSquared += d * d
    }
    rest[n] = squared[n] = 0
  }
  const step: Step = (x, keep) => {
    if (k === 0) count(x)
    const d = x - from
    const [now, nowSquared] = [come + d, comeSquared + d * d]
    const total = rest[k + 1] + now
    const spread = squared[k + 1] + nowSquared - total * total * share
    at.mean = from + total * share
    if (keep) {
      block[k++] = x
      come = now
      comeSquared = nowSquared
      if (k === n) {
        before.set(block)
        come = comeSquared = k = 0
      }
    }
    return spread < 0 ? 0 : Math.sqrt(spread * share)
  }
  return { step, at }
}

/** Recursive smoothing that begins with the plain mean (see smooth). */
export function smooth(n: number, weight: number): Step {
  let [seen, total, value] = [0, 0, NaN]
  return (x, keep) => {
    if (x !== x) {
      if (keep) seen = total = 0
      return NaN
    }
    if (seen < n) {
      const now = (total + x) / n
      const full = seen + 1 === n
      if (keep) {
        total += x
        seen++
        value = now
      }
      return full ? now : NaN
    }
    const now = value + (x - value) * weight
    if (keep) value = now
    return now
  }
}

export const exponential = (n: number): Step => smooth(n, 2 / (n + 1))

/** The value n rows before; unknown for the first n. */
export function earlier(n: number): Step {
  const ring = new Float64Array(n).fill(NaN)
  let at = 0
  return (x, keep) => {
    const old = ring[at]
    if (keep) {
      ring[at] = x
      at = (at + 1) % n
    }
    return old
  }
}

/** Greatest of the range and its reach from the close before (see trueRange). */
export function range(): (high: number, low: number, close: number, keep: boolean) => number {
  let before = NaN
  let first = true
  return (high, low, close, keep) => {
    let value: number
    if (first) value = high - low
    else {
      const top = high > before ? high : before
      const bottom = low < before ? low : before
      value = top - bottom + 0 * (high + low + before)
    }
    if (keep) {
      before = close
      first = false
    }
    return value
  }
}
