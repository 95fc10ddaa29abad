import { type Column, type Form, pointwise } from '../exec/form'
import { GAP, INSIDE } from './shared'
import { type FunctionWord, type SignWord } from './types'

/** Plain loops over whole columns; NaN is unknown and spreads. */

const PLUS: Form = pointwise(
  ([a, b]: readonly Column[], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = a[i] + b[i]
  },
  (ins) => ins[0] + ins[1],
)

const MINUS: Form = pointwise(
  ([a, b]: readonly Column[], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = a[i] - b[i]
  },
  (ins) => ins[0] - ins[1],
)

const TIMES: Form = pointwise(
  ([a, b]: readonly Column[], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = a[i] * b[i]
  },
  (ins) => ins[0] * ins[1],
)

/** Division by nothing has no answer: unknown, never infinite. */
const OVER: Form = pointwise(
  ([a, b]: readonly Column[], [out]) => {
    for (let i = 0; i < out.length; i++) out[i] = b[i] === 0 ? NaN : a[i] / b[i]
  },
  (ins) => (ins[1] === 0 ? NaN : ins[0] / ins[1]),
)

/** A multiple: the other sign of a value, or one brought to another scale. */
export const scaled = (factor: number): Form =>
  pointwise(
    ([a], [out]) => {
      for (let i = 0; i < out.length; i++) out[i] = a[i] * factor
    },
    (ins) => ins[0] * factor,
  )

const sign = (name: string, usage: string, doc: string, form: Form, unknown = GAP): SignWord => ({
  kind: 'sign',
  name,
  usage,
  doc,
  source: 'Definition',
  also: [],
  unknown,
  opposite: INSIDE,
  stands: 'between values',
  means: { form: () => form },
})

const ABS: FunctionWord = {
  kind: 'function',
  name: 'abs',
  usage: 'abs(x)',
  doc: 'The size of a number without its sign.',
  source: 'Definition',
  also: ['absolute'],
  unknown: GAP,
  opposite: { goes: 'inside', distance: true },
  takes: ['number'],
  gives: 'input',
  needs: ([of], needs) => needs(of),
  means: {
    form: () =>
      pointwise(
        ([a], [out]) => {
          for (let i = 0; i < out.length; i++) out[i] = Math.abs(a[i])
        },
        (ins) => Math.abs(ins[0]),
      ),
  },
}

export const ARITHMETIC: readonly (SignWord | FunctionWord)[] = [
  sign('+', 'x + y', 'The sum of two values of one unit.', PLUS),
  sign('-', 'x - y, -x', 'The difference of two values of one unit; before a value, its other sign.', MINUS),
  sign('*', 'x * y', 'The product: close * 5% is a twentieth of close, close * volume is money.', TIMES),
  sign(
    '/',
    'x / y',
    'The quotient; unknown where y is nought.',
    OVER,
    'it is divided by nought, or one of its values is not known',
  ),
  ABS,
]
