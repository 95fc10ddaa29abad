import { type Form, pointwise } from '../exec/form'
import { GAP } from './shared'
import { type FunctionWord } from './types'

/** The smaller (sign 1) or the greater (-1) of several; unknown where one is. */
function furthest(sign: 1 | -1): Form {
  const pick = (a: number, b: number) => (sign * a < sign * b ? a : sign * a >= sign * b ? b : NaN)
  return pointwise(
    ([first, ...rest], [out]) => {
      out.set(first)
      for (const b of rest) for (let i = 0; i < out.length; i++) out[i] = pick(out[i], b[i])
    },
    (ins) => ins.reduce(pick),
  )
}

const word = (
  name: 'least' | 'greatest',
  doc: string,
  also: readonly string[],
  sign: 1 | -1,
): FunctionWord => ({
  kind: 'function',
  name,
  usage: `${name}(x, y, …)`,
  doc,
  source: 'Definition',
  also,
  unknown: GAP,
  opposite: { goes: 'inside', name: name === 'least' ? 'greatest' : 'least' },
  takes: ['number'],
  many: true,
  gives: 'input',
  needs: (args, needs) => Math.max(...args.map(needs)),
  means: { form: () => furthest(sign) },
})

export const LEAST_GREATEST: readonly FunctionWord[] = [
  word('least', 'The smallest of several values.', ['min', 'minimum'], 1),
  word('greatest', 'The greatest of several values.', ['max', 'maximum'], -1),
]
