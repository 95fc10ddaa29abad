import { type Slots } from '../../indicators/slots'
import { type Indicator } from '../../indicators/types'
import { isIntraday, roughMinutes, type Timeframe } from '../../market/timeframe'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { type Column, type Form, pointwise } from './form'

/** What a graph needs between the words: operations that no word names, its fingerprint, finer bars. */

/** Two 32-bit FNV-1a hashes of a text, forwards and backwards. Source: Fowler, Noll and Vo. */
export function fingerprintOf(text: string): string {
  let [forth, back] = [0x811c9dc5, 0x811c9dc5]
  for (let i = 0; i < text.length; i++) {
    forth = Math.imul(forth ^ text.charCodeAt(i), 0x01000193)
    back = Math.imul(back ^ text.charCodeAt(text.length - 1 - i), 0x01000193)
  }
  return [forth, back].map((hash) => (hash >>> 0).toString(16).padStart(8, '0')).join('')
}

/** Numbers that stand for answers: above nought holds, nought fails. */
const answered = (x: number): number => (x > 0 ? HOLDS : x === 0 ? FAILS : UNKNOWN)
export const ANSWERS = pointwise(
  ([a], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = answered(a[i])
  },
  (ins) => answered(ins[0]),
)

/** The greatest of some values without their signs; unknown ones are passed over. */
export const SIZES: Form = pointwise(
  (ins, [out]) => {
    out.fill(0)
    for (const a of ins)
      for (let i = 0; i < out.length; i++) {
        const size = Math.abs(a[i])
        if (size > out[i]) out[i] = size
      }
  },
  (ins) => ins.reduce((most, x) => (Math.abs(x) > most ? Math.abs(x) : most), 0),
)

/** A value where another one, which says nothing else, is known. */
export const GUARD: Form = pointwise(
  ([a, known], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = a[i] + 0 * known[i]
  },
  (ins) => ins[0] + 0 * ins[1],
)

export const overIndicator = (indicator: Indicator, params: readonly number[]): Form => ({
  column: (ins: readonly Column[], outs: readonly Column[]) =>
    indicator.column(ins as readonly Float64Array[], params, outs as readonly Float64Array[]),
  steps: (slots: Slots) => indicator.steps(params, slots),
})

/** Finer bars that an indicator must be taken from because these do not end where it asks; undefined where they do. */
export function finerFrame(
  indicator: Indicator,
  params: readonly number[],
  every: Timeframe,
): Timeframe | undefined {
  const grain = indicator.grain?.(params)
  if (grain === undefined) return undefined
  if (!isIntraday(every)) return { count: grain, unit: 'min' }
  const minutes = roughMinutes(every)
  const both = greatestDivisor(grain, minutes)
  return both === minutes ? undefined : { count: both, unit: 'min' }
}

/** Source: Euclid, Elements, book VII. */
const greatestDivisor = (a: number, b: number): number => (b === 0 ? a : greatestDivisor(b, a % b))
