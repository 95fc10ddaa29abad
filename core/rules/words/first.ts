import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

/** What a session has seen of a condition so far: nothing that holds, perhaps something, or surely. */
const [NOT_YET, PERHAPS, SURELY] = [0, 1, 2]

const answer = (now: number, seen: number): number => {
  if (now === FAILS || seen === SURELY) return FAILS
  return now === UNKNOWN || seen === PERHAPS ? UNKNOWN : HOLDS
}

const seenAfter = (now: number, seen: number): number =>
  now === HOLDS || seen === SURELY ? SURELY : now === UNKNOWN ? PERHAPS : seen

/** Inputs are the condition and the number of the session. */
const form: Form = {
  column: ([condition, session]: readonly Column[], [out]) => {
    let [seen, day] = [NOT_YET, NaN]
    for (let i = 0; i < out.length; i++) {
      if (session[i] !== day) [seen, day] = [NOT_YET, session[i]]
      const now = condition[i]
      out[i] = answer(now, seen)
      seen = seenAfter(now, seen)
    }
  },
  steps: (slots) => {
    const [seen, day] = [slots.cell(NOT_YET), slots.cell(NaN)]
    return (ins, outs, keep) => {
      const before = ins[1] === day[0] ? seen[0] : NOT_YET
      outs[0] = answer(ins[0], before)
      if (!keep) return
      seen[0] = seenAfter(ins[0], before)
      day[0] = ins[1]
    }
  },
}

export const FIRST: FunctionWord = {
  kind: 'function',
  name: 'first',
  usage: 'first(condition)',
  doc: 'The first time in the session: the condition holds and has not held on a bar of this session before.',
  source: 'Definition; a session is a day of the venue',
  also: ['first time', 'once a day', 'first of the session'],
  unknown: 'the condition is not known here, or was not on a bar of this session before',
  opposite: INSIDE,
  takes: ['condition'],
  gives: 'moment',
  needs: ([of], needs) => needs(of),
  means: {
    graph: ({ args: [of] }, site) =>
      site.form('first', 'verdicts', form, [site.of(of), site.column('session')]),
  },
}
