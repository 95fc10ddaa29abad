import { ABOUT_NOUGHT, type Indicator } from './types'

export const obv: Indicator = {
  name: 'obv',
  also: ['on balance volume'],
  opposite: ABOUT_NOUGHT,
  unknown: 'the bar has no volume',
  input: ['close', 'volume'],
  parameters: [],
  outputs: [{ name: 'value', unit: 'shares' }],
  warmUp: () => 1,
  doc: 'On-balance volume: volume added on days that close higher, taken away on days that close lower; begins at 0.',
  source: 'Granville, New Key to Stock Market Profits (1963); the starting level is arbitrary',
  column: ([close, volume], _params, [out]) => {
    let total = 0
    let before = NaN
    for (let i = 0; i < out.length; i++) {
      const price = close[i]
      const size = volume[i]
      if (price !== price || size !== size) {
        out[i] = NaN
        continue
      }
      if (price > before) total += size
      else if (price < before) total -= size
      before = price
      out[i] = total
    }
  },
  steps: (_params, slots) => {
    const [total, before] = [slots.cell(), slots.cell(NaN)]
    return (ins, outs, keep) => {
      const price = ins[0]
      const size = ins[1]
      outs[0] = NaN
      if (price !== price || size !== size) return
      const now = total[0] + (price > before[0] ? size : price < before[0] ? -size : 0)
      outs[0] = now
      if (keep) {
        total[0] = now
        before[0] = price
      }
    }
  },
}
