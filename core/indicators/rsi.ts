import { moved } from '../market/paper'
import { type Indicator, length, value } from './types'

export const rsi: Indicator = {
  name: 'rsi',
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
}
