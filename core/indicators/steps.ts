import { type Slots } from './slots'
import { type Stepper } from './types'

/**
 * The building blocks of the columns, one value at a time. Each takes the next value and gives the result with it;
 * with `keep` the value becomes part of the past, without it is only tried: a tick of a bar that still grows. Sums are
 * added in the order of the columns' blocks, so that both give the same to the last bit.
 */
export type Step = (x: number, keep: boolean) => number

/** An indicator of one series with one output. */
export const one =
  (make: (params: readonly number[], slots: Slots) => Step) =>
  (params: readonly number[], slots: Slots): Stepper => {
    const step = make(params, slots)
    return (ins, outs, keep) => {
      outs[0] = step(ins[0], keep)
    }
  }

/** Sum of the last n (see slidingSum). */
export function sum(slots: Slots, n: number): Step {
  const rest = slots.take(n + 1, NaN)
  rest[n] = 0
  const block = slots.take(n)
  const [come, place] = [slots.cell(), slots.cell()]
  return (x, keep) => {
    const k = place[0]
    const now = come[0] + x
    const value = rest[k + 1] + now
    if (keep) {
      block[k] = x
      come[0] = now
      place[0] = k + 1
      if (k + 1 === n) {
        let left = 0
        for (let j = n - 1; j >= 0; j--) rest[j] = left += block[j]
        come[0] = place[0] = 0
      }
    }
    return value
  }
}

export function mean(slots: Slots, n: number): Step {
  const of = sum(slots, n)
  return (x, keep) => of(x, keep) / n
}

/** Weighted average (see weigh). */
export function weighted(slots: Slots, n: number): Step {
  const rest = slots.take(n + 1, NaN)
  const placed = slots.take(n + 1, NaN)
  rest[n] = placed[n] = 0
  const block = slots.take(n)
  const [come, comePlaced, place] = [slots.cell(), slots.cell(), slots.cell()]
  const share = 2 / (n * (n + 1))
  return (x, keep) => {
    const k = place[0]
    const [now, nowPlaced] = [come[0] + x, comePlaced[0] + k * x]
    const old = placed[k + 1] - k * rest[k + 1]
    const value = (old + (n - k) * now + nowPlaced) * share
    if (keep) {
      block[k] = x
      come[0] = now
      comePlaced[0] = nowPlaced
      place[0] = k + 1
      if (k + 1 === n) {
        let [left, leftPlaced] = [0, 0]
        for (let j = n - 1; j >= 0; j--) {
          rest[j] = left += block[j]
          placed[j] = leftPlaced += j * block[j]
        }
        come[0] = comePlaced[0] = place[0] = 0
      }
    }
    return value
  }
}

/** Greatest (sign 1) or least (-1) of the last n; unknown while one is (see slidingHighest). */
export function extreme(slots: Slots, n: number, sign: 1 | -1): Step {
  const further = (a: number, b: number) => (sign * a > sign * b ? a : sign * a <= sign * b ? b : NaN)
  const none = -sign * Infinity
  const rest = slots.take(n + 1, NaN)
  rest[n] = none
  const block = slots.take(n)
  const [come, place] = [slots.cell(none), slots.cell()]
  return (x, keep) => {
    const k = place[0]
    const now = further(come[0], x)
    const value = further(rest[k + 1], now)
    if (keep) {
      block[k] = x
      come[0] = now
      place[0] = k + 1
      if (k + 1 === n) {
        let left = none
        for (let j = n - 1; j >= 0; j--) rest[j] = left = further(left, block[j])
        come[0] = none
        place[0] = 0
      }
    }
    return value
  }
}

/** Sums over the last n values as they stand: what is left of the block before and what has come of this one. */
export interface ShiftedSums {
  old: Float64Array
  now: Float64Array
  /** From which values they are counted, and the place in the block. */
  from: Float64Array
  place: number
}

/**
 * Sums over the last n of what `terms` makes of each value, counted from the first of each block (see
 * slidingDeviation). `terms` is given the values less those they are counted from, and their place in the block.
 */
export function shiftedSums(
  slots: Slots,
  n: number,
  width: number,
  count: number,
  terms: (d: Float64Array, place: number, out: Float64Array) => void,
): (values: Float64Array, keep: boolean) => ShiftedSums {
  const rest = slots.take(count * (n + 1))
  const before = slots.take(width * n, NaN)
  const block = slots.take(width * n)
  const [reference, come, at] = [slots.take(width), slots.take(count), slots.cell()]
  const [d, term] = [new Float64Array(width), new Float64Array(count)]
  const out: ShiftedSums = {
    old: new Float64Array(count),
    now: new Float64Array(count),
    from: new Float64Array(width),
    place: 0,
  }
  const { old, now, from } = out
  /** What is left of the block before, counted anew; written down only where the value is kept. */
  const recount = (write: boolean) => {
    old.fill(0)
    for (let j = n - 1; j > 0; j--) {
      for (let w = 0; w < width; w++) d[w] = before[w * n + j] - from[w]
      terms(d, j, term)
      for (let c = 0; c < count; c++) {
        old[c] += term[c]
        if (write) rest[c * (n + 1) + j] = old[c]
      }
    }
    if (write) for (let c = 0; c < count; c++) rest[c * (n + 1) + n] = 0
  }
  return (values, keep) => {
    const k = (out.place = at[0])
    if (k === 0) {
      for (let w = 0; w < width; w++) from[w] = values[w]
      recount(keep)
      if (keep) reference.set(from)
    } else {
      from.set(reference)
      for (let c = 0; c < count; c++) old[c] = rest[c * (n + 1) + k + 1]
    }
    for (let w = 0; w < width; w++) d[w] = values[w] - from[w]
    terms(d, k, term)
    for (let c = 0; c < count; c++) now[c] = come[c] + term[c]
    if (keep) {
      for (let w = 0; w < width; w++) block[w * n + k] = values[w]
      come.set(now)
      at[0] = k + 1
      if (k + 1 === n) {
        before.set(block)
        come.fill(0)
        at[0] = 0
      }
    }
    return out
  }
}

/**
 * Mean and population deviation of the last n; the mean is left in `at.mean` (see slidingDeviation). As shiftedSums of a
 * value and its square, written out because so many stand on it.
 */
export function deviation(slots: Slots, n: number): { step: Step; at: { mean: number } } {
  const [rest, squared] = [slots.take(n + 1), slots.take(n + 1)]
  const [block, before] = [slots.take(n), slots.take(n, NaN)]
  const [from, come, comeSquared, place] = [slots.cell(NaN), slots.cell(), slots.cell(), slots.cell()]
  const at = { mean: NaN }
  const share = 1 / n
  const step: Step = (x, keep) => {
    const k = place[0]
    const base = k === 0 ? x : from[0]
    let [left, leftSquared] = [0, 0]
    if (k === 0) {
      for (let j = n - 1; j > 0; j--) {
        const d = before[j] - base
        left += d
        leftSquared += d * d
        if (keep) {
          rest[j] = left
          squared[j] = leftSquared
        }
      }
      if (keep) rest[n] = squared[n] = 0
    } else {
      left = rest[k + 1]
      leftSquared = squared[k + 1]
    }
    const d = x - base
    const now = come[0] + d
    const nowSquared = comeSquared[0] + d * d
    const total = left + now
    const spread = leftSquared + nowSquared - total * total * share
    at.mean = base + total * share
    if (keep) {
      block[k] = x
      from[0] = base
      come[0] = now
      comeSquared[0] = nowSquared
      place[0] = k + 1
      if (k + 1 === n) {
        before.set(block)
        come[0] = comeSquared[0] = place[0] = 0
      }
    }
    return spread < 0 ? 0 : Math.sqrt(spread * share)
  }
  return { step, at }
}

/** Recursive smoothing that begins with the plain mean (see smooth). */
export function smooth(slots: Slots, n: number, weight: number): Step {
  const [seen, total, value] = [slots.cell(), slots.cell(), slots.cell(NaN)]
  return (x, keep) => {
    if (x !== x) {
      if (keep) seen[0] = total[0] = 0
      return NaN
    }
    if (seen[0] < n) {
      const now = (total[0] + x) / n
      const full = seen[0] + 1 === n
      if (keep) {
        total[0] += x
        seen[0]++
        value[0] = now
      }
      return full ? now : NaN
    }
    const now = value[0] + (x - value[0]) * weight
    if (keep) value[0] = now
    return now
  }
}

export const exponential = (slots: Slots, n: number): Step => smooth(slots, n, 2 / (n + 1))

/** The value n rows before; unknown for the first n. */
export function earlier(slots: Slots, n: number): Step {
  const ring = slots.take(n, NaN)
  const at = slots.cell()
  return (x, keep) => {
    const old = ring[at[0]]
    if (keep) {
      ring[at[0]] = x
      at[0] = (at[0] + 1) % n
    }
    return old
  }
}

/** The last values, this one included: `back(k)` is that k rows before, unknown before the first. */
export function lastValues(
  slots: Slots,
  n: number,
): { push: (x: number, keep: boolean) => void; back: (k: number) => number } {
  const ring = slots.take(n, NaN)
  const at = slots.cell()
  let now = NaN
  let from = 0
  return {
    push: (x, keep) => {
      now = x
      from = at[0]
      if (keep) {
        ring[from] = x
        at[0] = (from + 1) % n
      }
    },
    back: (k) => (k === 0 ? now : ring[(from - k + n) % n]),
  }
}

/** Greatest of the range and its reach from the close before (see trueRange). */
export function range(slots: Slots): (high: number, low: number, close: number, keep: boolean) => number {
  const [before, begun] = [slots.cell(NaN), slots.cell()]
  return (high, low, close, keep) => {
    let value: number
    if (begun[0] === 0) value = high - low
    else {
      const last = before[0]
      const top = high > last ? high : last
      const bottom = low < last ? low : last
      value = top - bottom + 0 * (high + low + last)
    }
    if (keep) {
      before[0] = close
      begun[0] = 1
    }
    return value
  }
}
