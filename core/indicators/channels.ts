import { trueRange } from './atr'
import { slidingHighest, slidingLowest } from './extremes'
import { smooth } from './recursive'
import { scratch } from './slidingSum'
import * as step from './steps'
import { AS_PRICE, DISTANCE, GAP, type Indicator, length, UPPER_LOWER } from './types'

/** Bands about the price. */

const band = [
  { name: 'middle', unit: 'price' },
  { name: 'upper', unit: 'price' },
  { name: 'lower', unit: 'price' },
] as const

export const keltner: Indicator = {
  name: 'keltner',
  also: ['keltner channel', 'kc'],
  opposite: UPPER_LOWER,
  unknown: GAP,
  input: ['high', 'low', 'close'],
  parameters: [
    length('length', 20),
    { name: 'ranges', preset: 2, min: 0, max: 100, whole: false },
    length('atrLength', 10),
  ],
  outputs: band,
  warmUp: ([n, , m]) => Math.max(n, m),
  doc: 'Exponential average of the close (middle) with a band of so many average true ranges above and below.',
  source: 'Keltner (1960) in the later form with average true range (common practice)',
  column: ([high, low, close], [n, ranges, m], [middle, upper, lower]) => {
    smooth(close, n, 2 / (n + 1), middle)
    trueRange(high, low, close, lower)
    smooth(lower, m, 1 / m, upper)
    for (let i = 0; i < close.length; i++) {
      const width = ranges * upper[i]
      upper[i] = middle[i] + width
      lower[i] = middle[i] - width
    }
  },
  steps: ([n, ranges, m], slots) => {
    const middle = step.exponential(slots, n)
    const [reach, average] = [step.range(slots), step.smooth(slots, m, 1 / m)]
    return (ins, outs, keep) => {
      const width = ranges * average(reach(ins[0], ins[1], ins[2], keep), keep)
      outs[0] = middle(ins[2], keep)
      outs[1] = outs[0] + width
      outs[2] = outs[0] - width
    }
  },
}

export const donchian: Indicator = {
  name: 'donchian',
  also: ['donchian channel', 'price channel', 'breakout channel'],
  opposite: UPPER_LOWER,
  unknown: GAP,
  input: ['high', 'low'],
  parameters: [length('length', 20)],
  outputs: band,
  warmUp: ([n]) => n,
  doc: 'Highest high (upper) and lowest low (lower) of the last bars, this one included, and halfway between (middle).',
  source: 'Donchian; definition',
  column: ([high, low], [n], [middle, upper, lower]) => {
    slidingHighest(high, n, upper)
    slidingLowest(low, n, lower)
    for (let i = 0; i < high.length; i++) middle[i] = (upper[i] + lower[i]) / 2
  },
  steps: ([n], slots) => {
    const [top, bottom] = [step.extreme(slots, n, 1), step.extreme(slots, n, -1)]
    return (ins, outs, keep) => {
      outs[1] = top(ins[0], keep)
      outs[2] = bottom(ins[1], keep)
      outs[0] = (outs[1] + outs[2]) / 2
    }
  },
}

export const truerange: Indicator = {
  name: 'truerange',
  also: ['tr', 'true range'],
  opposite: DISTANCE,
  unknown: GAP,
  input: ['high', 'low', 'close'],
  parameters: [],
  outputs: [{ name: 'value', unit: 'price' }],
  warmUp: () => 1,
  doc: 'The bar’s range, and its reach from the close before where that is further.',
  source: 'Wilder, New Concepts in Technical Trading Systems (1978)',
  column: ([high, low, close], _params, [out]) => trueRange(high, low, close, out),
  steps: (_params, slots) => {
    const reach = step.range(slots)
    return (ins, outs, keep) => {
      outs[0] = reach(ins[0], ins[1], ins[2], keep)
    }
  },
}

export const ichimoku: Indicator = {
  name: 'ichimoku',
  also: ['cloud', 'kumo', 'tenkan', 'kijun', 'senkou'],
  opposite: AS_PRICE,
  unknown: GAP,
  input: ['high', 'low'],
  parameters: [length('conversion', 9), length('base', 26), length('span', 52), length('ahead', 26)],
  outputs: [
    { name: 'conversion', unit: 'price' },
    { name: 'base', unit: 'price' },
    { name: 'spana', unit: 'price' },
    { name: 'spanb', unit: 'price' },
  ],
  warmUp: ([, n, m, ahead]) => Math.max(n, m) + ahead,
  doc: 'Middles of the range of three lengths: conversion and base line, and the two edges of the cloud (spana, spanb), which are drawn so many bars ahead.',
  source: 'Hosoda (1968): 9, 26 and 52 bars, cloud 26 ahead',
  column: ([high, low], [n1, n2, n3, ahead], [conversion, base, spanA, spanB]) => {
    const lowest = scratch(0, high.length)
    const middle = (n: number, out: Float64Array) => {
      slidingHighest(high, n, out)
      slidingLowest(low, n, lowest)
      for (let i = 0; i < out.length; i++) out[i] = (out[i] + lowest[i]) / 2
    }
    middle(n1, conversion)
    middle(n2, base)
    middle(n3, spanB)
    // Backwards, so that what is moved ahead has not been written over.
    for (let i = high.length - 1; i >= 0; i--) {
      spanA[i] = i >= ahead ? (conversion[i - ahead] + base[i - ahead]) / 2 : NaN
      spanB[i] = i >= ahead ? spanB[i - ahead] : NaN
    }
  },
  steps: ([n1, n2, n3, ahead], slots) => {
    const middle = (n: number) => {
      const [top, bottom] = [step.extreme(slots, n, 1), step.extreme(slots, n, -1)]
      return (high: number, low: number, keep: boolean) => (top(high, keep) + bottom(low, keep)) / 2
    }
    const [short, medium, long] = [middle(n1), middle(n2), middle(n3)]
    const [aheadA, aheadB] = [step.earlier(slots, ahead), step.earlier(slots, ahead)]
    return (ins, outs, keep) => {
      const high = ins[0]
      const low = ins[1]
      outs[0] = short(high, low, keep)
      outs[1] = medium(high, low, keep)
      outs[2] = aheadA((outs[0] + outs[1]) / 2, keep)
      outs[3] = aheadB(long(high, low, keep), keep)
    }
  },
}
