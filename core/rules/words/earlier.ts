import { earlier as ring } from '../../indicators/steps'
import { type DurationUnit } from '../tree'
import { type Form } from '../exec/form'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

/** The value `n` rows before; unknown for the first n. */
const shifted = (n: number): Form => ({
  column: ([a], [out]) => {
    const known = Math.min(n, out.length)
    out.fill(NaN, 0, known)
    out.set(a.subarray(0, out.length - known), known)
  },
  steps: (slots) => {
    const step = ring(slots, n)
    return (ins, outs, keep) => {
      outs[0] = step(ins[0], keep)
    }
  },
})

export const EARLIER: FunctionWord = {
  kind: 'function',
  name: 'earlier',
  usage: 'earlier(x, 3 bars)',
  doc: 'The value so many bars, sessions, weeks or months ago; earlier(high, 1 day) is the session before.',
  source: 'Definition',
  also: ['ref', 'lag', 'previous', 'ago', 'offset'],
  unknown: 'there was no such bar then, or its value is not known',
  opposite: INSIDE,
  takes: ['number', 'duration'],
  gives: 'input',
  moves: true,
  needs: ([of, span], needs) => needs(of) + (span?.kind === 'duration' ? span.count : 0),
  means: {
    graph: ({ args: [of, span] }, site) => {
      const { count, unit } = span as { count: number; unit: DurationUnit }
      if (unit === 'bar') return site.form(`earlier ${count}`, 'numbers', shifted(count), [site.of(of)])
      const there = site.on({ count: 1, unit })
      if (there === site) return site.form(`earlier ${count}`, 'numbers', shifted(count), [site.of(of)])
      return site.before(there, there.of(of), count)
    },
  },
}
