import { type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

/** Holds now and did not on the bar before. */
const answer = (now: number, before: number): number =>
  now === FAILS || before === HOLDS ? FAILS : now === UNKNOWN || before === UNKNOWN ? UNKNOWN : HOLDS

const form: Form = {
  column: ([a], [out]) => {
    let before: number = UNKNOWN
    for (let i = 0; i < out.length; i++) {
      const now = a[i]
      out[i] = answer(now, before)
      before = now
    }
  },
  steps: (slots) => {
    const before = slots.cell(UNKNOWN)
    return (ins, outs, keep) => {
      outs[0] = answer(ins[0], before[0])
      if (keep) before[0] = ins[0]
    }
  },
}

export const BEGINS: FunctionWord = {
  kind: 'function',
  name: 'begins',
  usage: 'begins(condition)',
  doc: 'The moment at which a condition comes true: it holds now and did not on the bar before.',
  source: 'Definition',
  also: ['becomes true', 'starts'],
  unknown: 'the condition is not known here or on the bar before',
  opposite: INSIDE,
  takes: ['condition'],
  gives: 'moment',
  needs: ([of], needs) => needs(of) + 1,
  means: { form: () => form },
}
