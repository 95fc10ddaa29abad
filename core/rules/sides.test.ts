import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { condition } from '@/tests/rules'
import { checkTree, parse, print } from '.'
import { hintsOf, sayHint } from './hints'
import { otherSide } from './otherSide'

const DAILY = { count: 1, unit: 'day' } as const
const turned = (text: string) => print(otherSide(parse(text).tree!).tree)

describe('the other side of a rule', () => {
  it.each([
    ['close > sma(close, 50)', 'close < sma(close, 50)'],
    [
      'close crosses above highest(earlier(high, 1 bar), 20)',
      'close crosses below lowest(earlier(low, 1 bar), 20)',
    ],
    ['rsi(14) < 30', 'rsi(14) > 70'],
    ['rsi(14) between 20 and 35', 'rsi(14) between 65 and 80'],
    ['williams(14) < -80', 'williams(14) > -20'],
    ['macd(close, 12, 26, 9).line > 0.5', 'macd(close, 12, 26, 9).line < -0.5'],
    ['close > bollinger(close, 20, 2).upper', 'close < bollinger(close, 20, 2).lower'],
    ['close > sma(close, 50) * 1.03', 'close < sma(close, 50) * 0.97'],
    ['close > sma(close, 50) + 2 * atr(14)', 'close < sma(close, 50) - 2 * atr(14)'],
    ['gap up and close > opening(25 min).high', 'gap down and close < opening(25 min).low'],
    ['climbs(sma(close, 30), 5 bars)', 'sinks(sma(close, 30), 5 bars)'],
    ['recently(rsi(14) crosses above 50, 4 bars)', 'recently(rsi(14) crosses below 50, 4 bars)'],
    ['new high(252) and trend up', 'new low(252) and trend down'],
    [
      'strength(close, beside("index", close), 63) > 10%',
      'strength(close, beside("index", close), 63) < -10%',
    ],
    ['close > all of (ema(close, 9), ema(close, 33))', 'close < all of (ema(close, 9), ema(close, 33))'],
    ['adx(14).plus > adx(14).minus', 'adx(14).minus < adx(14).plus'],
    ['on(1 week, close > sma(close, 10))', 'on(1 week, close < sma(close, 10))'],
    ['close > $50', 'close < $50'],
    ['reaches(support(8, 3))', 'reaches(resistance(8, 3))'],
  ])('%s becomes %s', (text, other) => {
    expect(turned(text)).toBe(other)
    expect(turned(other)).toBe(text)
  })

  it.each([
    'volume > 1.5 * sma(volume, 20)',
    'atr(14) > 2 and adx(14) > 25',
    'time between 09:55 and 14:20',
    'highest(volume, 20) > 1M',
    'market value > $1B and days to earnings > 5',
  ])('%s has no direction and stays', (text) => {
    expect(turned(text)).toBe(text)
    expect(otherSide(parse(text).tree!).changed).toEqual([])
  })

  it('says what it changed, part by part', () => {
    const { changed } = otherSide(parse('rsi(14) < 30 and volume > 1M and close > sma(close, 5)').tree!)
    expect(changed).toEqual([
      { from: 'rsi(14) < 30', to: 'rsi(14) > 70' },
      { from: 'close > sma(close, 5)', to: 'close < sma(close, 5)' },
    ])
  })

  it('twice gives the rule back, and what was sound stays sound', () => {
    fc.assert(
      fc.property(condition, (tree) => {
        fc.pre(checkTree(tree, DAILY, 'yes/no').type !== undefined)
        const once = otherSide(tree).tree
        expect(checkTree(once, DAILY, 'yes/no').issues).toEqual([])
        expect(print(otherSide(once).tree)).toBe(print(tree))
      }),
      { numRuns: cases(200) },
    )
  })
})

describe('hints', () => {
  const hints = (text: string) => hintsOf(parse(text).tree!).map(sayHint)
  it.each([
    ['rsi(14) > 101', '"rsi(14) > 101" never holds: rsi(14) lies from 0 to 100.'],
    ['rsi(14) >= 0', '"rsi(14) >= 0" always holds: rsi(14) lies from 0 to 100. It can be left out.'],
    ['close >= close', '"close >= close" always holds: both sides are the same. It can be left out.'],
    ['close crosses above close', 'never holds: both sides are the same'],
    ['5 > 6', '"5 > 6" never holds: both sides are numbers.'],
    ['rsi(14) between 70 and 30', 'never holds: the lower bound lies above the upper one'],
    ['williams(14) crosses above 5', 'never holds: williams(14) lies from -100 to 0'],
    ['rsi(14) > 70 and rsi(14) < 30', '"rsi(14) > 70" and "rsi(14) < 30" never hold together.'],
    ['rsi(14) > 30 or rsi(14) < 70', 'One of "rsi(14) > 30" and "rsi(14) < 70" always holds.'],
    ['recently(stochastic.slow > 100, 3 bars)', 'never holds'],
  ])('%s', (text, said) => {
    expect(hints(text).join(' ')).toContain(said)
  })

  it.each(['rsi(14) > 30 and rsi(14) < 70', 'close > sma(close, 20)', 'rsi(14) > 70 or rsi(14) < 30'])(
    '%s is fine',
    (text) => expect(hints(text)).toEqual([]),
  )
})
