import { type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

/** `seek` on at least one of the last n rows; the rest of the logic as Kleene's "or". Rows before the first are unknown. */
function anyOf(n: number, seek: number, found: number, absent: number): Form {
  const answer = (row: number, lastSeek: number, lastUnknown: number): number =>
    lastSeek > row - n ? found : lastUnknown > row - n || row < n - 1 ? UNKNOWN : absent
  return {
    column: ([a], [out]) => {
      let lastSeek = -Infinity
      let lastUnknown = -1
      for (let i = 0; i < out.length; i++) {
        if (a[i] === seek) lastSeek = i
        else if (a[i] === UNKNOWN) lastUnknown = i
        out[i] = answer(i, lastSeek, lastUnknown)
      }
    },
    steps: (slots) => {
      const [row, lastSeek, lastUnknown] = [slots.cell(), slots.cell(-Infinity), slots.cell(-1)]
      return (ins, outs, keep) => {
        const a = ins[0]
        const sought = a === seek ? row[0] : lastSeek[0]
        const unknown = a === UNKNOWN ? row[0] : lastUnknown[0]
        outs[0] = answer(row[0], sought, unknown)
        if (!keep) return
        lastSeek[0] = sought
        lastUnknown[0] = unknown
        row[0]++
      }
    },
  }
}

const word = (
  name: string,
  usage: string,
  doc: string,
  also: readonly string[],
  form: (n: number) => Form,
): FunctionWord => ({
  kind: 'function',
  name,
  usage,
  doc,
  source: 'Definition',
  also,
  unknown: 'the condition is not known on enough of the last bars',
  opposite: INSIDE,
  takes: ['condition', 'bars'],
  gives: 'state',
  needs: ([of, span], needs) => needs(of) + (span?.kind === 'duration' ? span.count : 1) - 1,
  means: { form: ([n]) => form(n) },
})

export const RECENTLY: readonly FunctionWord[] = [
  word(
    'recently',
    'recently(condition, 4 bars)',
    'True if the condition held on at least one of the last bars, this one included.',
    ['within', 'in the last'],
    (n) => anyOf(n, HOLDS, HOLDS, FAILS),
  ),
  word(
    'always',
    'always(condition, 3 bars)',
    'True if the condition held on every one of the last bars, this one included.',
    ['for the last', 'throughout'],
    (n) => anyOf(n, FAILS, FAILS, HOLDS),
  ),
]
