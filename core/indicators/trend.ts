import { isMore, sideOf } from '../market/paper'
import { trueRange } from './atr'
import { smooth } from './recursive'
import { scratch } from './slidingSum'
import { type Slots } from './slots'
import * as step from './steps'
import { GAP, type Indicator, length, type Stepper } from './types'

/** How strong a movement is, and which way it goes. */

/**
 * Directional movement of one side: how far it went, where it went further than the other. Moves that are alike but
 * for what binary fractions make of their prices count for neither side, as Wilder has it for equal ones.
 */
export const headway = (ahead: number, other: number, price: number): number =>
  isMore(ahead - other, price) && ahead > 0 ? ahead : 0 * (ahead + other)

export const adx: Indicator = {
  name: 'adx',
  also: ['average directional index', 'dmi', 'directional movement', '+di', '-di'],
  opposite: {
    goes: 'neither way',
    each: { plus: 'between bounds', minus: 'between bounds' },
    outputs: [['plus', 'minus']],
  },
  unknown: GAP,
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
  steps: ([n], slots) => {
    const [reach, smoothRange] = [step.range(slots), step.smooth(slots, n, 1 / n)]
    const [plus, minus, value] = [0, 1, 2].map(() => step.smooth(slots, n, 1 / n))
    const [lastHigh, lastLow, begun] = [slots.cell(NaN), slots.cell(NaN), slots.cell()]
    return (ins, outs, keep) => {
      const high = ins[0]
      const low = ins[1]
      const close = ins[2]
      const first = begun[0] === 0
      const now = reach(high, low, close, keep)
      const ranged = smoothRange(first ? NaN : now, keep)
      const [up, down] = [high - lastHigh[0], lastLow[0] - low]
      const rose = plus(first ? NaN : headway(up, down, high), keep)
      const fell = minus(first ? NaN : headway(down, up, high), keep)
      outs[1] = ranged > 0 ? (100 * rose) / ranged : 0 * (rose + ranged)
      outs[2] = ranged > 0 ? (100 * fell) / ranged : 0 * (fell + ranged)
      const both = outs[1] + outs[2]
      outs[0] = value(both > 0 ? (100 * Math.abs(outs[1] - outs[2])) / both : 0 * both, keep)
      if (keep) {
        lastHigh[0] = high
        lastLow[0] = low
        begun[0] = 1
      }
    }
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

/** The same one value at a time. */
function sinceExtremeStep(slots: Slots, n: number, sign: 1 | -1): step.Step {
  const last = step.lastValues(slots, n)
  return (x, keep) => {
    last.push(x, keep)
    let [best, since] = [NaN, NaN]
    for (let k = n - 1; k >= 0; k--) {
      const value = sign * last.back(k)
      if (value !== value) return NaN
      if (!(value < best)) [best, since] = [value, k]
    }
    return since
  }
}

export const aroon: Indicator = {
  name: 'aroon',
  also: ['aroon oscillator'],
  opposite: { goes: 'between bounds', outputs: [['up', 'down']] },
  unknown: GAP,
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
  steps: ([n], slots) => {
    const [top, bottom] = [sinceExtremeStep(slots, n + 1, 1), sinceExtremeStep(slots, n + 1, -1)]
    return (ins, outs, keep) => {
      const high = ins[0]
      const low = ins[1]
      outs[0] = (100 * (n - top(high, keep))) / n
      outs[1] = (100 * (n - bottom(low, keep))) / n
      outs[2] = outs[0] - outs[1]
    }
  },
}

/** One bar of the stop: the recurrence is that of the column. */
function parabolicSteps([step, limit]: readonly number[], slots: Slots): Stepper {
  const [high1, high2, low1, low2] = [0, 1, 2, 3].map(() => slots.cell(NaN))
  const [rows, way, stop, extreme, speed] = [0, 0, NaN, NaN, step].map((x) => slots.cell(x))
  return (ins, outs, keep) => {
    const high = ins[0]
    const low = ins[1]
    let [nowWay, nowStop, nowExtreme, nowSpeed] = [way[0], stop[0], extreme[0], speed[0]]
    outs[0] = outs[1] = outs[2] = NaN
    const before = way[0]
    if (!(rows[0] > 0 && high - low + high1[0] - low1[0] >= 0)) nowWay = 0
    else {
      if (before === 0) {
        nowWay = sideOf(high + low, high1[0] + low1[0]) >= 0 ? 1 : -1
        nowStop = nowWay > 0 ? low1[0] : high1[0]
        nowExtreme = nowWay > 0 ? Math.max(high, high1[0]) : Math.min(low, low1[0])
        nowSpeed = step
      } else {
        nowStop += nowSpeed * (nowExtreme - nowStop)
        const two = rows[0] > 1 && high2[0] === high2[0]
        const [h, l] = two ? [high2[0], low2[0]] : [high1[0], low1[0]]
        nowStop = before > 0 ? Math.min(nowStop, low1[0], l) : Math.max(nowStop, high1[0], h)
        if (before > 0 ? sideOf(low, nowStop) < 0 : sideOf(high, nowStop) > 0) {
          nowWay = -before
          nowStop = nowExtreme
          nowExtreme = nowWay > 0 ? high : low
          nowSpeed = step
        } else if (before > 0 ? high > nowExtreme : low < nowExtreme) {
          nowExtreme = before > 0 ? high : low
          nowSpeed = Math.min(limit, nowSpeed + step)
        }
      }
      outs[0] = nowStop
      outs[1] = nowWay
      outs[2] = before !== 0 && before !== nowWay ? nowWay : 0
    }
    if (!keep) return
    way[0] = nowWay
    stop[0] = nowStop
    extreme[0] = nowExtreme
    speed[0] = nowSpeed
    high2[0] = high1[0]
    low2[0] = low1[0]
    high1[0] = high
    low1[0] = low
    rows[0]++
  }
}

export const parabolic: Indicator = {
  name: 'parabolic',
  also: ['sar', 'psar', 'stop and reverse'],
  opposite: { goes: 'price', each: { trend: 'about nought', turn: 'about nought' } },
  unknown: 'the bar before has no price',
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
  steps: parabolicSteps,
}
