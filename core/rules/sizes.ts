import { INDICATORS } from '../indicators'
import { type Unit } from '../indicators/types'
import { type Node } from './tree'
import { NAMES } from './words'

/**
 * Of what size the numbers are from which two sides of a comparison were made, so that what is equal on paper is told
 * from what is not (see market/paper): the difference of two prices may be nought and carries the rounding of prices.
 */
export interface Sizes {
  /** Parts whose values tell the size; the sides themselves always do. */
  of: Node[]
  /** The close tells it too: prices that were worked out. */
  close: boolean
  /** The least size: percentages and plain figures of indicators are made of numbers about so large. */
  least: number
}

/** A percentage is a hundred times the difference of a quotient from one. */
const PERCENT = 100

/** Figures up to a hundred that are quotients of small changes: what those lost to rounding is multiplied in them. */
const FIGURE = 1_000

/** Whether a value is taken as it stands, so that nothing was rounded on the way. */
const isPlain = (node: Node): boolean =>
  node.kind === 'number' || node.kind === 'time' || (node.kind === 'name' && NAMES.has(node.name))

/** The sizes for comparing values; undefined where all are plain and compared to the last bit. */
export function sizesOf(sides: readonly Node[], unitOf: (node: Node) => Unit): Sizes | undefined {
  if (sides.every(isPlain)) return undefined
  const out: Sizes = { of: [], close: false, least: 0 }
  const visit = (node: Node, top: boolean): void => {
    if (node.kind === 'negate') return visit(node.of, top)
    if (node.kind === 'arith' && (node.op === '+' || node.op === '-')) {
      visit(node.left, false)
      visit(node.right, false)
      return
    }
    if (node.kind === 'arith') {
      // A multiple is as exact as what it is a multiple of.
      if (node.right.kind === 'number') visit(node.left, false)
      else if (node.left.kind === 'number') visit(node.right, false)
    }
    if (!top && node.kind !== 'number') out.of.push(node)
    const unit = unitOf(node)
    if (unit === 'price' && !isPlain(node)) out.close = true
    else if (unit === 'percent' && node.kind !== 'number') out.least = Math.max(out.least, PERCENT)
    else if (unit === 'number' && isFigureOfIndicator(node)) out.least = Math.max(out.least, FIGURE)
  }
  for (const side of sides) visit(side, true)
  return out
}

const isFigureOfIndicator = (node: Node): boolean =>
  (node.kind === 'call' || node.kind === 'name') && INDICATORS.get(node.name) !== undefined
