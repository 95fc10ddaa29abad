import { trueRange } from './atr'
import { slidingHighest, slidingLowest } from './extremes'
import { smooth } from './recursive'
import { scratch } from './slidingSum'
import { type Indicator, length } from './types'

/** Bands about the price. */

const band = [
  { name: 'middle', unit: 'price' },
  { name: 'upper', unit: 'price' },
  { name: 'lower', unit: 'price' },
] as const

export const keltner: Indicator = {
  name: 'keltner',
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
}

export const donchian: Indicator = {
  name: 'donchian',
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
}

export const truerange: Indicator = {
  name: 'truerange',
  input: ['high', 'low', 'close'],
  parameters: [],
  outputs: [{ name: 'value', unit: 'price' }],
  warmUp: () => 1,
  doc: 'The bar’s range, and its reach from the close before where that is further.',
  source: 'Wilder, New Concepts in Technical Trading Systems (1978)',
  column: ([high, low, close], _params, [out]) => trueRange(high, low, close, out),
}

export const ichimoku: Indicator = {
  name: 'ichimoku',
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
}
