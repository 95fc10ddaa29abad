import { type Drawing } from '@/core/market/drawings'
import { type IncrementBand, toTick } from '@/core/market/increment'

/** A drawing that is held by the mouse: which, by what part, and where it was taken hold of. */
export interface Held {
  drawing: Drawing
  part: 'whole' | 'from' | 'to' | 'upper' | 'lower'
  row: number
  price: number
}

/** How near the mouse must come, in pixels. */
const NEAR = 7

interface Spot {
  row: number
  price: number
  x: number
  y: number
}

/**
 * The drawing under the mouse; the one drawn last where several are. `at` gives the pixels of a row and a price,
 * `rowOf` the row of a moment.
 */
export function heldAt(
  drawings: readonly Drawing[],
  spot: Spot,
  at: (row: number, price: number) => { x: number; y: number },
  rowOf: (moment: number) => number,
): Held | undefined {
  for (const drawing of [...drawings].reverse()) {
    const part = partAt(drawing, spot, at, rowOf)
    if (part) return { drawing, part, row: spot.row, price: spot.price }
  }
  return undefined
}

function partAt(
  drawing: Drawing,
  { x, y }: Spot,
  at: (row: number, price: number) => { x: number; y: number },
  rowOf: (moment: number) => number,
): Held['part'] | undefined {
  const flat = (price: number) => Math.abs(at(0, price).y - y) <= NEAR
  if (drawing.kind === 'level') return flat(drawing.price) ? 'whole' : undefined
  if (drawing.kind === 'zone')
    return flat(drawing.upper) ? 'upper' : flat(drawing.lower) ? 'lower' : undefined
  const [one, other] = [drawing.from, drawing.to].map((end) => at(rowOf(end.time), end.price))
  if (Math.hypot(one.x - x, one.y - y) <= 1.6 * NEAR) return 'from'
  if (Math.hypot(other.x - x, other.y - y) <= 1.6 * NEAR) return 'to'
  const run = other.x - one.x
  if (run === 0) return Math.abs(x - one.x) <= NEAR ? 'whole' : undefined
  // The line runs on to both sides.
  return Math.abs(one.y + ((x - one.x) / run) * (other.y - one.y) - y) <= NEAR ? 'whole' : undefined
}

/** Price steps of securities that name none: cents, ten-thousandths below one. */
export const USUAL_STEPS: readonly IncrementBand[] = [
  { from: 0, step: 0.0001 },
  { from: 1, step: 0.01 },
]

/** The drawing as it is when what is held of it is at another place; prices on the security's own steps. */
export function draggedTo(
  { drawing, part, row, price }: Held,
  to: { row: number; price: number },
  steps: readonly IncrementBand[],
  shift: (moment: number, rows: number) => number,
): Drawing {
  const on = (value: number) => toTick(steps, Math.max(value, 0))
  const by = to.price - price
  if (drawing.kind === 'level') return { ...drawing, price: on(drawing.price + by) }
  if (drawing.kind === 'zone') {
    const moved = part === 'upper' ? drawing.upper + by : drawing.lower + by
    const [lower, upper] = [
      part === 'upper' ? drawing.lower : on(moved),
      part === 'upper' ? on(moved) : drawing.upper,
    ]
    return lower <= upper ? { ...drawing, lower, upper } : { ...drawing, lower: upper, upper: lower }
  }
  const rows = to.row - row
  const end = (point: { time: number; price: number }) => ({
    time: shift(point.time, rows),
    price: on(point.price + by),
  })
  return {
    ...drawing,
    from: part === 'to' ? drawing.from : end(drawing.from),
    to: part === 'from' ? drawing.to : end(drawing.to),
  }
}
