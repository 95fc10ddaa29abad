import { sideOf } from '../market/paper'
import { type Arithmetic, type Comparison } from './tree'
import { FAILS, HOLDS, UNKNOWN } from './verdict'

/**
 * Plain loops over whole columns, one for each operation of rule text. Numbers: NaN is unknown and spreads.
 * Verdicts: Kleene's three-valued logic (Kleene, Introduction to Metamathematics, 1952, section 64).
 */

type Numbers = Float64Array
type Verdicts = Uint8Array

export function arith(op: Arithmetic, a: Numbers, b: Numbers, out: Numbers): void {
  const n = out.length
  if (op === '+') for (let i = 0; i < n; i++) out[i] = a[i] + b[i]
  else if (op === '-') for (let i = 0; i < n; i++) out[i] = a[i] - b[i]
  else if (op === '*') for (let i = 0; i < n; i++) out[i] = a[i] * b[i]
  // Division by nothing has no answer: unknown, never infinite.
  else for (let i = 0; i < n; i++) out[i] = b[i] === 0 ? NaN : a[i] / b[i]
}

export function scaled(a: Numbers, factor: number, out: Numbers): void {
  for (let i = 0; i < out.length; i++) out[i] = a[i] * factor
}

export function absolute(a: Numbers, out: Numbers): void {
  for (let i = 0; i < out.length; i++) out[i] = Math.abs(a[i])
}

/** The value `n` rows before; unknown for the first n. */
export function shifted(a: Numbers, n: number, out: Numbers): void {
  const known = Math.min(n, out.length)
  out.fill(NaN, 0, known)
  out.set(a.subarray(0, out.length - known), known)
}

/** out[i] = a[rows[i] - back]; unknown where that row does not exist. */
export function gathered(a: Numbers, rows: Int32Array, back: number, out: Numbers): void {
  for (let i = 0; i < out.length; i++) {
    const row = rows[i] - back
    out[i] = row >= 0 ? a[row] : NaN
  }
}

/** The smaller, or the greater, of two; unknown where one is. */
export function least(a: Numbers, b: Numbers, out: Numbers): void {
  for (let i = 0; i < out.length; i++) out[i] = a[i] < b[i] ? a[i] : a[i] >= b[i] ? b[i] : NaN
}

export function greatest(a: Numbers, b: Numbers, out: Numbers): void {
  for (let i = 0; i < out.length; i++) out[i] = a[i] > b[i] ? a[i] : a[i] <= b[i] ? b[i] : NaN
}

/** Verdicts written as 1, 0 and NaN. */
export function verdicts(a: Numbers, out: Verdicts): void {
  for (let i = 0; i < out.length; i++) out[i] = a[i] > 0 ? HOLDS : a[i] === 0 ? FAILS : UNKNOWN
}

/** The verdict of a row of another frame; unknown where that row does not exist. */
export function gatheredVerdicts(a: Verdicts, rows: Int32Array, out: Verdicts): void {
  for (let i = 0; i < out.length; i++) out[i] = rows[i] >= 0 ? a[rows[i]] : UNKNOWN
}

/** How many of several conditions hold; unknown where one is. */
export function counted(ins: readonly Verdicts[], out: Numbers): void {
  out.fill(0)
  for (const a of ins)
    for (let i = 0; i < out.length; i++) out[i] += a[i] === UNKNOWN ? NaN : a[i] === HOLDS ? 1 : 0
}

/** Rows since a condition last held; unknown before it first did, and after a row that may have been one. */
export function barsSince(a: Verdicts, out: Numbers): void {
  let last = NaN
  for (let i = 0; i < out.length; i++) {
    if (a[i] === HOLDS) last = i
    else if (a[i] === UNKNOWN) last = NaN
    out[i] = i - last
  }
}

/** Average price weighted by volume since the last row on which `starts`; unknown before the first. */
export function vwapSince(
  starts: (row: number) => boolean,
  high: Numbers,
  low: Numbers,
  close: Numbers,
  volume: Numbers,
  out: Numbers,
): void {
  let [turnover, traded] = [NaN, NaN]
  for (let i = 0; i < out.length; i++) {
    if (starts(i)) turnover = traded = 0
    turnover += ((high[i] + low[i] + close[i]) / 3) * volume[i]
    traded += volume[i]
    out[i] = traded > 0 ? turnover / traded : NaN
  }
}

/** Of what size the numbers are from which the sides were made, row by row; exactly compared without (see sizes). */
export interface Size {
  of: Numbers | undefined
  least: number
}

const sizeAt = ({ of, least }: Size, i: number): number =>
  of && Math.abs(of[i]) > least ? Math.abs(of[i]) : least

/** The greatest of some columns on each row, without their signs; unknown ones are passed over. */
export function sizes(ins: readonly Numbers[], out: Numbers): void {
  out.fill(0)
  for (const a of ins)
    for (let i = 0; i < out.length; i++) {
      const size = Math.abs(a[i])
      if (size > out[i]) out[i] = size
    }
}

/** For each comparison, its verdict where the left side stands below, on and above the right one. */
const VERDICTS: Record<Comparison, readonly [number, number, number]> = {
  '>': [FAILS, FAILS, HOLDS],
  '<': [HOLDS, FAILS, FAILS],
  '>=': [FAILS, HOLDS, HOLDS],
  '<=': [HOLDS, HOLDS, FAILS],
  '=': [FAILS, HOLDS, FAILS],
}

/** An unknown side makes both comparisons of a line fail, which leaves unknown. */
export function compare(op: Comparison, a: Numbers, b: Numbers, out: Verdicts, size?: Size): void {
  const n = out.length
  if (size) {
    const [below, on, above] = VERDICTS[op]
    for (let i = 0; i < n; i++) {
      const side = sideOf(a[i], b[i], sizeAt(size, i))
      out[i] = side > 0 ? above : side < 0 ? below : side === 0 ? on : UNKNOWN
    }
    return
  }
  if (op === '<') return compare('>', b, a, out)
  if (op === '<=') return compare('>=', b, a, out)
  if (op === '>') for (let i = 0; i < n; i++) out[i] = a[i] > b[i] ? HOLDS : a[i] <= b[i] ? FAILS : UNKNOWN
  else if (op === '>=')
    for (let i = 0; i < n; i++) out[i] = a[i] >= b[i] ? HOLDS : a[i] < b[i] ? FAILS : UNKNOWN
  else
    for (let i = 0; i < n; i++) out[i] = a[i] === b[i] ? HOLDS : a[i] < b[i] || a[i] > b[i] ? FAILS : UNKNOWN
}

/** Was at or beyond the other side on the bar before and is past it now. */
export function crosses(way: 'above' | 'below', a: Numbers, b: Numbers, out: Verdicts, size?: Size): void {
  if (way === 'below') return crosses('above', b, a, out, size)
  let before = NaN
  for (let i = 0; i < out.length; i++) {
    const now = size ? sideOf(a[i], b[i], sizeAt(size, i)) : a[i] - b[i]
    out[i] = now !== now || before !== before ? UNKNOWN : before <= 0 && now > 0 ? HOLDS : FAILS
    before = now
  }
}

export function between(a: Numbers, low: Numbers, high: Numbers, out: Verdicts, size?: Size): void {
  for (let i = 0; i < out.length; i++) {
    const x = a[i]
    if (x !== x || low[i] !== low[i] || high[i] !== high[i]) out[i] = UNKNOWN
    else if (size) {
      const about = sizeAt(size, i)
      out[i] = sideOf(x, low[i], about) >= 0 && sideOf(x, high[i], about) <= 0 ? HOLDS : FAILS
    } else out[i] = x >= low[i] && x <= high[i] ? HOLDS : FAILS
  }
}

// Answers of the two sides as one number, 4 a + b, looked up.
const AND = Uint8Array.of(0, 0, 0, 0, 0, 1, 2, 0, 0, 2, 2)
const OR = Uint8Array.of(0, 1, 2, 0, 1, 1, 1, 0, 2, 1, 2)

export function both(a: Verdicts, b: Verdicts, out: Verdicts): void {
  for (let i = 0; i < out.length; i++) out[i] = AND[(a[i] << 2) | b[i]]
}

export function either(a: Verdicts, b: Verdicts, out: Verdicts): void {
  for (let i = 0; i < out.length; i++) out[i] = OR[(a[i] << 2) | b[i]]
}

export function not(a: Verdicts, out: Verdicts): void {
  for (let i = 0; i < out.length; i++) out[i] = a[i] === UNKNOWN ? UNKNOWN : a[i] === HOLDS ? FAILS : HOLDS
}

/** `seek` on at least one of the last n rows (recently, with HOLDS); the rest of the logic as Kleene's "or". */
function anyOf(a: Verdicts, n: number, seek: number, found: number, absent: number, out: Verdicts): void {
  let lastSeek = -Infinity
  let lastUnknown = -1
  for (let i = 0; i < out.length; i++) {
    if (a[i] === seek) lastSeek = i
    else if (a[i] === UNKNOWN) lastUnknown = i
    if (lastSeek > i - n) out[i] = found
    // Rows before the first are unknown too.
    else out[i] = lastUnknown > i - n || i < n - 1 ? UNKNOWN : absent
  }
}

export const recently = (a: Verdicts, n: number, out: Verdicts): void => anyOf(a, n, HOLDS, HOLDS, FAILS, out)

export const always = (a: Verdicts, n: number, out: Verdicts): void => anyOf(a, n, FAILS, FAILS, HOLDS, out)

/** Rose (sign 1) or fell (-1) on each of n bars in a row. */
export function runs(a: Numbers, n: number, sign: 1 | -1, out: Verdicts, size?: Size): void {
  let streak = 0
  let lastOther = -Infinity
  for (let i = 0; i < out.length; i++) {
    const side = i === 0 ? NaN : size ? sideOf(a[i], a[i - 1], sizeAt(size, i)) : a[i] - a[i - 1]
    const change = sign * side
    streak = change > 0 ? streak + 1 : 0
    if (change <= 0) lastOther = i
    // One bar known to have gone the other way settles it, however little is known of the rest.
    if (lastOther > i - n) out[i] = FAILS
    else out[i] = streak >= n ? HOLDS : UNKNOWN
  }
}

/** Holds now and did not on the bar before. */
export function begins(a: Verdicts, out: Verdicts): void {
  for (let i = 0; i < out.length; i++) {
    const before = i > 0 ? a[i - 1] : UNKNOWN
    if (a[i] === FAILS || before === HOLDS) out[i] = FAILS
    else out[i] = a[i] === UNKNOWN || before === UNKNOWN ? UNKNOWN : HOLDS
  }
}

/** Holds where the condition does; what is unknown does not. */
export function certain(a: Verdicts, out: Verdicts): void {
  for (let i = 0; i < out.length; i++) out[i] = a[i] === HOLDS ? HOLDS : FAILS
}

/** For each row, the last coarse row that began by its start: the one that it lies in. */
export function rowHolding(time: Numbers, coarseTime: Numbers, out: Int32Array): void {
  let row = -1
  for (let i = 0; i < time.length; i++) {
    while (row + 1 < coarseTime.length && coarseTime[row + 1] <= time[i]) row++
    out[i] = row
  }
}

/**
 * For each row, the last row of another frame that was complete by its end. One that still grows is complete for none,
 * but where `together` is set it grows together with a row that does.
 */
export function rowCompleted(end: Numbers, otherEnd: Numbers, together: boolean, out: Int32Array): void {
  const n = otherEnd.length - (!together && otherEnd[otherEnd.length - 1] === Infinity ? 1 : 0)
  let row = -1
  for (let i = 0; i < end.length; i++) {
    while (row + 1 < n && otherEnd[row + 1] <= end[i]) row++
    out[i] = row
  }
}
