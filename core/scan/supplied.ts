import { type ScanOrder } from './order'

/** Scans that come with the product, to be taken as they are or changed. Bounds are common practice. */
export interface SuppliedScan {
  name: string
  tag: string
  rule: string
  measures: string[]
  frame: string
  order: ScanOrder
}

const soFar = '1 day so far'
const most = (measure: string): ScanOrder => ({ by: `measure ${measure}`, down: true })
const least = (measure: string): ScanOrder => ({ by: `measure ${measure}`, down: false })

export const SUPPLIED: readonly SuppliedScan[] = [
  {
    name: 'Most active',
    tag: 'today',
    rule: 'close * volume > $1M',
    measures: ['close * volume', 'relvolume(20)'],
    frame: soFar,
    order: most('close * volume'),
  },
  {
    name: 'Gainers',
    tag: 'today',
    rule: 'roc(close, 1) > 3%',
    measures: ['relvolume(20)', 'gap'],
    frame: soFar,
    order: most('roc(close, 1)'),
  },
  {
    name: 'Losers',
    tag: 'today',
    rule: 'roc(close, 1) < -3%',
    measures: ['relvolume(20)', 'gap'],
    frame: soFar,
    order: least('roc(close, 1)'),
  },
  {
    name: 'Gainers before the open',
    tag: 'before the open',
    rule: '100 * (last / close - 1) > 2',
    measures: ['last', 'volatility(20)'],
    frame: '1 day',
    order: most('100 * (last / close - 1)'),
  },
  {
    name: 'Losers before the open',
    tag: 'before the open',
    rule: '100 * (last / close - 1) < -2',
    measures: ['last', 'volatility(20)'],
    frame: '1 day',
    order: least('100 * (last / close - 1)'),
  },
  {
    name: 'New highs of a year',
    tag: 'extremes',
    rule: 'new high(252)',
    measures: ['roc(close, 63)'],
    frame: '1 day',
    order: most('roc(close, 63)'),
  },
  {
    name: 'New lows of a year',
    tag: 'extremes',
    rule: 'new low(252)',
    measures: ['roc(close, 63)'],
    frame: '1 day',
    order: least('roc(close, 63)'),
  },
  {
    name: 'Gaps up and holds',
    tag: 'today',
    rule: 'gap up and close > open',
    measures: ['gap', 'relvolume(20)'],
    frame: soFar,
    order: most('gap'),
  },
  {
    name: 'Unusual volume',
    tag: 'volume',
    rule: 'relvolume(20) > 2.5',
    measures: ['roc(close, 1)'],
    frame: '1 day',
    order: most('relvolume(20)'),
  },
  {
    name: 'Unusual option volume',
    tag: 'volume',
    rule: 'optionvolume > 3 * sma(earlier(optionvolume, 1 bar), 20) and optionvolume > 200',
    measures: ['roc(close, 1)', 'days to earnings'],
    frame: '1 day',
    order: most('optionvolume'),
  },
  {
    name: 'Stronger than the market',
    tag: 'strength',
    rule: 'strength(close, beside("index", close), 63) > 10% and close > all of (sma(close, 50), sma(close, 200))',
    measures: ['beta(close, beside("index", close), 60)', 'volatility(20)'],
    frame: '1 day',
    order: most('strength(close, beside("index", close), 63)'),
  },
  {
    name: 'Turns up after a fall',
    tag: 'turns',
    rule: 'recently(trend down, 10 bars) and close crosses above sma(close, 20)',
    measures: ['rsi(14)', 'resistance'],
    frame: '1 day',
    order: least('rsi(14)'),
  },
]
