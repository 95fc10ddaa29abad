import { INDICATORS } from '../indicators'
import { type Bars } from '../market/bars'
import { sideOf } from '../market/paper'

/** How the securities of a market moved together, a row for each bar time, oldest first. */
export interface Breadth {
  time: Float64Array
  /** Securities with a bar at that time. */
  counted: Float64Array
  /** Closes that are the highest, or the lowest, of the last `lookBack` closes. */
  highs: Float64Array
  lows: Float64Array
  advancing: Float64Array
  declining: Float64Array
  /** Share of those that have enough bars, in percent; unknown where none has. */
  above50: Float64Array
  above200: Float64Array
}

/** Advancing less declining securities, at each bar time. */
export const netAdvances = ({ advancing, declining }: Breadth): Float64Array =>
  advancing.map((up, i) => up - declining[i])

/** Sessions of a year, over which a close is new (common practice). */
export const YEAR = 252

const scratch: Record<string, Float64Array> = {}

/** A column of an indicator in room of its own, scratch for the next security. */
const column = (name: string, close: Float64Array, n: number): Float64Array => {
  const key = `${name} ${n}`
  const out =
    scratch[key]?.length === close.length ? scratch[key] : (scratch[key] = new Float64Array(close.length))
  INDICATORS.get(name)!.column([close], [n], [out])
  return out
}

/** Counts of some securities at each bar time; several of them add up. */
export interface BreadthCounts {
  /** By bar time: counted, highs, lows, advancing, declining, above 50, with 50, above 200, with 200. */
  rows: Map<number, Float64Array>
}

const COUNTED = ['counted', 'highs', 'lows', 'advancing', 'declining'] as const

/** Counts new closing highs and lows, rises and falls, and closes above their averages, at each bar time. */
export function countBreadth(securities: Iterable<Bars>, lookBack = YEAR): BreadthCounts {
  const rows = new Map<number, Float64Array>()
  for (const { time, close } of securities) {
    const [top, bottom] = [column('highest', close, lookBack), column('lowest', close, lookBack)]
    const [fifty, twoHundred] = [column('sma', close, 50), column('sma', close, 200)]
    for (let i = 0; i < close.length; i++) {
      const x = close[i]
      if (x !== x) continue
      let row = rows.get(time[i])
      if (!row) rows.set(time[i], (row = new Float64Array(9)))
      row[0]++
      if (x === top[i]) row[1]++
      if (x === bottom[i]) row[2]++
      if (i > 0 && x > close[i - 1]) row[3]++
      if (i > 0 && x < close[i - 1]) row[4]++
      if (fifty[i] === fifty[i]) row[6]++
      if (sideOf(x, fifty[i]) > 0) row[5]++
      if (twoHundred[i] === twoHundred[i]) row[8]++
      if (sideOf(x, twoHundred[i]) > 0) row[7]++
    }
  }
  return { rows }
}

/** Adds the counts of more securities to the first. */
export function addBreadth(to: BreadthCounts | undefined, more: BreadthCounts): BreadthCounts {
  if (!to) return more
  for (const [time, counts] of more.rows) {
    const row = to.rows.get(time)
    if (row) for (let k = 0; k < row.length; k++) row[k] += counts[k]
    else to.rows.set(time, counts)
  }
  return to
}

/** Counts as columns over time, shares in percent. */
export function finishBreadth({ rows }: BreadthCounts): Breadth {
  const time = Float64Array.from(rows.keys()).sort()
  const make = (of: (row: Float64Array) => number) => Float64Array.from(time, (t) => of(rows.get(t)!))
  const share = (above: number, enough: number) =>
    make((row) => (row[enough] > 0 ? (100 * row[above]) / row[enough] : NaN))
  const counts = Object.fromEntries(COUNTED.map((name, k) => [name, make((row) => row[k])])) as Record<
    (typeof COUNTED)[number],
    Float64Array
  >
  return { time, ...counts, above50: share(5, 6), above200: share(7, 8) }
}

/** How securities moved together, counted in one go. */
export const breadth = (securities: Iterable<Bars>, lookBack = YEAR): Breadth =>
  finishBreadth(countBreadth(securities, lookBack))

export type Lean = 'up' | 'down' | 'neither'

/** Bars over which the lean is told, and how many times the other side one side must be. */
const LEAN_OVER = 5
const LEAN_TIMES = 1.5

const lately = ({ highs, lows }: Pick<Breadth, 'highs' | 'lows'>) => {
  const sum = (xs: Float64Array) => xs.slice(-LEAN_OVER).reduce((a, b) => a + b, 0)
  return { up: sum(highs), down: sum(lows) }
}

/** Which way a market leans: new highs against new lows over the last five bars (our own measure). */
export function leanOf(all: Pick<Breadth, 'highs' | 'lows'>): Lean {
  const { up, down } = lately(all)
  if (up > LEAN_TIMES * down) return 'up'
  return down > LEAN_TIMES * up ? 'down' : 'neither'
}

const MEANS: Record<Lean, string> = {
  up: 'The market leans up: longs go with it, shorts against it.',
  down: 'The market leans down: shorts go with it, longs against it.',
  neither: 'The market leans neither way: neither longs nor shorts have it behind them.',
}

const count = (n: number) => (n === 0 ? 'None' : n.toLocaleString('en-US'))

/** What the last bars say, and what that means for longs and shorts. Empty where nothing is known. */
export function sayBreadth(all: Breadth, lookBack = YEAR): string {
  const last = all.time.length - 1
  if (last < 0) return ''
  const { up, down } = lately(all)
  const since = lookBack === YEAR ? 'a year' : `${lookBack} bars`
  return `${count(all.highs[last])} closed at a new high of ${since}, ${count(all.lows[last]).toLowerCase()} at a new low; over five bars ${up} against ${down}. ${MEANS[leanOf(all)]}`
}
