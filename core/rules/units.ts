import { type Unit } from '../indicators/types'
import { type Arithmetic } from './tree'

export type NumberType = { is: 'number'; unit: Unit; literal: boolean }

/** Unit in which two values can be added or compared; plain numbers take the other's; "$" fits money too. */
export function commonUnit(left: NumberType, right: NumberType): Unit | undefined {
  if (left.unit === right.unit) return left.unit
  if (left.unit === 'clock' || right.unit === 'clock') return undefined
  if (left.unit === 'number') return right.unit
  if (right.unit === 'number') return left.unit
  if (left.unit === 'money' && right.unit === 'price' && right.literal) return 'money'
  if (right.unit === 'money' && left.unit === 'price' && left.literal) return 'money'
  return undefined
}

/** Unit of a product: a plain number keeps the other's unit, a percentage takes a share of it. */
export function productUnit(left: Unit, right: Unit): Unit {
  if (left === 'number') return right
  if (right === 'number') return left
  if (left === 'percent') return right
  if (right === 'percent') return left
  if ((left === 'price' && right === 'shares') || (left === 'shares' && right === 'price')) return 'money'
  return 'number'
}

export function quotientUnit(left: Unit, right: Unit): Unit {
  if (right === 'number') return left
  if (right === 'percent') return left === 'percent' ? 'number' : left
  if (left === 'money' && right === 'shares') return 'price'
  if (left === 'money' && right === 'price') return 'shares'
  return 'number'
}

/**
 * What a product or quotient is multiplied by, since percentages are held in points (5, not 0.05):
 * close * 5% is a twentieth of close, 2 * 5% is 10%, close / 50% is twice close.
 */
export function percentFactor(op: Arithmetic, left: Unit, right: Unit): number {
  const percents = Number(left === 'percent') + Number(right === 'percent')
  const plain = left === 'number' || right === 'number'
  if (op === '*' && percents > 0 && !plain) return 0.01
  if (op === '/' && right === 'percent' && left !== 'percent') return 100
  return 1
}
