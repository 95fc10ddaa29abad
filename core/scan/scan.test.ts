import { describe, expect, it } from '@jest/globals'
import { barsOf } from '@/tests/bars'
import { emptyBars } from '../market/bars'
import { barSource, parse } from '../rules'
import { hitRows, measureColumn, median, whatFollowed } from './hits'
import { scan } from './scan'

const DAILY = { count: 1, unit: 'day' } as const
const tree = (text: string) => parse(text).tree!
const set = {
  symbols: ['RISES', 'FALLS', 'YOUNG', 'EMPTY'],
  bars: [barsOf([1, 2, 3, 4, 5, 6]), barsOf([6, 5, 4, 3, 2, 1]), barsOf([1, 2]), emptyBars(0, DAILY, 'UTC')],
}

describe('scan', () => {
  it('tells those that meet a rule, those that fail and those that cannot be known', () => {
    const result = scan(set, {
      rule: tree('close > sma(close, 3)'),
      measures: [tree('sma(close, 3)')],
      every: DAILY,
    })!
    expect(result.rows).toMatchObject([{ symbol: 'RISES', values: [5], close: 6 }])
    expect(result.rows[0].change).toBeCloseTo(20)
    expect(result).toMatchObject({ looked: 4, failed: 1, unknown: ['YOUNG', 'EMPTY'] })
  })

  it('says which securities end before the latest', () => {
    const result = scan(set, { rule: tree('close > 0'), measures: [], every: DAILY })!
    expect(result.stale).toEqual(['YOUNG'])
    expect(result.asOf).toBe(set.bars[0].end[5])
  })

  it('looks only among those asked for, and stops when told to', () => {
    const query = { rule: tree('close > 0'), measures: [], every: DAILY }
    expect(scan(set, query, { among: new Set(['FALLS', 'NONE']) })!.rows.map((r) => r.symbol)).toEqual([
      'FALLS',
    ])
    expect(scan(set, query, { progress: () => false })).toBeUndefined()
    expect(scan({ symbols: [], bars: [] }, query)).toMatchObject({ looked: 0, rows: [] })
  })
})

describe('hits', () => {
  const bars = barsOf([1, 3, 3, 1, 1, 3, 1])
  it('are the rows at which a rule came true', () =>
    expect(hitRows(tree('close > 2'), barSource(bars))).toEqual([1, 5]))
  it('what followed is the median change, against all bars', () => {
    expect(whatFollowed(bars, [1, 5], 1)).toEqual({ cases: 2, after: (0 - 200 / 3) / 2, always: 0 })
    expect(whatFollowed(bars, [6], 1).after).toBeNaN()
  })
  it('a measure is a column of its own', () =>
    expect([...measureColumn(tree('close * 2'), barSource(bars))]).toEqual([2, 6, 6, 2, 2, 6, 2]))
  it('median of an even number is the mean of the middle two', () =>
    expect([median([4, 1, 3, 2]), median([3, 1, 2]), median([])]).toEqual([2.5, 2, NaN]))
})
