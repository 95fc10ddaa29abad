import { type Form } from '../exec/form'
import { HOLDS, UNKNOWN } from '../verdict'
import { GAP, INSIDE } from './shared'
import { type SignWord } from './types'

/** How many of several conditions hold; unknown where one is. */
const counting = (count: number): Form => ({
  column: (ins, [out]) => {
    out.fill(0)
    for (const a of ins)
      for (let i = 0; i < out.length; i++) out[i] += a[i] === UNKNOWN ? NaN : a[i] === HOLDS ? 1 : 0
  },
  steps: () => (ins, outs) => {
    let sum = 0
    for (let k = 0; k < count; k++) sum += ins[k] === UNKNOWN ? NaN : ins[k] === HOLDS ? 1 : 0
    outs[0] = sum
  },
})

/** "all of" and "any of" are spread to "and" and "or" before anything is computed (see fan.ts). */
const fan = (each: string, doc: string, also: string[]): SignWord => ({
  kind: 'sign',
  name: `${each} of`,
  usage: `${each} of (a, b, …)`,
  doc,
  source: 'Definition',
  also,
  unknown: GAP,
  opposite: INSIDE,
  stands: 'first',
  means: { form: ({ count }) => counting(count) },
})

export const FANS: readonly SignWord[] = [
  fan(
    'all',
    'Every one of several conditions, or values beside a comparison: close > all of (ema(9), ema(33)).',
    ['every'],
  ),
  fan('any', 'At least one of several conditions, or values beside a comparison.', ['some']),
  fan('count', 'A number: how many of several conditions hold.', ['score', 'how many']),
]
