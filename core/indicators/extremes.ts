import { room } from './slidingSum'
import * as step from './steps'
import { one } from './steps'
import { GAP, type Indicator, length, value } from './types'

/** Greatest value of a moving window by blocks (van Herk 1992); unknown while one of the window is. */
export function slidingHighest(src: Float64Array, n: number, out: Float64Array): void {
  const rest = room(n + 1)
  rest.fill(NaN, 0, n)
  rest[n] = -Infinity
  for (let start = 0; start < src.length; start += n) {
    const end = Math.min(start + n, src.length)
    let come = -Infinity
    for (let i = start, k = 1; i < end; i++, k++) {
      come = greater(come, src[i])
      out[i] = greater(rest[k], come)
    }
    let left = -Infinity
    for (let k = n - 1, i = start + k; k >= 0; k--, i--) rest[k] = left = greater(left, src[i])
  }
}

/** The same for the least. */
export function slidingLowest(src: Float64Array, n: number, out: Float64Array): void {
  const rest = room(n + 1)
  rest.fill(NaN, 0, n)
  rest[n] = Infinity
  for (let start = 0; start < src.length; start += n) {
    const end = Math.min(start + n, src.length)
    let come = Infinity
    for (let i = start, k = 1; i < end; i++, k++) {
      come = lesser(come, src[i])
      out[i] = lesser(rest[k], come)
    }
    let left = Infinity
    for (let k = n - 1, i = start + k; k >= 0; k--, i--) rest[k] = left = lesser(left, src[i])
  }
}

// An unknown side makes both comparisons fail and the sum unknown.
const greater = (a: number, b: number): number => (a > b ? a : a <= b ? b : NaN)
const lesser = (a: number, b: number): number => (a < b ? a : a >= b ? b : NaN)

export const highest: Indicator = {
  name: 'highest',
  also: ['max', 'maximum', 'hhv'],
  opposite: { goes: 'price', name: 'lowest' },
  unknown: GAP,
  input: 'series',
  parameters: [length('length')],
  outputs: [{ name: 'value', unit: 'input' }],
  warmUp: ([n]) => n,
  doc: 'Greatest value of the last bars, this one included.',
  source: 'Definition',
  column: ([src], [n], [out]) => slidingHighest(src, n, out),
  steps: one(([n], slots) => step.extreme(slots, n, 1)),
}

export const lowest: Indicator = {
  name: 'lowest',
  also: ['min', 'minimum', 'llv'],
  opposite: { goes: 'price', name: 'highest' },
  unknown: GAP,
  input: 'series',
  parameters: [length('length')],
  outputs: [{ name: 'value', unit: 'input' }],
  warmUp: ([n]) => n,
  doc: 'Least value of the last bars, this one included.',
  source: 'Definition',
  column: ([src], [n], [out]) => slidingLowest(src, n, out),
  steps: one(([n], slots) => step.extreme(slots, n, -1)),
}

/** A close that no other of the last n is beyond. */
const newExtreme = (
  name: 'new high' | 'new low',
  also: readonly string[],
  doc: string,
  sign: 1 | -1,
  of: (src: Float64Array, n: number, out: Float64Array) => void,
): Indicator => ({
  name,
  also,
  opposite: { goes: 'price', name: name === 'new high' ? 'new low' : 'new high' },
  unknown: GAP,
  input: ['close'],
  parameters: [length('length', 252)],
  outputs: value('state'),
  warmUp: ([n]) => n,
  doc,
  source: 'Common practice: closing prices, 252 sessions for 52 weeks',
  column: ([close], [n], [out]) => {
    of(close, n, out)
    for (let i = 0; i < out.length; i++) if (out[i] === out[i]) out[i] = Number(close[i] === out[i])
  },
  steps: ([n], slots) => {
    const furthest = step.extreme(slots, n, sign)
    return (ins, outs, keep) => {
      const close = ins[0]
      const x = furthest(close, keep)
      outs[0] = x === x ? Number(close === x) : NaN
    }
  },
})

export const newHigh = newExtreme(
  'new high',
  ['52 week high', 'year high', 'breakout'],
  'The close is the highest of the last bars, this one included; of 52 weeks where no length is given.',
  1,
  slidingHighest,
)

export const newLow = newExtreme(
  'new low',
  ['52 week low', 'year low', 'breakdown'],
  'The close is the lowest of the last bars, this one included; of 52 weeks where no length is given.',
  -1,
  slidingLowest,
)
