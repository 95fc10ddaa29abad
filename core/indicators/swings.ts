import { type Slots } from './slots'
import { lastValues, type Step } from './steps'
import { ABOUT_NOUGHT, type Indicator, type Parameter, value } from './types'

/**
 * Turning points of the price. A swing high is a high above those of `reach` bars before it and not below those of
 * `reach` bars after; it is known only once those have come. A swing low likewise.
 */
const reach: Parameter = { name: 'reach', preset: 3, min: 1, max: 500, whole: true }

/** Whether the value `reach` rows before `i` is a turning point, `sign` 1 for highs and -1 for lows. */
function turnsAt(src: Float64Array, i: number, reach: number, sign: 1 | -1): boolean {
  const at = i - reach
  const peak = sign * src[at]
  for (let k = at - reach; k < at; k++) if (!(sign * src[k] < peak)) return false
  for (let k = at + 1; k <= i; k++) if (!(sign * src[k] <= peak)) return false
  return true
}

/** Calls `seen` at each row on which a swing becomes known, and `each` at every row after that. */
function walk(
  high: Float64Array,
  low: Float64Array,
  reach: number,
  seen: (price: number, sign: 1 | -1, row: number) => void,
  each: (row: number) => void,
): void {
  for (let i = 0; i < high.length; i++) {
    if (i >= 2 * reach) {
      if (turnsAt(high, i, reach, 1)) seen(high[i - reach], 1, i - reach)
      if (turnsAt(low, i, reach, -1)) seen(low[i - reach], -1, i - reach)
    }
    each(i)
  }
}

/** The price of a turning point that becomes known with a value, `reach` bars after it; NaN where none does. */
function turning(slots: Slots, reach: number, sign: 1 | -1): Step {
  const width = 2 * reach + 1
  const last = lastValues(slots, width)
  return (x, keep) => {
    last.push(x, keep)
    const price = last.back(reach)
    const peak = sign * price
    for (let k = reach + 1; k < width; k++) if (!(sign * last.back(k) < peak)) return NaN
    for (let k = 0; k < reach; k++) if (!(sign * last.back(k) <= peak)) return NaN
    return price
  }
}

export const swing: Indicator = {
  name: 'swing',
  also: ['zigzag', 'turning points', 'fractal', 'pivots high low'],
  opposite: { goes: 'price', outputs: [['high', 'low']] },
  unknown: 'nothing has turned yet',
  input: ['high', 'low'],
  parameters: [reach],
  outputs: [
    { name: 'high', unit: 'price' },
    { name: 'low', unit: 'price' },
  ],
  warmUp: ([n]) => 2 * n + 1,
  doc: 'The last swing high and swing low: turns of the price that stand out over so many bars on both sides.',
  source: 'Common practice; known only after the bars that confirm it',
  column: ([high, low], [n], [top, bottom]) => {
    let [a, b] = [NaN, NaN]
    walk(
      high,
      low,
      n,
      (price, sign) => {
        if (sign > 0) a = price
        else b = price
      },
      (i) => {
        top[i] = a
        bottom[i] = b
      },
    )
  },
  steps: ([n], slots) => {
    const turns = [turning(slots, n, 1), turning(slots, n, -1)]
    const last = slots.take(2, NaN)
    return (ins, outs, keep) => {
      for (let k = 0; k < 2; k++) {
        const price = turns[k](ins[k], keep)
        outs[k] = price === price ? price : last[k]
      }
      if (keep) last.set(outs)
    }
  },
}

/** The nearest of the last swing prices on one side of the close. */
const nearest = (
  name: 'support' | 'resistance',
  also: readonly string[],
  doc: string,
  sign: 1 | -1,
): Indicator => ({
  name,
  also,
  opposite: { goes: 'price', name: name === 'support' ? 'resistance' : 'support' },
  unknown: sign < 0 ? 'no turn lies below the close' : 'no turn lies above the close',
  input: ['high', 'low', 'close'],
  parameters: [{ name: 'count', preset: 8, min: 1, max: 200, whole: true }, reach],
  outputs: value('price'),
  warmUp: ([, n]) => 2 * n + 1,
  doc,
  source: 'Common practice: the last turning points, highs and lows alike',
  column: ([high, low, close], [count, n], [out]) => {
    const last: number[] = []
    walk(
      high,
      low,
      n,
      (price) => {
        last.push(price)
        if (last.length > count) last.shift()
      },
      (i) => {
        let best = NaN
        for (const price of last)
          if (sign * (price - close[i]) > 0 && !(sign * (price - best) >= 0)) best = price
        out[i] = best
      },
    )
  },
  steps: ([count, n], slots) => {
    const turns = [turning(slots, n, 1), turning(slots, n, -1)]
    const last = slots.take(count, NaN)
    const next = slots.cell()
    return (ins, outs, keep) => {
      const come = turns.map((step, k) => step(ins[k], keep)).filter((price) => price === price)
      let best = NaN
      const look = (price: number) => {
        if (sign * (price - ins[2]) > 0 && !(sign * (price - best) >= 0)) best = price
      }
      // Those that come push as many of the oldest out.
      for (let k = come.length; k < count; k++) look(last[(next[0] + k) % count])
      for (const price of come.slice(-count)) look(price)
      outs[0] = best
      if (!keep) return
      for (const price of come) {
        last[next[0]] = price
        next[0] = (next[0] + 1) % count
      }
    }
  },
})

export const support = nearest(
  'support',
  ['support level'],
  'The nearest price below the close at which one of the last swings turned; unknown where all lie above.',
  -1,
)

export const resistance = nearest(
  'resistance',
  ['resistance level'],
  'The nearest price above the close at which one of the last swings turned; unknown where all lie below.',
  1,
)

/** 1 while the last two swing highs and the last two swing lows both rise, -1 while both fall, else 0. */
function trendColumn(high: Float64Array, low: Float64Array, n: number, out: Float64Array): void {
  let [top, topBefore, bottom, bottomBefore] = [NaN, NaN, NaN, NaN]
  walk(
    high,
    low,
    n,
    (price, sign) => {
      if (sign > 0) [topBefore, top] = [top, price]
      else [bottomBefore, bottom] = [bottom, price]
    },
    (i) => {
      const known = topBefore === topBefore && bottomBefore === bottomBefore
      if (!known) out[i] = NaN
      else if (top > topBefore && bottom > bottomBefore) out[i] = 1
      else out[i] = top < topBefore && bottom < bottomBefore ? -1 : 0
    },
  )
}

const TREND_SOURCE = 'Dow: rising tops and rising bottoms, or falling ones (common practice)'

export const trend: Indicator = {
  name: 'trend',
  also: ['dow theory', 'higher highs'],
  opposite: ABOUT_NOUGHT,
  unknown: 'two highs and two lows have not turned yet',
  input: ['high', 'low'],
  parameters: [reach],
  outputs: value('number', [-1, 1]),
  warmUp: ([n]) => 4 * n + 2,
  doc: 'Trend by price action: 1 while the last two swing highs and swing lows rise, −1 while they fall, else 0.',
  source: TREND_SOURCE,
  column: ([high, low], [n], [out]) => trendColumn(high, low, n, out),
  steps: ([n], slots) => {
    const of = trendStep(slots, n)
    return (ins, outs, keep) => {
      outs[0] = of(ins[0], ins[1], keep)
    }
  },
}

/** The same one bar at a time. */
function trendStep(slots: Slots, n: number): (high: number, low: number, keep: boolean) => number {
  const [high, low] = [turning(slots, n, 1), turning(slots, n, -1)]
  const [top, topBefore, bottom, bottomBefore] = [0, 1, 2, 3].map(() => slots.cell(NaN))
  return (x, y, keep) => {
    const [up, down] = [high(x, keep), low(y, keep)]
    const [now, before] = up === up ? [up, top[0]] : [top[0], topBefore[0]]
    const [nowLow, beforeLow] = down === down ? [down, bottom[0]] : [bottom[0], bottomBefore[0]]
    if (keep) {
      top[0] = now
      topBefore[0] = before
      bottom[0] = nowLow
      bottomBefore[0] = beforeLow
    }
    if (before !== before || beforeLow !== beforeLow) return NaN
    if (now > before && nowLow > beforeLow) return 1
    return now < before && nowLow < beforeLow ? -1 : 0
  }
}

const trendState = (
  name: 'trend up' | 'trend down' | 'trend sideways',
  doc: string,
  wanted: number,
): Indicator => ({
  ...trend,
  name,
  also: [],
  opposite: {
    goes: 'price',
    ...(wanted === 0 ? {} : { name: wanted > 0 ? 'trend down' : 'trend up' }),
  },
  steps: ([n], slots) => {
    const of = trendStep(slots, n)
    return (ins, outs, keep) => {
      const way = of(ins[0], ins[1], keep)
      outs[0] = way === way ? Number(way === wanted) : NaN
    }
  },
  doc,
  outputs: value('state'),
  column: ([high, low], [n], [out]) => {
    trendColumn(high, low, n, out)
    for (let i = 0; i < out.length; i++) if (out[i] === out[i]) out[i] = Number(out[i] === wanted)
  },
})

export const trendUp = trendState('trend up', 'The last two swing highs and the last two swing lows rise.', 1)
export const trendDown = trendState('trend down', 'The last two swing highs and swing lows fall.', -1)
export const trendSideways = trendState(
  'trend sideways',
  'The last swing highs and swing lows neither both rise nor both fall.',
  0,
)
