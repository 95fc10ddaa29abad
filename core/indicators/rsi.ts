import { moved } from '../market/paper'
import { type Slots } from './slots'
import { one, type Step } from './steps'
import { BETWEEN_BOUNDS, GAP, type Indicator, length, value } from './types'

/** One value at a time: gains and losses smoothed side by side. */
export function rsiStep(slots: Slots, n: number): Step {
  const [changes, up, down, last] = [0, 0, 0, NaN].map((x) => slots.cell(x))
  return (x, keep) => {
    const change = moved(x, last[0])
    if (change !== change) {
      if (keep) {
        changes[0] = up[0] = down[0] = 0
        last[0] = x
      }
      return NaN
    }
    const [gain, loss] = [change > 0 ? change : 0, change < 0 ? -change : 0]
    const seen = changes[0] + 1
    const nowUp = seen <= n ? up[0] + gain / n : up[0] + (gain - up[0]) / n
    const nowDown = seen <= n ? down[0] + loss / n : down[0] + (loss - down[0]) / n
    if (keep) {
      last[0] = x
      changes[0] = seen
      up[0] = nowUp
      down[0] = nowDown
    }
    if (seen < n) return NaN
    return nowUp + nowDown === 0 ? 50 : (100 * nowUp) / (nowUp + nowDown)
  }
}

export const rsi: Indicator = {
  name: 'rsi',
  also: ['relative strength index', 'overbought', 'oversold'],
  opposite: BETWEEN_BOUNDS,
  unknown: GAP,
  input: 'series',
  parameters: [length('length', 14)],
  outputs: value('number', [0, 100]),
  warmUp: ([n]) => n + 1,
  doc: 'Relative strength index, 0 to 100: how much of the recent movement was upward. 50 where nothing moved.',
  source: 'Wilder, New Concepts in Technical Trading Systems (1978)',
  column: ([src], [n], [out]) => {
    let changes = 0
    let up = 0
    let down = 0
    let last = NaN
    for (let i = 0; i < src.length; i++) {
      const x = src[i]
      const change = moved(x, last)
      last = x
      out[i] = NaN
      if (change !== change) {
        changes = 0
        up = 0
        down = 0
        continue
      }
      const gain = change > 0 ? change : 0
      const loss = change < 0 ? -change : 0
      changes++
      if (changes <= n) {
        up += gain / n
        down += loss / n
      } else {
        up += (gain - up) / n
        down += (loss - down) / n
      }
      if (changes >= n) out[i] = up + down === 0 ? 50 : (100 * up) / (up + down)
    }
  },
  steps: one(([n], slots) => rsiStep(slots, n)),
}
