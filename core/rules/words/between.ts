import { AS_PRICE } from '../../indicators/types'
import { sideOf } from '../../market/paper'
import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { sizeAt } from './compare'
import { GAP } from './shared'
import { type Paper, type SignWord } from './types'

function within(x: number, low: number, high: number, size: number | undefined): number {
  if (x !== x || low !== low || high !== high) return UNKNOWN
  if (size === undefined) return x >= low && x <= high ? HOLDS : FAILS
  return sideOf(x, low, size) >= 0 && sideOf(x, high, size) <= 0 ? HOLDS : FAILS
}

/** Whether a first value lies from a second to a third. */
export const betweenForm = (paper: Paper | undefined): Form => ({
  column: ([a, low, high, of]: readonly Column[], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = within(a[i], low[i], high[i], paper && sizeAt(paper, of, i))
  },
  steps: () => (ins, outs) => {
    outs[0] = within(ins[0], ins[1], ins[2], paper && sizeAt(paper, ins, 3))
  },
})

export const BETWEEN: SignWord = {
  kind: 'sign',
  name: 'between',
  usage: 'x between low and high',
  doc: 'From low to high, both included.',
  source: 'Definition',
  also: ['range'],
  unknown: GAP,
  opposite: AS_PRICE,
  stands: 'between values',
  means: { form: ({ paper }) => betweenForm(paper) },
}
