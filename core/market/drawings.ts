import { z } from 'zod'

const named = { id: z.string(), name: z.string().max(60) }
const point = z.object({ time: z.number(), price: z.number() })

/** What a trader draws on a chart, anchored at prices and moments (epoch milliseconds). */
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
