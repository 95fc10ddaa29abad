import { INDICATORS } from '../indicators'
import { type Bars } from '../market/bars'

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

/** Sessions of a year, over which a close is new (common practice). */
export const YEAR = 252

const column = (name: string, close: Float64Array, n: number): Float64Array => {
  const out = new Float64Array(close.length)
  INDICATORS.get(name)!.column([close], [n], [out])
  return out
}

/** Counts new closing highs and lows, rises and falls, and closes above their averages, at each bar time. */
export function breadth(securities: readonly Bars[], lookBack = YEAR): Breadth {
  const time = Float64Array.from(new Set(securities.flatMap((bars) => [...bars.time]))).sort()
  const rowOf = new Map(Array.from(time, (moment, row) => [moment, row]))
  const make = () => new Float64Array(time.length)
  const out: Breadth = {
    time,
    counted: make(),
    highs: make(),
    lows: make(),
    advancing: make(),
    declining: make(),
    above50: make(),
    above200: make(),
  }
  const enough = { above50: make(), above200: make() }
  for (const bars of securities) {
    const { close } = bars
    const [top, bottom] = [column('highest', close, lookBack), column('lowest', close, lookBack)]
    const averages = { above50: column('sma', close, 50), above200: column('sma', close, 200) }
    for (let i = 0; i < close.length; i++) {
      const row = rowOf.get(bars.time[i])!
      if (close[i] !== close[i]) continue
      out.counted[row]++
      if (close[i] === top[i]) out.highs[row]++
      if (close[i] === bottom[i]) out.lows[row]++
      if (i > 0 && close[i] > close[i - 1]) out.advancing[row]++
      if (i > 0 && close[i] < close[i - 1]) out.declining[row]++
      for (const name of ['above50', 'above200'] as const) {
        const average = averages[name][i]
        if (average !== average) continue
        enough[name][row]++
        if (close[i] > average) out[name][row]++
      }
    }
  }
  for (const name of ['above50', 'above200'] as const)
    for (let row = 0; row < time.length; row++)
      out[name][row] = enough[name][row] > 0 ? (100 * out[name][row]) / enough[name][row] : NaN
  return out
}

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
