import { chance, type Chance, seedOf } from '@/core/market/chance'

/** Minute bars of one session; prices in whole ten-thousandths. They add up exactly to the day that they fill. */
export interface MinuteColumns {
  open: Int32Array
  high: Int32Array
  low: Int32Array
  close: Int32Array
  volume: Int32Array
}

export interface DayBar {
  open: number
  high: number
  low: number
  close: number
  volume: number
}

/**
 * Fills a daily bar with `minutes` minute bars on steps of `step`: a bridge from open to close, stretched so
 * that it touches the day's high and low and nothing beyond, and volume dealt out so that it sums to the day's.
 */
export function minuteColumns(
  words: (string | number)[],
  day: DayBar,
  minutes: number,
  step: number,
): MinuteColumns {
  const luck = chance(seedOf(...words, 'minutes'))
  const path = bridge(luck, day, minutes, step, liveliness)
  const column = () => new Int32Array(minutes)
  const out: MinuteColumns = {
    open: column(),
    high: column(),
    low: column(),
    close: column(),
    volume: dealt(luck, day.volume, minutes),
  }
  const wiggle = Math.max(1, Math.round((day.high - day.low) / step / 60))
  for (let k = 0; k < minutes; k++) {
    const [open, close] = [path[k], path[k + 1]]
    out.open[k] = open
    out.close[k] = close
    out.high[k] = Math.min(day.high, Math.max(open, close) + luck.below(wiggle + 1) * step)
    out.low[k] = Math.max(day.low, Math.min(open, close) - luck.below(wiggle + 1) * step)
  }
  return out
}

/** Livelier near the open and the close, as sessions are (common practice); `share` of the session has passed. */
function liveliness(share: number): number {
  const edge = share - 0.45
  return 0.7 + 1.6 * edge * edge * 4
}

/** Points at the bounds of the minutes: first the open, last the close, high and low each touched. */
function bridge(
  luck: Chance,
  day: DayBar,
  minutes: number,
  step: number,
  livelyAt: (share: number) => number,
): Int32Array {
  const { open, high, low, close } = day
  const raw = new Float64Array(minutes + 1)
  let walk = 0
  for (let k = 1; k <= minutes; k++) {
    walk += luck.normal() * livelyAt(k / minutes)
    raw[k] = walk
  }
  const scale = Math.max(step, high - low) / (Math.sqrt(minutes) * 1.4)
  for (let k = 0; k <= minutes; k++) {
    raw[k] = open + ((close - open) * k) / minutes + (raw[k] - (walk * k) / minutes) * scale
  }
  const [top, bottom] = [Math.max(open, close), Math.min(open, close)]
  const highAt = ensureBeyond(raw, luck, top, 1, high > top)
  const lowAt = ensureBeyond(raw, luck, bottom, -1, low < bottom, highAt)
  const [rawTop, rawBottom] = [raw[highAt], raw[lowAt]]
  const path = new Int32Array(minutes + 1)
  for (let k = 0; k <= minutes; k++) {
    let price = raw[k]
    if (price > top) price = high > top ? top + ((price - top) * (high - top)) / (rawTop - top) : top
    else if (price < bottom)
      price = low < bottom ? bottom - ((bottom - price) * (bottom - low)) / (bottom - rawBottom) : bottom
    path[k] = Math.min(high, Math.max(low, Math.round(price / step) * step))
  }
  path[0] = open
  path[minutes] = close
  if (high > top) path[highAt] = high
  if (low < bottom) path[lowAt] = low
  return path
}

/** Where the path is furthest on one side; where it never goes beyond `bound`, it is bent to at one minute. */
function ensureBeyond(
  raw: Float64Array,
  luck: Chance,
  bound: number,
  sign: 1 | -1,
  wanted: boolean,
  avoid = -1,
): number {
  const last = raw.length - 1
  let at = -1
  for (let k = 1; k < last; k++) if (k !== avoid && (at < 0 || sign * raw[k] > sign * raw[at])) at = k
  if (wanted && sign * raw[at] <= sign * bound) {
    do at = 1 + luck.below(last - 1)
    while (at === avoid)
    raw[at] = bound + sign
  }
  return at
}

/** Shares dealt out over minutes, more at both ends of the session, at least one a minute, exact in sum. */
function dealt(luck: Chance, volume: number, minutes: number): Int32Array {
  return dealtBy(sessionWeights(luck, minutes), volume - minutes).map((shares) => shares + 1)
}

/** How much of a session's volume each minute has, livelier at both ends (common practice); of no fixed sum. */
export function sessionWeights(luck: Chance, minutes: number): Float64Array {
  const weights = new Float64Array(minutes)
  for (let k = 0; k < minutes; k++) {
    const middle = (2 * k) / (minutes - 1) - 1
    weights[k] = (0.55 + 1.5 * middle ** 4) * Math.exp(0.5 * luck.normal())
  }
  return weights
}

/** A whole number dealt out by weights, exact in sum. */
export function dealtBy(weights: Float64Array, whole: number): Int32Array {
  const n = weights.length
  let total = 0
  for (let k = 0; k < n; k++) total += weights[k]
  const out = new Int32Array(n)
  let [sum, given] = [0, 0]
  for (let k = 0; k < n; k++) {
    sum += weights[k]
    const upTo = k === n - 1 ? whole : Math.round((whole * sum) / total)
    out[k] = upTo - given
    given = upTo
  }
  return out
}

/** Shares traded in each of the 60 seconds of a minute. Uneven, so that no second gives away the next ones. */
export function secondVolumes(words: (string | number)[], volume: number): Int32Array {
  const luck = chance(seedOf(...words, 'second volumes'))
  const weights = new Float64Array(60)
  for (let s = 0; s < 60; s++) weights[s] = (-Math.log(1 - 0.9999 * luck.uniform())) ** 1.5
  return dealtBy(weights, volume)
}

/** What is traded of a security in each second of a minute; prices in ten-thousandths. */
export interface Seconds {
  prices: Int32Array
  /** Made when they are asked for first. */
  volumes(): Int32Array
}

/**
 * Last price at each of the 60 seconds of a minute, from its open to its close, touching high and low. A random bridge, as
 * for minutes, so that the seconds so far do not give away the next ones.
 */
export function secondPrices(words: (string | number)[], bar: DayBar, step: number): Int32Array {
  return bridge(chance(seedOf(...words, 'seconds')), bar, 59, step, () => 1)
}
