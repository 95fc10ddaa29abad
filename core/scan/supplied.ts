import { type ScanOrder } from './order'

/** The parts of a day, in which different questions are asked. */
export const PARTS_OF_DAY = ['before the open', 'in the session', 'after the close'] as const
export type PartOfDay = (typeof PARTS_OF_DAY)[number]

/** Scans that come with the product, by when one looks and what one does next; to be taken as they are or changed. */
export interface SuppliedScan {
  name: string
  when: PartOfDay
  /** Why one looks. */
  why: string
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
    name: 'Called up',
    when: 'before the open',
    why: 'Indicated well over the last close. Find the news first; then see whether the first half hour holds it.',
    rule: '100 * (last / close - 1) > 1.6',
    measures: ['last', 'volatility(20)'],
    frame: '1 day',
    order: most('100 * (last / close - 1)'),
  },
  {
    name: 'Called down',
    when: 'before the open',
    why: 'Indicated well under the last close. What you hold and finds itself here wants a decision before the bell.',
    rule: '100 * (last / close - 1) < -1.6',
    measures: ['last', 'volatility(20)'],
    frame: '1 day',
    order: least('100 * (last / close - 1)'),
  },
  {
    name: 'Reports this week',
    when: 'before the open',
    why: 'A report makes a price jump whichever way one stands: make positions smaller, or stay away.',
    rule: 'days to earnings <= 5',
    measures: ['days to earnings', 'volatility(20)'],
    frame: '1 day',
    order: least('days to earnings'),
  },
  {
    name: 'Where the money went',
    when: 'in the session',
    why: 'Most money traded today so far. Spreads are narrow here, and an order of size is not noticed.',
    rule: 'close * volume > $1.5M',
    measures: ['close * volume', 'roc(close, 1)'],
    frame: soFar,
    order: most('close * volume'),
  },
  {
    name: 'Busier than usual',
    when: 'in the session',
    why: 'Far more traded than by this time on other days: somebody knows, or believes, something. Look for the cause.',
    rule: 'usualvolume(15) > 2.2',
    measures: ['usualvolume(15)', 'gap'],
    frame: '15 min so far',
    order: most('usualvolume(15)'),
  },
  {
    name: 'Options busier than usual',
    when: 'in the session',
    why: 'Option buyers came in number, which some do before the shares move. Compare with the date of the next report.',
    rule: 'optionvolume > 2.7 * sma(earlier(optionvolume, 1 bar), 18) and optionvolume > 250',
    measures: ['roc(close, 1)', 'days to earnings'],
    frame: soFar,
    order: most('optionvolume'),
  },
  {
    name: 'Opened away and stayed',
    when: 'in the session',
    why: 'Opened over the day before and has not come back. Whoever is short must buy: wait for the first rest.',
    rule: 'gap up and close > open',
    measures: ['gap', 'volume'],
    frame: soFar,
    order: most('gap'),
  },
  {
    name: 'Highest close of a year',
    when: 'after the close',
    why: 'Nobody who bought within a year is losing, so few want out. Candidates for tomorrow’s list of longs.',
    rule: 'new high(252)',
    measures: ['roc(close, 70)'],
    frame: '1 day',
    order: most('roc(close, 70)'),
  },
  {
    name: 'Lowest close of a year',
    when: 'after the close',
    why: 'Everybody who bought within a year is losing. Check what you hold against it; candidates for shorts.',
    rule: 'new low(252)',
    measures: ['roc(close, 70)'],
    frame: '1 day',
    order: least('roc(close, 70)'),
  },
  {
    name: 'Narrowest day in six weeks',
    when: 'after the close',
    why: 'A day in which nothing moved: its high and low are close by, and what leaves them tomorrow shows the way.',
    rule: 'high - low = lowest(high - low, 30)',
    measures: ['atr(14)', 'high', 'low'],
    frame: '1 day',
    order: least('atr(14)'),
  },
  {
    name: 'Outran the market',
    when: 'after the close',
    why: 'Rose more than its index over a quarter and stands over its averages: what to buy when the market turns up.',
    rule: 'strength(close, beside("index", close), 70) > 9% and close > all of (sma(close, 33), sma(close, 70))',
    measures: ['beta(close, beside("index", close), 60)', 'volatility(20)'],
    frame: '1 day',
    order: most('strength(close, beside("index", close), 70)'),
  },
  {
    name: 'Turned after a fall',
    when: 'after the close',
    why: 'Lower tops and bottoms until lately, and now over its month. See in “When it was true before” how often it lasted.',
    rule: 'recently(trend down, 9 bars) and close crosses above sma(close, 22)',
    measures: ['rsi(14)', 'resistance'],
    frame: '1 day',
    order: least('rsi(14)'),
  },
]
