import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { chance } from '../market/chance'
import { casesOf, followed, median } from './followed'
import { type Hit, type HitCounts } from './history'

const hit = (time: number, change: number, until: number): Hit => ({
  ...{ symbol: 'TARN', time, zone: 'UTC', first: 0, close: 10 },
  changes: [change],
  until: [until],
})

function countsOf(hits: readonly Hit[]): HitCounts {
  return {
    every: { count: 1, unit: 'day' },
    ahead: [5],
    hits: [...hits],
    others: [[Float64Array.from({ length: 40 }, (_, i) => Math.sin(i))]],
  }
}

/** The bounds in the plainest way: cases drawn, put together and sorted, a thousand times. */
function slowly(hits: readonly Hit[]): [number, number] {
  const cases = casesOf(hits, 0)
  const luck = chance(20_001)
  const medians = Array.from({ length: 1000 }, () =>
    median(cases.flatMap(() => cases[luck.below(cases.length)])),
  ).sort((a, b) => a - b)
  return [medians[25], medians[974]]
}

describe('the interval of what followed', () => {
  it('is that of cases drawn, put together and sorted each time', () => {
    const some = fc.array(
      fc.tuple(
        fc.integer({ min: 0, max: 60 }),
        fc.integer({ min: -40, max: 40 }),
        fc.integer({ min: 0, max: 4 }),
      ),
      { minLength: 12, maxLength: 60 },
    )
    fc.assert(
      fc.property(some, (rows) => {
        const hits = rows.map(([time, change, long]) => hit(time, change / 4, time + long))
        fc.pre(casesOf(hits, 0).length >= 5)
        const { low, high } = followed(countsOf(hits), 0)
        expect([low, high]).toEqual(slowly(hits))
      }),
      { numRuns: cases(10) },
    )
  })

  it('is unknown below five cases that stand on their own, however many hits they hold', () => {
    const hits = Array.from({ length: 200 }, (_, i) => hit(i % 4, i / 10, 3))
    const { low, high, cases, independent } = followed(countsOf(hits), 0)
    expect([low, high, cases, independent]).toEqual([NaN, NaN, 200, 1])
  })

  it('of tens of thousands of hits is there while one waits', () => {
    const hits = Array.from({ length: 30_000 }, (_, i) =>
      hit(Math.floor(i / 50), Math.sin(i) * 5 + 1, Math.floor(i / 50)),
    )
    const { low, high, median: middle, independent } = followed(countsOf(hits), 0)
    expect(independent).toBe(600)
    expect(low).toBeLessThan(middle)
    expect(high).toBeGreaterThan(middle)
  })
})
