import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { GAP, INSIDE } from './shared'
import { type SignWord } from './types'

/** Three-valued logic: Kleene, Introduction to Metamathematics (1952), section 64. */
const SOURCE = 'Kleene 1952, three values'

// Answers of the two sides as one number, 4 a + b, looked up.
const AND = Uint8Array.of(0, 0, 0, 0, 0, 1, 2, 0, 0, 2, 2)
const OR = Uint8Array.of(0, 1, 2, 0, 1, 1, 1, 0, 2, 1, 2)

const joining = (table: Uint8Array): Form => ({
  column: ([a, b]: readonly Column[], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = table[(a[i] << 2) | b[i]]
  },
  steps: () => (ins, outs) => {
    outs[0] = table[(ins[0] << 2) | ins[1]]
  },
})

const contrary = (a: number): number => (a === UNKNOWN ? UNKNOWN : a === HOLDS ? FAILS : HOLDS)

const negation: Form = {
  column: ([a], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = contrary(a[i])
  },
  steps: () => (ins, outs) => {
    outs[0] = contrary(ins[0])
  },
}

const word = (
  name: string,
  usage: string,
  doc: string,
  stands: SignWord['stands'],
  form: Form,
): SignWord => ({
  kind: 'sign',
  name,
  usage,
  doc,
  source: SOURCE,
  also: [],
  unknown: GAP,
  opposite: INSIDE,
  stands,
  means: { form: () => form },
})

export const LOGIC: readonly SignWord[] = [
  word('and', 'a and b', 'Both conditions: holds if both sides hold.', 'between conditions', joining(AND)),
  word(
    'or',
    'a or b',
    'Either condition: holds if at least one side holds.',
    'between conditions',
    joining(OR),
  ),
  word('not', 'not a', 'The contrary: holds if the condition fails.', 'first', negation),
]
