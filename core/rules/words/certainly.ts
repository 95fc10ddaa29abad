import { pointwise } from '../exec/form'
import { FAILS, HOLDS } from '../verdict'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

const certain = (a: number): number => (a === HOLDS ? HOLDS : FAILS)

export const CERTAINLY: FunctionWord = {
  kind: 'function',
  name: 'certainly',
  usage: 'certainly(condition)',
  doc: 'True where the condition holds; false where it fails, and where it is unknown.',
  source: 'Definition',
  also: ['known'],
  unknown: 'never: it is always known',
  opposite: INSIDE,
  takes: ['condition'],
  gives: 'state',
  needs: ([of], needs) => needs(of),
  means: {
    form: () =>
      pointwise(
        ([a], [out]) => {
          for (let i = 0; i < out.length; i++) out[i] = certain(a[i])
        },
        (ins) => certain(ins[0]),
      ),
  },
}
