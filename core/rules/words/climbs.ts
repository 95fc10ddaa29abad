import { sideOf } from '../../market/paper'
import { type Column, type Form } from '../exec/form'
import { FAILS, HOLDS, UNKNOWN } from '../verdict'
import { sizeAt } from './compare'
import { type FunctionWord, type Paper } from './types'

/** Rose (sign 1) or fell (-1) on each of n bars in a row; one bar known to have gone the other way settles it. */
function runs(n: number, sign: 1 | -1, paper: Paper | undefined): Form {
  const answer = (row: number, streak: number, lastOther: number): number =>
    lastOther > row - n ? FAILS : streak >= n ? HOLDS : UNKNOWN
  return {
    column: ([a, of]: readonly Column[], [out]) => {
      let [streak, lastOther, before] = [0, -Infinity, NaN]
      for (let i = 0; i < out.length; i++) {
        const x = a[i]
        const change = sign * (paper ? sideOf(x, before, sizeAt(paper, of, i)) : x - before)
        streak = change > 0 ? streak + 1 : 0
        if (change <= 0) lastOther = i
        out[i] = answer(i, streak, lastOther)
        before = x
      }
    },
    steps: (slots) => {
      const [row, before, streak] = [slots.cell(), slots.cell(NaN), slots.cell()]
      const lastOther = slots.cell(-Infinity)
      return (ins, outs, keep) => {
        const x = ins[0]
        const change = sign * (paper ? sideOf(x, before[0], sizeAt(paper, ins, 1)) : x - before[0])
        const now = change > 0 ? streak[0] + 1 : 0
        const other = change <= 0 ? row[0] : lastOther[0]
        outs[0] = answer(row[0], now, other)
        if (!keep) return
        before[0] = x
        streak[0] = now
        lastOther[0] = other
        row[0]++
      }
    },
  }
}

const word = (
  name: 'climbs' | 'sinks',
  doc: string,
  also: readonly string[],
  sign: 1 | -1,
): FunctionWord => ({
  kind: 'function',
  name,
  usage: `${name}(x, 3 bars)`,
  doc,
  source: 'Definition; what is equal on paper has not moved',
  also,
  unknown: 'its value is not known on enough of the last bars',
  opposite: { goes: 'price', name: name === 'climbs' ? 'sinks' : 'climbs' },
  takes: ['number', 'bars'],
  gives: 'state',
  needs: ([of, span], needs) => needs(of) + (span?.kind === 'duration' ? span.count : 0),
  means: { compares: true, form: ([n], paper) => runs(n, sign, paper) },
})

export const RUNS: readonly FunctionWord[] = [
  word('climbs', 'True if the value rose on each of so many bars in a row.', ['rising', 'higher'], 1),
  word('sinks', 'True if the value fell on each of so many bars in a row.', ['falling', 'lower'], -1),
]
