import * as step from './steps'
import { one } from './steps'
import { ABOUT_NOUGHT, type Indicator, length } from './types'

export const roc: Indicator = {
  name: 'roc',
  also: ['rate of change', 'percent change', 'change', 'return'],
  opposite: ABOUT_NOUGHT,
  unknown: 'the value before is nought or missing',
  input: 'series',
  parameters: [length('length', 10)],
  outputs: [{ name: 'value', unit: 'percent' }],
  warmUp: ([n]) => n + 1,
  doc: 'Rate of change: percent by which the value differs from that many bars ago.',
  source: 'Definition: 100 (x / earlier x - 1)',
  column: ([src], [n], [out]) => {
    out.fill(NaN, 0, Math.min(n, out.length))
    for (let i = n; i < out.length; i++) {
      const before = src[i - n]
      out[i] = before > 0 ? 100 * (src[i] / before - 1) : NaN
    }
  },
  steps: one(([n], slots) => {
    const old = step.earlier(slots, n)
    return (x, keep) => {
      const before = old(x, keep)
      return before > 0 ? 100 * (x / before - 1) : NaN
    }
  }),
}
