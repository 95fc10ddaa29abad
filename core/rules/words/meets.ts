import { AS_PRICE } from '../../indicators/types'
import { sideOf } from '../../market/paper'
import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { type RelationWord } from './types'

/**
 * Whether two values touch, from how they stood before and stand now: equal on paper or within a reach of each other,
 * or on other sides than before, so that they went through one another.
 */
function answer(before: number, a: number, b: number, reach: number): number {
  const apart = a - b
  if (apart !== apart || reach !== reach) return UNKNOWN
  if (sideOf(Math.abs(apart), reach, Math.abs(a)) <= 0) return HOLDS
  if (before !== before) return UNKNOWN
  return (before < 0 && apart > 0) || (before > 0 && apart < 0) ? HOLDS : FAILS
}

/** Inputs are the two values and how far they may be from each other. */
const form: Form = {
  column: ([a, b, reach]: readonly Column[], [out]) => {
    let before = NaN
    for (let i = 0; i < out.length; i++) {
      out[i] = answer(before, a[i], b[i], reach[i])
      before = a[i] - b[i]
    }
  },
  steps: (slots) => {
    const before = slots.cell(NaN)
    return (ins, outs, keep) => {
      outs[0] = answer(before[0], ins[0], ins[1], ins[2])
      if (keep) before[0] = ins[0] - ins[1]
    }
  },
}

export const MEETS: RelationWord = {
  kind: 'relation',
  name: 'meets',
  usage: 'x meets y',
  doc: 'Two lines touch, come within a tick of each other, or have gone through one another since the bar before; of other values than prices, are equal.',
  source: 'Definition; the tick is the price increment at the close',
  also: ['touches', 'comes within a tick'],
  unknown: 'one of its values is not known, here or on the bar before',
  opposite: { ...AS_PRICE, name: 'meets' },
  gives: 'moment',
  back: 0,
  means: {
    graph: (left, right, site) => {
      const [a, b] = site.brought(left, right)
      const price = site.isPrice(left) || site.isPrice(right)
      const reach = price
        ? site.source({ of: 'increment' })
        : site.of({ kind: 'number', value: 0, unit: 'number' })
      return site.form('meets', 'verdicts', form, [a, b, reach])
    },
  },
  say: (holds, left, right) => `${left} ${holds ? 'meets' : 'does not meet'} ${right}`,
}
