import { type Form } from '../exec/form'
import { HOLDS, UNKNOWN } from '../verdict'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

/** The row on which a condition last held; unknown before it first did, and after a row that may have been one. */
const lastRow = (answer: number, row: number, last: number): number =>
  answer === HOLDS ? row : answer === UNKNOWN ? NaN : last

const form: Form = {
  column: ([a], [out]) => {
    let last = NaN
    for (let i = 0; i < out.length; i++) {
      last = lastRow(a[i], i, last)
      out[i] = i - last
    }
  },
  steps: (slots) => {
    const [row, last] = [slots.cell(), slots.cell(NaN)]
    return (ins, outs, keep) => {
      const now = lastRow(ins[0], row[0], last[0])
      outs[0] = row[0] - now
      if (!keep) return
      last[0] = now
      row[0]++
    }
  },
}

export const BARSSINCE: FunctionWord = {
  kind: 'function',
  name: 'barssince',
  usage: 'barssince(condition)',
  doc: 'Bars since the condition last held: 0 where it holds now, unknown where it never has.',
  source: 'Definition',
  also: ['bars since', 'bars ago'],
  unknown: 'the condition has not held yet on these bars, or may have where it is unknown',
  opposite: INSIDE,
  takes: ['condition'],
  gives: 'number',
  needs: ([of], needs) => needs(of),
  means: { form: () => form },
}
