import * as z from 'zod'
import { type Slots } from '../indicators/slots'
import { Moment } from './momentText'

const named = { id: z.string(), name: z.string().max(60) }
const point = z.object({ time: Moment, price: z.number() })

/** What a trader draws on a chart, anchored at prices and moments (epoch milliseconds once read). */
export const Drawing = z.discriminatedUnion('kind', [
  z.object({ ...named, kind: z.literal('level'), price: z.number() }),
  z.object({ ...named, kind: z.literal('line'), from: point, to: point }),
  z.object({ ...named, kind: z.literal('zone'), upper: z.number(), lower: z.number() }),
])
export type Drawing = z.infer<typeof Drawing>

/**
 * The price of a drawing at each bar. A line is straight over the bars, not over the clock, so that nights and
 * weekends do not bend it; it runs on to both sides. `output` 'lower' is a zone's lower edge.
 */
export function drawnColumn(
  drawing: Drawing,
  time: Float64Array,
  output: string | undefined,
  out: Float64Array,
): void {
  if (drawing.kind === 'level') out.fill(drawing.price)
  else if (drawing.kind === 'zone') out.fill(output === 'lower' ? drawing.lower : drawing.upper)
  else {
    const [from, to] = [placeOf(drawing.from.time, time), placeOf(drawing.to.time, time)]
    const rise = to === from ? NaN : (drawing.to.price - drawing.from.price) / (to - from)
    for (let i = 0; i < out.length; i++) out[i] = drawing.from.price + (i - from) * rise
  }
}

/** Where a moment lies among the bars, with parts of a bar; beyond the last by the usual distance of bars. */
export function placeOf(moment: number, time: Float64Array): number {
  const n = time.length
  if (n < 2) return 0
  let [low, high] = [0, n - 1]
  if (moment >= time[high]) return high + (moment - time[high]) / (time[high] - time[high - 1])
  if (moment <= time[0]) return (moment - time[0]) / (time[1] - time[0])
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (time[middle] <= moment) low = middle
    else high = middle
  }
  return low + (moment - time[low]) / (time[high] - time[low])
}

/**
 * A drawn line followed one bar at a time: the same price as drawnColumn has on the last of the bars so far. Where its
 * ends lie among the bars is kept as the bars pass them; an end that is moved into the past is not known any more.
 */
export class LineFollower {
  /** Rows that were kept, and the starts of the first, the second and the last of them. */
  private readonly rows: Float64Array
  private readonly starts: Float64Array
  /** Of each end: the moment, and its place once bars on both sides of it are known. */
  private readonly ends: readonly Float64Array[]

  constructor(slots: Slots) {
    this.rows = slots.cell()
    this.starts = slots.take(3, NaN)
    this.ends = [slots.take(2, NaN), slots.take(2, NaN)]
  }

  /** The line's price at the bar that starts at `time`; unknown without a line. */
  at(line: Extract<Drawing, { kind: 'line' }> | undefined, time: number, keep: boolean): number {
    const row = this.rows[0]
    const places =
      line && [line.from, line.to].map((end, k) => this.place(this.ends[k], end.time, row, time, keep))
    if (keep) {
      if (row < 2) this.starts[row] = time
      this.starts[2] = time
      this.rows[0]++
    }
    if (!line || !places) return NaN
    const [from, to] = places
    const rise = to === from ? NaN : (line.to.price - line.from.price) / (to - from)
    return line.from.price + (row - from) * rise
  }

  private place(end: Float64Array, moment: number, row: number, time: number, keep: boolean): number {
    if (row === 0) return 0
    const [first, second, last] = [this.starts[0], row === 1 ? time : this.starts[1], this.starts[2]]
    if (moment >= time) return row + (moment - time) / (time - last)
    if (moment <= first) return (moment - first) / (second - first)
    if (moment >= last) {
      const place = row - 1 + (moment - last) / (time - last)
      if (keep) {
        end[0] = moment
        end[1] = place
      }
      return place
    }
    return end[0] === moment ? end[1] : NaN
  }
}
