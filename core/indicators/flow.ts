import { sideOf } from '../market/paper'
import { scratch, slidingSum } from './slidingSum'
import * as step from './steps'
import { ABOUT_NOUGHT, BETWEEN_BOUNDS, type Indicator, length, value } from './types'

/** Volume weighed by what the price did. */

/** Volume times where the close stands in the bar's range, from -1 to 1; nought where there is no range. */
function push(high: number, low: number, close: number, volume: number): number {
  const range = high - low
  return range > 0 ? (volume * (2 * close - high - low)) / range : 0 * (range + close + volume)
}

function pushed(
  high: Float64Array,
  low: Float64Array,
  close: Float64Array,
  volume: Float64Array,
  out: Float64Array,
): void {
  for (let i = 0; i < out.length; i++) out[i] = push(high[i], low[i], close[i], volume[i])
}

export const accumulation: Indicator = {
  name: 'accumulation',
  also: ['ad', 'a/d', 'accumulation distribution', 'adl'],
  opposite: ABOUT_NOUGHT,
  unknown: 'the bar has no volume',
  input: ['high', 'low', 'close', 'volume'],
  parameters: [],
  outputs: [{ name: 'value', unit: 'shares' }],
  warmUp: () => 1,
  doc: 'Accumulation and distribution: volume added up, each bar’s by where it closes in its range; begins at its first bar.',
  source: 'Chaikin; definition',
  column: ([high, low, close, volume], _params, [out]) => {
    pushed(high, low, close, volume, out)
    let total = 0
    for (let i = 0; i < out.length; i++) if (out[i] === out[i]) out[i] = total += out[i]
  },
  steps: (_params, slots) => {
    const total = slots.cell()
    return (ins, outs, keep) => {
      const brought = push(ins[0], ins[1], ins[2], ins[3])
      outs[0] = total[0] + brought
      if (keep && brought === brought) total[0] = outs[0]
    }
  },
}

export const chaikin: Indicator = {
  name: 'chaikin',
  also: ['cmf', 'chaikin money flow'],
  opposite: ABOUT_NOUGHT,
  unknown: 'a bar among them has no volume',
  input: ['high', 'low', 'close', 'volume'],
  parameters: [length('length', 20)],
  outputs: value('number', [-1, 1]),
  warmUp: ([n]) => n,
  doc: 'Chaikin money flow, −1 to 1: volume of the last bars by where each closed in its range, as a share of all of it.',
  source: 'Chaikin; 20 bars (common practice)',
  column: ([high, low, close, volume], [n], [out]) => {
    const flow = scratch(0, out.length)
    pushed(high, low, close, volume, out)
    slidingSum(out, n, flow)
    slidingSum(volume, n, out)
    for (let i = 0; i < out.length; i++) out[i] = out[i] > 0 ? flow[i] / out[i] : 0 * out[i]
  },
  steps: ([n], slots) => {
    const [flow, traded] = [step.sum(slots, n), step.sum(slots, n)]
    return (ins, outs, keep) => {
      const pushedBy = flow(push(ins[0], ins[1], ins[2], ins[3]), keep)
      const all = traded(ins[3], keep)
      outs[0] = all > 0 ? pushedBy / all : 0 * all
    }
  },
}

export const moneyFlow: Indicator = {
  name: 'moneyflow',
  also: ['mfi', 'money flow index'],
  opposite: BETWEEN_BOUNDS,
  unknown: 'a bar among them has no volume',
  input: ['high', 'low', 'close', 'volume'],
  parameters: [length('length', 14)],
  outputs: value('number', [0, 100]),
  warmUp: ([n]) => n + 1,
  doc: 'Money flow index, 0 to 100: turnover of bars whose typical price rose as a share of all that moved. 50 where none did.',
  source: 'Quong and Soudack, Technical Analysis of Stocks & Commodities (1989)',
  column: ([high, low, close, volume], [n], [out]) => {
    const rising = scratch(0, out.length)
    const falling = scratch(1, out.length)
    let before = NaN
    for (let i = 0; i < out.length; i++) {
      const typical = (high[i] + low[i] + close[i]) / 3
      const turnover = typical * volume[i]
      const way = sideOf(typical, before)
      rising[i] = way > 0 ? turnover : 0 * (way + turnover)
      falling[i] = way < 0 ? turnover : 0 * (way + turnover)
      before = typical
    }
    slidingSum(rising, n, out)
    slidingSum(falling, n, rising)
    for (let i = 0; i < out.length; i++) {
      const all = out[i] + rising[i]
      out[i] = all > 0 ? (100 * out[i]) / all : 50 + 0 * all
    }
  },
  steps: ([n], slots) => {
    const [rising, falling, before] = [step.sum(slots, n), step.sum(slots, n), slots.cell(NaN)]
    return (ins, outs, keep) => {
      const high = ins[0]
      const low = ins[1]
      const close = ins[2]
      const volume = ins[3]
      const typical = (high + low + close) / 3
      const turnover = typical * volume
      const way = sideOf(typical, before[0])
      const neither = 0 * (way + turnover)
      const up = rising(way > 0 ? turnover : neither, keep)
      const all = up + falling(way < 0 ? turnover : neither, keep)
      outs[0] = all > 0 ? (100 * up) / all : 50 + 0 * all
      if (keep) before[0] = typical
    }
  },
}
