import { describe, expect, it } from '@jest/globals'
import { barsOf } from '@/tests/bars'
import { emptyBars } from '../market/bars'
import { finishScan, scan } from '../scan/scan'
import { barSource, checkRule, explain, parse, sayIssue } from '.'

const DAILY = { count: 1, unit: 'day' } as const
const wrong = (text: string, names = {}) => checkRule(text, DAILY, names).issues.map(sayIssue).join(' ')
const tree = (text: string) => {
  const checked = checkRule(text)
  if (!checked.type) throw new Error(checked.issues.map(sayIssue).join(' '))
  return checked.tree
}
const verdict = (text: string, closes: number[], volumes?: number[]) =>
  explain(tree(text), barSource(barsOf(closes, volumes))).verdict

describe('rules that go wrong', () => {
  it('a division by nought is unknown, whichever way it is asked', () => {
    for (const rule of ['close / (close - close) > 1', 'not (close / (close - close) > 1)', 'volume / 0 < 5'])
      expect(verdict(rule, [1, 2, 3])).toBe('unknown')
  })

  it('10,000 bars back, an unknown security, an unknown drawing, nests of 200: each has its message', () => {
    expect(wrong('earlier(close, 10000 bars) > 1')).toContain('looks back 10,001 bars; at most 5,000')
    const names = { symbols: new Set(['OSPRY', 'GANET']), drawn: ['shelf'] }
    expect(wrong('beside("OSPRI", close) > 1', names)).toBe(
      'No security "OSPRI" is known. Did you mean OSPRY?',
    )
    expect(wrong('close > level("self")', names)).toBe('Nothing named "self" is drawn. Drawn are shelf.')
    expect(wrong('close > level("self")', { drawn: [] })).toContain('Draw it in Look')
    expect(wrong(`${'abs('.repeat(200)}close${')'.repeat(200)} > 1`)).toContain('nest more than 64 deep')
    expect(wrong(`${'all of ('.repeat(200)}close > 1${')'.repeat(200)}`)).toContain('nest more than 64 deep')
  })

  it('a time of day cannot be added to, a date must be one', () => {
    expect(wrong('time + 5 > 10:00')).toContain('Nothing can be added to or multiplied with a time of day')
    expect(wrong('time > close')).toContain('Cannot compare a time of day with a price')
    expect(wrong('close > vwapsince("soon")')).toContain('"soon" is not a date')
    expect(wrong('close > opening(5).high')).toContain('length of time in minutes or hours')
    expect(wrong('close > beside(OSPRY, close)')).toContain('needs a symbol in quotes')
  })
})

describe('bars that go wrong', () => {
  it('no volume at all leaves what divides by it unknown', () => {
    const none = [0, 0, 0, 0, 0]
    expect(verdict('vwap > 0', [1, 2, 3, 4, 5], none)).toBe('unknown')
    expect(verdict('relvolume(3) > 1', [1, 2, 3, 4, 5], none)).toBe('unknown')
  })

  it('a price that is not known makes unknown what looks at it, and nothing once it has gone', () => {
    const closes = [1, 2, NaN, 4, 5, 6, 7]
    expect(verdict('sma(close, 3) > 0', closes.slice(0, 5))).toBe('unknown')
    expect(verdict('sma(close, 3) > 0', closes)).toBe('holds')
  })

  it('prices below nought give no change in percent', () => {
    expect(verdict('roc(close, 1) > 0', [-2, -1])).toBe('unknown')
    expect(verdict('volatility(2) > 0', [1, -1, 1, 2])).toBe('unknown')
  })

  it('a universe of none, of empty ones, and of fifty thousand', () => {
    const query = { rule: parse('close > earlier(close, 1 bar)').tree!, measures: [], every: DAILY }
    expect(finishScan(scan({ symbols: [], bars: [] }, query))).toMatchObject({
      looked: 0,
      rows: [],
      stale: [],
    })
    const empty = finishScan(scan({ symbols: ['A'], bars: [emptyBars(0, DAILY, 'UTC')] }, query))
    expect(empty).toMatchObject({ looked: 1, unknown: ['A'], empty: ['A'] })
    const [up, down] = [barsOf([1, 2]), barsOf([2, 1])]
    const many = {
      symbols: Array.from({ length: 50_000 }, (_, i) => `S${i}`),
      bars: Array.from({ length: 50_000 }, (_, i) => (i % 5 === 0 ? up : down)),
    }
    expect(finishScan(scan(many, query))).toMatchObject({ looked: 50_000, failed: 40_000 })
  })
})
