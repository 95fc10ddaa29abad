import { describe, expect, it } from '@jest/globals'
import { barsOf } from '@/tests/bars'
import {
  barSource,
  checkMeasure,
  checkRule,
  complete,
  explain,
  measuresIn,
  parse,
  print,
  sayIssue,
  unitOf,
} from '.'
import { barsNeeded } from './needs'

const DAILY = { count: 1, unit: 'day' } as const

/** The first issue of a text: its sentence, and the part of the text that it marks. */
function wrong(text: string, every = DAILY as Parameters<typeof checkRule>[1]): [string, string] {
  const [issue] = checkRule(text, every).issues
  return [sayIssue(issue), text.slice(issue.at.from, issue.at.to)]
}

describe('what the checker says, and where', () => {
  it.each([
    ['', 'Write a rule', ''],
    ['close > ', 'Found the end where a series, a function or a number', '> '],
    ['close >> 5', 'Found ">"', '>'],
    ['clse > 5', '"clse" is not known. Did you mean close?', 'clse'],
    ['close > sma(close)', 'used as sma(x, length)', 'sma(close)'],
    ['close > sma(close, 0)', 'whole number from 1 to 5,000', '0'],
    ['close > sma(close, 2.5)', 'whole number', '2.5'],
    ['close > bollinger(close, 20).top', '.middle, .upper or .lower', 'bollinger(close, 20).top'],
    ['close > rsi(14).value2', 'leave out ".value2"', 'rsi(14).value2'],
    ['close', 'a yes/no is needed here', 'close'],
    ['close > 5% + close', 'price', 'close'],
    ['close > volume', 'price', 'volume'],
    ['1 < close < 5', 'Two comparisons in a row', '<'],
    ['recently(close > 5, 3 days)', 'counts in bars', '3 days'],
    ['earlier(close, 3)', 'needs a length such as "3 bars" or "1 day"', '3'],
    ['on(5 min, close) > 3', 'finer than the bars', '5 min'],
    ['close > 3 and ?', '"?" has no meaning', '?'],
  ])('%s', (text, sentence, place) => {
    const [said, marked] = wrong(text)
    expect(said).toContain(sentence)
    expect(marked).toBe(place)
  })

  it('200 brackets are refused with a message, not a crash', () => {
    const text = `${'('.repeat(200)}close${')'.repeat(200)} > 1`
    expect(wrong(text)[0]).toContain('nest more than 64 deep')
    expect(wrong(`${'not '.repeat(200)}close > 1`)[0]).toContain('nest more than 64 deep')
  })

  it('a rule that looks 10,000 bars back is refused', () => {
    expect(wrong('close > sma(close, 10000)')[0]).toContain('from 1 to 5,000')
    expect(checkRule('earlier(close, 10000 bars) > 1').issues).toHaveLength(1)
  })

  it('a rule longer than 20,000 characters is refused', () => {
    expect(wrong(`close > 1${' and close > 1'.repeat(1700)}`)[0]).toContain('20,000 characters')
  })

  it('tells a moment from a state that lasts', () => {
    const nature = (text: string) => {
      const { type } = checkRule(text)
      return type?.is === 'yes/no' && type.nature
    }
    expect(nature('close > sma(close, 5)')).toBe('state')
    expect(nature('close crosses above sma(close, 5)')).toBe('moment')
    expect(nature('close crosses above sma(close, 5) and volume > 10')).toBe('moment')
    expect(nature('begins(close > 3)')).toBe('moment')
    expect(nature('recently(close crosses above 3, 4 bars)')).toBe('state')
  })

  it.each([
    ['close * volume', 'money'],
    ['close * 5%', 'price'],
    ['roc(close, 5)', 'percent'],
    ['rsi(14)', 'number'],
    ['bollinger(close, 20, 2).upper', 'price'],
    ['sma(volume, 20)', 'shares'],
    ['volume / sma(volume, 20)', 'number'],
  ])('the unit of %s is %s', (text, unit) => {
    expect(unitOf(parse(text).tree!, DAILY)).toBe(unit)
    expect(checkMeasure(text).type).toBeDefined()
  })

  it.each([
    ['close > 3', 1],
    ['close crosses above sma(close, 50)', 51],
    ['rsi(14) < 30 and earlier(close, 3 bars) < close', 15],
    ['recently(sma(close, 10) > 3, 4 bars)', 13],
  ])('%s needs %d bars', (text, bars) => expect(barsNeeded(parse(text).tree!)).toBe(bars))
})

describe('canonical text', () => {
  it.each([
    ['close>3 AND(volume>2)', 'close > 3 and volume > 2'],
    ['not (close > 3 or close < 1)', 'not (close > 3 or close < 1)'],
    ['(close + 1) * 2 > (3)', '(close + 1) * 2 > 3'],
    ['close > $18 and volume > 1.5M', 'close > $18 and volume > 1.5M'],
    ['close  between 3 and  5', 'close between 3 and 5'],
    ['recently( rsi(14) crosses above 50 , 4 bars )', 'recently(rsi(14) crosses above 50, 4 bars)'],
  ])('%s', (text, canonical) => expect(print(parse(text).tree!)).toBe(canonical))
})

describe('explanation', () => {
  const climb = Array.from({ length: 30 }, (_, i) => 10 + i)
  const why = (text: string, closes = climb) => explain(parse(text).tree!, barSource(barsOf(closes)))

  it('values that differ are told apart, with as many decimals as that takes', () => {
    const closes = [10, 10, 10, 10.004]
    expect(why('close > sma(close, 4)', closes).sentence).toBe('close 10.004 is above sma(close, 4) 10.001')
    expect(why('close > sma(close, 3)', [10, 10, 11]).sentence).toBe(
      'close 11.00 is above sma(close, 3) 10.33',
    )
  })

  it('gives each part with its values', () => {
    const { verdict, parts } = why('close > sma(close, 5) and close < 5')
    expect(verdict).toBe('fails')
    expect(parts.map((p) => [p.verdict, p.sentence])).toEqual([
      ['holds', 'close 39.00 is above sma(close, 5) 37.00'],
      ['fails', 'close 39.00 is not below 5'],
    ])
  })

  it('says what is missing: needs 200 bars, has 30', () => {
    expect(why('close > sma(close, 200)')).toMatchObject({
      verdict: 'unknown',
      short: { needs: 200, has: 30 },
      sentence: 'unknown: close > sma(close, 200) needs 200 bars, has 30',
    })
  })

  it('says when a crossing was past already', () => {
    expect(why('close crosses above 20').sentence).toContain('was above 20 already on the bar before')
  })

  it('division by zero is unknown, never a figure', () => {
    expect(why('close / (close - close) > 1')).toMatchObject({ verdict: 'unknown' })
  })

  it('lists the numbers that a rule looks at, once each', () => {
    const tree = parse('close > sma(close, 5) and recently(rsi(14) < 30, 3 bars) and close < 99').tree!
    expect(measuresIn(tree).map(print)).toEqual(['close', 'sma(close, 5)', 'rsi(14)'])
  })

  it('lists a number that is looked at on other bars under those: it is not the one of these bars', () => {
    const tree = parse(
      'close > sma(close, 15) and on(1 day, close > sma(close, 20)) and earlier(rsi(14) < 30, 2 bars)',
    ).tree!
    expect(measuresIn(tree).map(print)).toEqual([
      'close',
      'sma(close, 15)',
      'on(1 day, close)',
      'on(1 day, sma(close, 20))',
      'earlier(rsi(14), 2 bars)',
    ])
  })
})

describe('completion', () => {
  const offers = (text: string) => complete(text, text.length).suggestions.map((s) => s.label)

  it('offers names at the start of a value', () => {
    expect(offers('close > sm')[0]).toBe('sma')
    // By what a measure is also called, and by part of its explanation.
    expect(offers('close > mfi')).toEqual(['moneyflow'])
    expect(offers('close > wilder')[0]).toBe('wilder')
    expect(offers('overbought')).toContain('rsi')
    expect(offers('exponential')).toEqual(expect.arrayContaining(['ema', 'dema', 'tema', 'macd']))
    expect(offers('')).toContain('rsi')
  })
  it('offers joining words after a value', () => expect(offers('close ')).toContain('crosses above'))
  it('offers outputs after a dot', () =>
    expect(offers('close > bollinger(close, 20, 2).')).toEqual(['middle', 'upper', 'lower']))
  it('replaces what was typed, from its start', () => expect(complete('close > sm', 10).from).toBe(8))
})
