import { sideOf } from '../../market/paper'
import { type Maker } from './maker'
import { type Step } from './primitives'

/** Incremental forms of what hangs on everything before it: turning points, stops that follow, averages that adapt. */

/** The price of a turning point that becomes known with a value, `reach` bars after it; NaN where none does. */
function turning(reach: number, sign: 1 | -1): Step {
  const width = 2 * reach + 1
  const ring = new Float64Array(width).fill(NaN)
  let at = 0
  return (x, keep) => {
    const back = (bars: number) => (bars === 0 ? x : ring[(at - bars + width) % width])
    const price = back(reach)
    let turns = price === price
    for (let k = 0; turns && k < width; k++) {
      if (k === reach) continue
      const [other, peak] = [sign * back(k), sign * price]
      turns = k > reach ? other < peak : other <= peak
    }
    if (keep) {
      ring[at] = x
      at = (at + 1) % width
    }
    return turns ? price : NaN
  }
}

const swing: Maker = ([reach]) => {
  const [high, low] = [turning(reach, 1), turning(reach, -1)]
  let [top, bottom] = [NaN, NaN]
  return (ins, outs, keep) => {
    const [up, down] = [high(ins[0], keep), low(ins[1], keep)]
    outs[0] = up === up ? up : top
    outs[1] = down === down ? down : bottom
    if (keep) [top, bottom] = [outs[0], outs[1]]
  }
}

/** The nearest of the last turning prices above (1) or below (-1) the close. */
const nearest =
  (sign: 1 | -1): Maker =>
  ([count, reach]) => {
    const [high, low] = [turning(reach, 1), turning(reach, -1)]
    let last: number[] = []
    return (ins, outs, keep) => {
      const [up, down] = [high(ins[0], keep), low(ins[1], keep)]
      let now = last
      if (up === up) now = [...now, up].slice(-count)
      if (down === down) now = [...now, down].slice(-count)
      let best = NaN
      for (const price of now) if (sign * (price - ins[2]) > 0 && !(sign * (price - best) >= 0)) best = price
      outs[0] = best
      if (keep) last = now
    }
  }

/** What the last two tops and bottoms say: 1 rising, -1 falling, 0 neither; as a state where `wanted` is given. */
const trend =
  (wanted?: number): Maker =>
  ([reach]) => {
    const [high, low] = [turning(reach, 1), turning(reach, -1)]
    let [top, topBefore, bottom, bottomBefore] = [NaN, NaN, NaN, NaN]
    return (ins, outs, keep) => {
      const [up, down] = [high(ins[0], keep), low(ins[1], keep)]
      const [now, before] = up === up ? [up, top] : [top, topBefore]
      const [nowLow, beforeLow] = down === down ? [down, bottom] : [bottom, bottomBefore]
      const known = before === before && beforeLow === beforeLow
      const way = now > before && nowLow > beforeLow ? 1 : now < before && nowLow < beforeLow ? -1 : 0
      outs[0] = !known ? NaN : wanted === undefined ? way : Number(way === wanted)
      if (keep) [top, topBefore, bottom, bottomBefore] = [now, before, nowLow, beforeLow]
    }
  }

/** Wilder's stop and reverse; the recurrence is that of the column. */
const parabolic: Maker = ([step, limit]) => {
  let [high1, high2, low1, low2] = [NaN, NaN, NaN, NaN]
  let rows = 0
  let [way, stop, extreme, speed] = [0, NaN, NaN, step]
  return (ins, outs, keep) => {
    const [high, low] = [ins[0], ins[1]]
    let [nowWay, nowStop, nowExtreme, nowSpeed] = [way, stop, extreme, speed]
    outs[0] = outs[1] = outs[2] = NaN
    if (!(rows > 0 && high - low + high1 - low1 >= 0)) nowWay = 0
    else {
      if (way === 0) {
        nowWay = sideOf(high + low, high1 + low1) >= 0 ? 1 : -1
        nowStop = nowWay > 0 ? low1 : high1
        nowExtreme = nowWay > 0 ? Math.max(high, high1) : Math.min(low, low1)
        nowSpeed = step
      } else {
        nowStop += speed * (extreme - stop)
        const [h, l] = rows > 1 && high2 === high2 ? [high2, low2] : [high1, low1]
        nowStop = way > 0 ? Math.min(nowStop, low1, l) : Math.max(nowStop, high1, h)
        if (way > 0 ? sideOf(low, nowStop) < 0 : sideOf(high, nowStop) > 0) {
          nowWay = -way
          nowStop = extreme
          nowExtreme = nowWay > 0 ? high : low
          nowSpeed = step
        } else if (way > 0 ? high > extreme : low < extreme) {
          nowExtreme = way > 0 ? high : low
          nowSpeed = Math.min(limit, speed + step)
        }
      }
      outs[0] = nowStop
      outs[1] = nowWay
      outs[2] = way !== 0 && way !== nowWay ? nowWay : 0
    }
    if (!keep) return
    ;[way, stop, extreme, speed] = [nowWay, nowStop, nowExtreme, nowSpeed]
    ;[high2, low2, high1, low1] = [high1, low1, high, low]
    rows++
  }
}

const kaufman: Maker = ([n, fast, slow]) => {
  const [quick, calm] = [2 / (fast + 1), 2 / (slow + 1)]
  const width = n + 2
  const ring = new Float64Array(width).fill(NaN)
  let [row, known, path, value] = [0, 0, 0, NaN]
  return (ins, outs, keep) => {
    const x = ins[0]
    const back = (bars: number) => (bars === 0 ? x : ring[(row - bars + width * 2) % width])
    const nowKnown = x === x ? known + 1 : 0
    let [nowPath, nowValue] = [path, x]
    outs[0] = NaN
    if (nowKnown > n) {
      // Begun anew as in the column, so that rounding cannot pile up in the path.
      if (nowKnown === n + 1 || row % 64 === 0) {
        nowPath = 0
        for (let k = n - 1; k >= 0; k--) nowPath += Math.abs(back(k) - back(k + 1))
      } else nowPath += Math.abs(x - back(1)) - Math.abs(back(n) - back(n + 1))
      const straight = nowPath > 0 ? Math.min(1, Math.abs(x - back(n)) / nowPath) : 0
      const weight = straight * (quick - calm) + calm
      nowValue = value + weight * weight * (x - value)
      outs[0] = nowValue
    }
    if (!keep) return
    ring[row % width] = x
    row++
    ;[known, path, value] = [nowKnown, nowPath, nowValue]
  }
}

/** What had been traded by each minute of the day in the last sessions: a ring and its sum for every minute. */
interface ByThen {
  ring: Float64Array
  held: number
  at: number
  sum: number
}

/** Volume of the session so far against what is usual by this time; the column is made of this. */
export const usualVolume: Maker = ([n]) => {
  const minutes = new Map<number, ByThen>()
  let [traded, sessionBefore] = [0, NaN]
  return (ins, outs, keep) => {
    const [volume, session, clock] = [ins[0], ins[1], ins[2]]
    const now = session === sessionBefore ? traded + volume : volume
    const then = minutes.get(clock)
    const usual = then && then.held === n ? then.sum / n : NaN
    outs[0] = usual > 0 ? now / usual : NaN
    if (!keep) return
    traded = now
    sessionBefore = session
    if (now === now) remember(minutes, clock, n, now)
  }
}

function remember(minutes: Map<number, ByThen>, clock: number, n: number, traded: number): void {
  let then = minutes.get(clock)
  if (!then) minutes.set(clock, (then = { ring: new Float64Array(n), held: 0, at: 0, sum: 0 }))
  // Volumes are whole numbers: their sum is exact, whatever leaves it.
  then.sum += traded - (then.held === n ? then.ring[then.at] : 0)
  then.ring[then.at] = traded
  then.at = (then.at + 1) % n
  then.held = Math.min(n, then.held + 1)
}

export const TURNING: Record<string, Maker> = {
  swing,
  parabolic,
  kaufman,
  support: nearest(-1),
  resistance: nearest(1),
  trend: trend(),
  'trend up': trend(1),
  'trend down': trend(-1),
  'trend sideways': trend(0),
  usualvolume: usualVolume,
}
