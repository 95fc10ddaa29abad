import { type Indicator, length } from './types'

export const roc: Indicator = {
  name: 'roc',
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
}
