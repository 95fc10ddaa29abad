import { isMore, sideOf } from '../market/paper'
import { trueRange } from './atr'
import { smooth } from './recursive'
import { scratch } from './slidingSum'
import { type Indicator, length } from './types'

/** How strong a movement is, and which way it goes. */

/**
 * Directional movement of one side: how far it went, where it went further than the other. Moves that are alike but
 * for what binary fractions make of their prices count for neither side, as Wilder has it for equal ones.
 */
export const headway = (ahead: number, other: number, price: number): number =>
  isMore(ahead - other, price) && ahead > 0 ? ahead : 0 * (ahead + other)

export const adx: Indicator = {
  name: 'adx',
  input: ['high', 'low', 'close'],
  parameters: [length('length', 14)],
  outputs: [
    { name: 'value', unit: 'number', range: [0, 100] },
    { name: 'plus', unit: 'number', range: [0, 100] },
    { name: 'minus', unit: 'number', range: [0, 100] },
  ],
  warmUp: ([n]) => 2 * n,
  doc: 'Average directional index (value, 0 to 100): how strongly the price moves one way, with the upward (plus) and downward (minus) movement that it is made of.',
  source: 'Wilder, New Concepts in Technical Trading Systems (1978)',
  column: ([high, low, close], [n], [value, plus, minus]) => {
    const range = scratch(0, high.length)
    const moves = scratch(1, high.length)
    trueRange(high, low, close, moves)
    if (moves.length > 0) moves[0] = NaN
    smooth(moves, n, 1 / n, range)
    for (const [out, sign] of [
      [plus, 1],
      [minus, -1],
    ] as const) {
      for (let i = 1; i < high.length; i++) {
        const up = high[i] - high[i - 1]
        const down = low[i - 1] - low[i]
        moves[i] = sign === 1 ? headway(up, down, high[i]) : headway(down, up, high[i])
      }
      smooth(moves, n, 1 / n, out)
      for (let i = 0; i < high.length; i++)
        out[i] = range[i] > 0 ? (100 * out[i]) / range[i] : 0 * (out[i] + range[i])
    }
    for (let i = 0; i < high.length; i++) {
      const both = plus[i] + minus[i]
      moves[i] = both > 0 ? (100 * Math.abs(plus[i] - minus[i])) / both : 0 * both
    }
    smooth(moves, n, 1 / n, value)
  },
}

/** Bars since the greatest (sign 1) or least (-1) of the last n values, the latest where several are alike. */
function sinceExtreme(src: Float64Array, n: number, sign: 1 | -1, out: Float64Array): void {
  const queue = new Int32Array(n + 1)
  let [head, size, known] = [0, 0, 0]
  for (let i = 0; i < src.length; i++) {
    const x = sign * src[i]
    known = x === x ? known + 1 : 0
    if (known === 0) size = 0
    else {
      while (size > 0 && sign * src[queue[(head + size - 1) % (n + 1)]] <= x) size--
      queue[(head + size++) % (n + 1)] = i
      if (queue[head] <= i - n) {
        head = (head + 1) % (n + 1)
        size--
      }
    }
    out[i] = known >= n ? i - queue[head] : NaN
  }
}

export const aroon: Indicator = {
  name: 'aroon',
  input: ['high', 'low'],
  parameters: [length('length', 25)],
  outputs: [
    { name: 'up', unit: 'number', range: [0, 100] },
    { name: 'down', unit: 'number', range: [0, 100] },
    { name: 'oscillator', unit: 'number', range: [-100, 100] },
  ],
  warmUp: ([n]) => n + 1,
  doc: 'How lately the highest high (up) and the lowest low (down) came, 100 being this bar, and their difference (oscillator).',
  source: 'Chande, The Time Price Oscillator (1995)',
  column: ([high, low], [n], [up, down, oscillator]) => {
    sinceExtreme(high, n + 1, 1, up)
    sinceExtreme(low, n + 1, -1, down)
    for (let i = 0; i < high.length; i++) {
      up[i] = (100 * (n - up[i])) / n
      down[i] = (100 * (n - down[i])) / n
      oscillator[i] = up[i] - down[i]
    }
  },
}

export const parabolic: Indicator = {
  name: 'parabolic',
  input: ['high', 'low'],
  parameters: [
    { name: 'step', preset: 0.02, min: 0.001, max: 1, whole: false },
    { name: 'limit', preset: 0.2, min: 0.001, max: 1, whole: false },
  ],
  outputs: [
    { name: 'value', unit: 'price' },
    { name: 'trend', unit: 'number', range: [-1, 1] },
    { name: 'turn', unit: 'number', range: [-1, 1] },
  ],
  warmUp: () => 2,
  doc: 'Parabolic stop and reverse (value), the way it goes (trend, 1 up and -1 down), and the bar on which it turns (turn, 1 up, -1 down, else 0).',
  source:
    'Wilder (1978): step 0.02, limit 0.2, never beyond the two bars before; begins upward where the second bar’s middle is no lower',
  column: ([high, low], [step, limit], [value, trend, turn]) => {
    let way = 0
    let [stop, extreme, speed] = [NaN, NaN, step]
    for (let i = 0; i < high.length; i++) {
      const whole = i > 0 && high[i] - low[i] + high[i - 1] - low[i - 1] >= 0
      value[i] = trend[i] = turn[i] = NaN
      if (!whole) {
        way = 0
        continue
      }
      const before = way
      if (way === 0) {
        way = sideOf(high[i] + low[i], high[i - 1] + low[i - 1]) >= 0 ? 1 : -1
        ;[stop, extreme, speed] =
          way > 0
            ? [low[i - 1], Math.max(high[i], high[i - 1]), step]
            : [high[i - 1], Math.min(low[i], low[i - 1]), step]
      } else {
        stop += speed * (extreme - stop)
        const j = i > 1 && high[i - 2] === high[i - 2] ? i - 2 : i - 1
        stop = way > 0 ? Math.min(stop, low[i - 1], low[j]) : Math.max(stop, high[i - 1], high[j])
        if (way > 0 ? sideOf(low[i], stop) < 0 : sideOf(high[i], stop) > 0) {
          way = -way
          stop = extreme
          extreme = way > 0 ? high[i] : low[i]
          speed = step
        } else if (way > 0 ? high[i] > extreme : low[i] < extreme) {
          extreme = way > 0 ? high[i] : low[i]
          speed = Math.min(limit, speed + step)
        }
      }
      value[i] = stop
      trend[i] = way
      turn[i] = before !== 0 && before !== way ? way : 0
    }
  },
}
