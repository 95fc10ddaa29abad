import { describe, expect, it } from '@jest/globals'
import { barsOf } from '@/tests/bars'
import { emptyBars } from '../market/bars'
import { dateIn } from '../market/moments'
import { barSource, checkMeasure, checkRule, parse, print } from '../rules'
import { ballotTree, USUAL_VOTERS, Voter, voteOf } from './ballot'
import { compareRuns } from './compareRuns'
import { chance } from '../market/chance'
import { followed, median } from './followed'
import { addHits, countHits, type Hit } from './history'
import { hitRows, measureColumn, whatFollowed } from './hits'
import { scanPairs } from './pairs'
import { lastDue } from './schedule'
import { SUPPLIED } from './supplied'
import { addPart, finishScan, scan, type ScanPart } from './scan'

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
    })
    expect(result.rows).toMatchObject([{ symbol: 'RISES', values: [5], close: 6 }])
    expect(result.rows[0].change).toBeCloseTo(20)
    expect(result).toMatchObject({ looked: 4, failed: 1, unknown: ['YOUNG', 'EMPTY'] })
  })

  it('says which securities end before the latest, which have no bars, which miss some', () => {
    const holey = barsOf([1, 2, 3, 4, 5, 6])
    const kept = [0, 1, 3, 4, 5]
    for (const name of ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const)
      holey[name] = Float64Array.from(kept, (i) => holey[name][i])
    const all = { symbols: [...set.symbols, 'HOLEY'], bars: [...set.bars, holey] }
    const result = finishScan(scan(all, { rule: tree('close > 0'), measures: [], every: DAILY }))
    expect(result.stale).toEqual([{ symbol: 'YOUNG', end: set.bars[2].end[1] }])
    expect(result.asOf).toBe(set.bars[0].end[5])
    expect([result.empty, result.holey]).toEqual([['EMPTY'], ['HOLEY']])
  })

  it('counts how many pass each part, and on how many bars the whole held', () => {
    const rule = tree('close > 3 and close > earlier(close, 1 bar)')
    const { parts, barsTrue, barsKnown } = scan(set, { rule, measures: [], every: DAILY })
    expect(parts).toEqual([
      { text: 'close > 3', holds: 1, fails: 2, unknown: 1 },
      { text: 'close > earlier(close, 1 bar)', holds: 2, fails: 1, unknown: 1 },
    ])
    expect([barsTrue, barsKnown]).toEqual([3, 6 + 5 + 2])
  })

  it('looks only at the rows asked for; several parts add up to the whole', () => {
    const query = { rule: tree('close > 0'), measures: [], every: DAILY }
    expect(scan(set, query, { rows: [1] }).rows.map((r) => r.symbol)).toEqual(['FALLS'])
    expect(scan({ symbols: [], bars: [] }, query)).toMatchObject({ looked: 0, rows: [] })
    const parts = [[0], [1, 2], [3]].map((rows) => scan(set, query, { rows }))
    expect(
      finishScan(parts.reduce<ScanPart | undefined>((all, part) => addPart(all, part), undefined)!),
    ).toEqual(finishScan(scan(set, query)))
  })

  it('as of a past moment it sees nothing of what came after', () => {
    const end = set.bars[0].end[2]
    const by = dateIn(end - 1, set.bars[0].zone)
    const query = { rule: tree('close > 2'), measures: [tree('close')], every: DAILY }
    const then = scan(set, query, { by })
    expect(then.rows.map((row) => [row.symbol, row.close, row.asOf])).toEqual([
      ['RISES', 3, end],
      ['FALLS', 4, end],
    ])
  })
})

describe('what followed a rule, by hand', () => {
  const prices = [10, 11, 10, 12, 10, 15, 10, 9, 10, 12]
  const one = { symbols: ['A', 'B'], bars: [barsOf(prices), barsOf(prices)] }
  const counts = countHits(one, tree('close > 10'), [1, 3])

  it('finds every time it came true, with the change after so many bars', () => {
    expect(counts.hits.filter((h) => h.symbol === 'A').map((h) => h.close)).toEqual([11, 12, 15, 12])
    const [first] = counts.hits
    expect(first.changes[0]).toBeCloseTo(100 * (10 / 11 - 1), 12)
    expect(first.changes[1]).toBeCloseTo(100 * (10 / 11 - 1), 12)
    expect(counts.hits.at(-1)!.changes).toEqual([NaN, NaN])
    expect(followed(counts, 0).others.total).toBe(2 * 6)
  })

  it('hits at the same time, or while one before still runs, are one case', () => {
    const told = followed(counts, 0)
    expect([told.cases, told.independent]).toEqual([6, 3])
    expect(followed(counts, 1).independent).toBe(2)
    expect(told.median).toBeCloseTo(100 * (10 / 12 - 1), 10)
    expect(told.rose).toBe(0)
    expect(told.low).toBeNaN()
  })

  it('parts add up to the whole', () => {
    const rows = [[0], [1]].map((r) => countHits(one, tree('close > 10'), [1, 3], { rows: r }))
    expect(followed(addHits(rows[0], rows[1]), 0)).toEqual(followed(counts, 0))
  })

  it('the interval of the bootstrap holds the median that made the data, about 19 times in 20', () => {
    const luck = chance(7)
    let inside = 0
    for (let k = 0; k < 30; k++) {
      const hits = Array.from({ length: 40 }, (_, i): Hit => {
        const change = 1 + 2 * luck.normal()
        return {
          symbol: 'A',
          zone: 'UTC',
          first: 0,
          time: 10 * i,
          close: 1,
          changes: [change],
          until: [10 * i + 5],
        }
      })
      const { low, high, independent } = followed({ ...counts, ahead: [1], hits, others: counts.others }, 0)
      expect(independent).toBe(40)
      if (low <= 1 && high >= 1) inside++
    }
    expect(inside).toBeGreaterThanOrEqual(26)
  })
})

describe('pairs', () => {
  it('finds two that move together, and nothing between those that do not', () => {
    const luck = chance(3)
    const walk = [50]
    for (let i = 1; i < 80; i++) walk.push(walk[i - 1] * Math.exp(0.01 * luck.normal()))
    const other = [50]
    for (let i = 1; i < 80; i++) other.push(other[i - 1] * Math.exp(0.01 * luck.normal()))
    const twin = walk.map((x, i) => 2 * x + 3 + Math.sin(i) / 10)
    const all = { symbols: ['ONE', 'OTHER', 'TWIN'], bars: [barsOf(walk), barsOf(other), barsOf(twin)] }
    const found = scanPairs(all, [0, 1, 2], [0, 1, 2], 60, 0.8)
    expect(found.map((p) => [p.one, p.other, p.bars])).toEqual([['ONE', 'TWIN', 60]])
    expect(found[0].ratio).toBeCloseTo(0.5, 1)
    expect(scanPairs(all, [0], [0, 1, 2], 60, 0.99)).toHaveLength(1)
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

describe('runs, schedules, ballots', () => {
  it('two runs compared: new, gone, still there', () => {
    expect(compareRuns(['A', 'B', 'C'], ['C', 'D', 'A'])).toEqual({
      came: ['D'],
      went: ['B'],
      stayed: ['C', 'A'],
    })
  })

  it.each([
    [{ is: 'every', minutes: 30 } as const, 29, undefined],
    [{ is: 'every', minutes: 30 } as const, 61, 60],
    [{ is: 'every', minutes: 30 } as const, 500, 390],
    [{ is: 'after open', minutes: 25 } as const, 24, undefined],
    [{ is: 'after open', minutes: 25 } as const, 200, 25],
    [{ is: 'after close' } as const, 389, undefined],
    [{ is: 'after close' } as const, 400, 390],
  ])('%j, %d minutes after the open, was due at %s', (schedule, now, due) => {
    const minute = 60_000
    const at = lastDue(schedule, { open: 0, close: 390 * minute, now: now * minute })
    expect(at).toBe(due === undefined ? undefined : due * minute)
  })

  it('a voter abstains where both of its rules hold, and is unknown where one is', () => {
    expect(voteOf('holds', 'fails')).toBe('for')
    expect(voteOf('fails', 'holds')).toBe('against')
    expect([voteOf('holds', 'holds'), voteOf('fails', 'fails')]).toEqual(['abstains', 'abstains'])
    expect(voteOf('unknown', 'holds')).toBe('unknown')
  })

  it('the sum of a ballot is a measure: those for less those against', () => {
    const voters = [
      { name: 'one', for: 'close > 2', against: 'close < 2' },
      { name: 'two', for: 'close > 4', against: 'close < 4' },
    ]
    const sums = measureColumn(ballotTree(voters)!, barSource(barsOf([1, 3, 5, 2])))
    expect([...sums]).toEqual([-2, 0, 2, -1])
    expect(ballotTree([{ name: 'broken', for: 'close >', against: 'close < 1' }])).toBeUndefined()
    expect(checkMeasure(print(ballotTree(USUAL_VOTERS)!)).issues).toEqual([])
    // As older builds kept it.
    expect(Voter.parse({ name: 'old', buy: 'close > 2', sell: 'close < 2' })).toEqual({
      name: 'old',
      for: 'close > 2',
      against: 'close < 2',
    })
  })

  it('every supplied scan is a sound rule with sound measures', () => {
    for (const { name, rule, measures } of SUPPLIED) {
      expect([name, checkRule(rule).issues]).toEqual([name, []])
      for (const text of measures) expect([name, text, checkMeasure(text).issues]).toEqual([name, text, []])
    }
  })
})
