import { sideOf } from '../../market/paper'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'

/**
 * The words of rule text that look back, one bar at a time; each the same recurrence as its column in kernels.ts.
 * With `keep` a value becomes part of the past; without, it is only tried.
 */
export type Look = (x: number, keep: boolean) => number

/** Was at or beyond nought on the bar before and is past it now. */
export function crossing(): Look {
  let before = NaN
  return (now, keep) => {
    const answer = now !== now || before !== before ? UNKNOWN : before <= 0 && now > 0 ? HOLDS : FAILS
    if (keep) before = now
    return answer
  }
}

/** `seek` on at least one of the last n bars. */
function anyOf(n: number, seek: number, found: number, absent: number): Look {
  let [row, lastSeek, lastUnknown] = [0, -Infinity, -1]
  return (a, keep) => {
    const sought = a === seek ? row : lastSeek
    const unknown = a === UNKNOWN ? row : lastUnknown
    const answer = sought > row - n ? found : unknown > row - n || row < n - 1 ? UNKNOWN : absent
    if (keep) {
      lastSeek = sought
      lastUnknown = unknown
      row++
    }
    return answer
  }
}

export const recently = (n: number): Look => anyOf(n, HOLDS, HOLDS, FAILS)
export const always = (n: number): Look => anyOf(n, FAILS, FAILS, HOLDS)

/** Rose (sign 1) or fell (-1) on each of n bars in a row; `size` is that of what the values were made of. */
export function runs(
  n: number,
  sign: 1 | -1,
): (x: number, keep: boolean, size: number | undefined) => number {
  let [row, before, streak, lastOther] = [0, NaN, 0, -Infinity]
  return (x, keep, size) => {
    const change = sign * (size === undefined ? x - before : sideOf(x, before, size))
    const now = change > 0 ? streak + 1 : 0
    const other = change <= 0 ? row : lastOther
    const answer = other > row - n ? FAILS : now >= n ? HOLDS : UNKNOWN
    if (keep) {
      before = x
      streak = now
      lastOther = other
      row++
    }
    return answer
  }
}

/** Holds now and did not on the bar before. */
export function begins(): Look {
  let before: number = UNKNOWN
  return (a, keep) => {
    const answer =
      a === FAILS || before === HOLDS ? FAILS : a === UNKNOWN || before === UNKNOWN ? UNKNOWN : HOLDS
    if (keep) before = a
    return answer
  }
}

/** Bars since a condition last held. */
export function barsSince(): Look {
  let [row, last] = [0, NaN]
  return (a, keep) => {
    const now = a === HOLDS ? row : a === UNKNOWN ? NaN : last
    const answer = row - now
    if (keep) {
      last = now
      row++
    }
    return answer
  }
}

/** Average price weighted by volume since the last bar that starts; `ins` are high, low, close and volume. */
export function vwapSince(): (starts: boolean, ins: readonly number[], keep: boolean) => number {
  let [turnover, traded] = [NaN, NaN]
  return (starts, [high, low, close, volume], keep) => {
    const money = (starts ? 0 : turnover) + ((high + low + close) / 3) * volume
    const shares = (starts ? 0 : traded) + volume
    if (keep) [turnover, traded] = [money, shares]
    return shares > 0 ? money / shares : NaN
  }
}
