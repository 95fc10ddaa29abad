import { weigh } from './averages'
import { smooth } from './recursive'
import { scratch } from './slidingSum'
import * as step from './steps'
import { one } from './steps'
import { AS_PRICE, GAP, type Indicator, length } from './types'

/** Averages made of other averages, and Kaufman's, which adapts its weight. */

const own = [{ name: 'value', unit: 'input' }] as const

export const wilder: Indicator = {
  name: 'wilder',
  also: ['rma', 'smma', 'smoothed moving average'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: 'series',
  parameters: [length('length', 14)],
  outputs: own,
  warmUp: ([n]) => n,
  doc: 'Wilder’s average: each new bar weighs 1/length; begins with the plain mean of the first bars.',
  source: 'Wilder, New Concepts in Technical Trading Systems (1978)',
  column: ([src], [n], [out]) => smooth(src, n, 1 / n, out),
  steps: one(([n], slots) => step.smooth(slots, n, 1 / n)),
}

export const hull: Indicator = {
  name: 'hull',
  also: ['hma', 'hull moving average'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: 'series',
  parameters: [{ ...length('length', 16), min: 2 }],
  outputs: own,
  warmUp: ([n]) => n + Math.floor(Math.sqrt(n)) - 1,
  doc: 'Hull’s average: twice the weighted average of half the length less that of the whole, weighted once more over its root.',
  source: 'Hull, Moving Averages (2005), lengths rounded down',
  column: ([src], [n], [out]) => {
    const half = scratch(0, src.length)
    weigh(src, Math.floor(n / 2), half)
    weigh(src, n, out)
    for (let i = 0; i < src.length; i++) half[i] = 2 * half[i] - out[i]
    weigh(half, Math.floor(Math.sqrt(n)), out)
  },
  steps: one(([n], slots) => {
    const half = step.weighted(slots, Math.floor(n / 2))
    const whole = step.weighted(slots, n)
    const last = step.weighted(slots, Math.floor(Math.sqrt(n)))
    return (x, keep) => last(2 * half(x, keep) - whole(x, keep), keep)
  }),
}

export const dema: Indicator = {
  name: 'dema',
  also: ['double exponential'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: 'series',
  parameters: [length('length')],
  outputs: own,
  warmUp: ([n]) => 2 * n - 1,
  doc: 'Double exponential average: twice the exponential average less the exponential average of it.',
  source: 'Mulloy, Smoothing Data with Faster Moving Averages (1994)',
  column: ([src], [n], [out]) => {
    const once = scratch(0, src.length)
    smooth(src, n, 2 / (n + 1), once)
    smooth(once, n, 2 / (n + 1), out)
    for (let i = 0; i < src.length; i++) out[i] = 2 * once[i] - out[i]
  },
  steps: one(([n], slots) => {
    const [once, twice] = [step.exponential(slots, n), step.exponential(slots, n)]
    return (x, keep) => {
      const a = once(x, keep)
      return 2 * a - twice(a, keep)
    }
  }),
}

export const tema: Indicator = {
  name: 'tema',
  also: ['triple exponential'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: 'series',
  parameters: [length('length')],
  outputs: own,
  warmUp: ([n]) => 3 * n - 2,
  doc: 'Triple exponential average: three times the exponential average, less three times its own, plus that once more.',
  source: 'Mulloy, Smoothing Data with Faster Moving Averages (1994)',
  column: ([src], [n], [out]) => {
    const once = scratch(0, src.length)
    const twice = scratch(1, src.length)
    smooth(src, n, 2 / (n + 1), once)
    smooth(once, n, 2 / (n + 1), twice)
    smooth(twice, n, 2 / (n + 1), out)
    for (let i = 0; i < src.length; i++) out[i] = 3 * once[i] - 3 * twice[i] + out[i]
  },
  steps: one(([n], slots) => {
    const [once, twice, thrice] = [0, 1, 2].map(() => step.exponential(slots, n))
    return (x, keep) => {
      const a = once(x, keep)
      const b = twice(a, keep)
      return 3 * a - 3 * b + thrice(b, keep)
    }
  }),
}

export const kaufman: Indicator = {
  name: 'kaufman',
  also: ['kama', 'adaptive moving average'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: 'series',
  parameters: [length('length', 10), length('fast', 2), length('slow', 30)],
  outputs: own,
  warmUp: ([n]) => n + 1,
  doc: 'Kaufman’s adaptive average: fast where the price goes straight, slow where it wanders.',
  source: 'Kaufman, Smarter Trading (1995); begins from the value before its first',
  column: ([src], [n, fast, slow], [out]) => {
    const [quick, calm] = [2 / (fast + 1), 2 / (slow + 1)]
    let known = 0
    let path = 0
    let value = NaN
    for (let i = 0; i < src.length; i++) {
      const x = src[i]
      known = x === x ? known + 1 : 0
      out[i] = NaN
      if (known <= n) {
        value = x
        continue
      }
      // Begun anew now and then, so that rounding cannot pile up in the path.
      if (known === n + 1 || i % 64 === 0) {
        path = 0
        for (let k = i - n + 1; k <= i; k++) path += Math.abs(src[k] - src[k - 1])
      } else path += Math.abs(x - src[i - 1]) - Math.abs(src[i - n] - src[i - n - 1])
      const straight = path > 0 ? Math.min(1, Math.abs(x - src[i - n]) / path) : 0
      const weight = straight * (quick - calm) + calm
      value += weight * weight * (x - value)
      out[i] = value
    }
  },
  steps: one(([n, fast, slow], slots) => {
    const [quick, calm] = [2 / (fast + 1), 2 / (slow + 1)]
    const last = step.lastValues(slots, n + 2)
    const [row, known, path, value] = [slots.cell(), slots.cell(), slots.cell(), slots.cell(NaN)]
    return (x, keep) => {
      last.push(x, keep)
      const { back } = last
      const nowKnown = x === x ? known[0] + 1 : 0
      let [nowPath, nowValue, out] = [path[0], x, NaN]
      if (nowKnown > n) {
        if (nowKnown === n + 1 || row[0] % 64 === 0) {
          nowPath = 0
          for (let k = n - 1; k >= 0; k--) nowPath += Math.abs(back(k) - back(k + 1))
        } else nowPath += Math.abs(x - back(1)) - Math.abs(back(n) - back(n + 1))
        const straight = nowPath > 0 ? Math.min(1, Math.abs(x - back(n)) / nowPath) : 0
        const weight = straight * (quick - calm) + calm
        out = nowValue = value[0] + weight * weight * (x - value[0])
      }
      if (keep) {
        row[0]++
        known[0] = nowKnown
        path[0] = nowPath
        value[0] = nowValue
      }
      return out
    }
  }),
}
