import { type Indicator, type Parameter, value } from './types'

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

export const swing: Indicator = {
  name: 'swing',
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
}

/** The nearest of the last swing prices on one side of the close. */
const nearest = (name: string, doc: string, sign: 1 | -1): Indicator => ({
  name,
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
})

export const support = nearest(
  'support',
  'The nearest price below the close at which one of the last swings turned; unknown where all lie above.',
  -1,
)

export const resistance = nearest(
  'resistance',
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
  input: ['high', 'low'],
  parameters: [reach],
  outputs: value('number', [-1, 1]),
  warmUp: ([n]) => 4 * n + 2,
  doc: 'Trend by price action: 1 while the last two swing highs and swing lows rise, −1 while they fall, else 0.',
  source: TREND_SOURCE,
  column: ([high, low], [n], [out]) => trendColumn(high, low, n, out),
}

const trendState = (name: string, doc: string, wanted: number): Indicator => ({
  ...trend,
  name,
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
