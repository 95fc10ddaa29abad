import { sideOf } from '../market/paper'
import { scratch, slidingSum } from './slidingSum'
import { type Indicator, length, value } from './types'

/** Volume weighed by what the price did. */

/** Volume times where the close stands in the bar's range, from -1 to 1; nought where there is no range. */
function pushed(
  high: Float64Array,
  low: Float64Array,
  close: Float64Array,
  volume: Float64Array,
  out: Float64Array,
): void {
  for (let i = 0; i < out.length; i++) {
    const range = high[i] - low[i]
    out[i] =
      range > 0 ? (volume[i] * (2 * close[i] - high[i] - low[i])) / range : 0 * (range + close[i] + volume[i])
  }
}

export const accumulation: Indicator = {
  name: 'accumulation',
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
}

export const chaikin: Indicator = {
  name: 'chaikin',
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
}

export const moneyFlow: Indicator = {
  name: 'moneyflow',
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
}
