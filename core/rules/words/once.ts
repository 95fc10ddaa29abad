import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

/** Whether the condition may hold again: nothing is in the way, perhaps something, or surely. */
const [FREE, PERHAPS, USED] = [0, 1, 2]

/** What frees it comes before what it is asked, on the same bar. */
const freed = (until: number, used: number): number =>
  until === HOLDS ? FREE : until === UNKNOWN && used === USED ? PERHAPS : used

const answer = (now: number, used: number): number => {
  if (now === FAILS || used === USED) return FAILS
  return now === UNKNOWN || used === PERHAPS ? UNKNOWN : HOLDS
}

const usedAfter = (now: number, used: number): number =>
  now === HOLDS ? USED : now === UNKNOWN && used === FREE ? PERHAPS : used

const form: Form = {
  column: ([condition, until]: readonly Column[], [out]) => {
    let used = FREE
    for (let i = 0; i < out.length; i++) {
      used = freed(until[i], used)
      out[i] = answer(condition[i], used)
      used = usedAfter(condition[i], used)
    }
  },
  steps: (slots) => {
    const kept = slots.cell(FREE)
    return (ins, outs, keep) => {
      const used = freed(ins[1], kept[0])
      outs[0] = answer(ins[0], used)
      if (keep) kept[0] = usedAfter(ins[0], used)
    }
  },
}

export const ONCE: FunctionWord = {
  kind: 'function',
  name: 'once',
  usage: 'once(condition, until)',
  doc: 'Holds where the first condition does, and then not again until the second has: once(close > ema(close, 50), close < ema(close, 50)).',
  source: 'Definition',
  also: ['not again until', 'alternate signals', 'one signal each way'],
  unknown: 'a condition is not known here, or was not since it last held',
  opposite: INSIDE,
  takes: ['condition', 'condition'],
  gives: 'moment',
  needs: ([of, until], needs) => Math.max(needs(of), needs(until)),
  means: { form: () => form },
}
