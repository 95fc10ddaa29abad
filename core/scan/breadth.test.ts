import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsOf, expectColumn, prices } from '@/tests/bars'
import { sliceBars } from '../market/bars'
import { breadth, leanOf, sayBreadth } from './breadth'

const climb = (n: number, step = 1) => barsOf(Array.from({ length: n }, (_, i) => 100 + step * i))

describe('breadth', () => {
  it('counts by hand: one climbs, one falls, one stands', () => {
    const all = breadth([climb(6), climb(6, -1), climb(6, 0)], 3)
    expect([...all.counted]).toEqual([3, 3, 3, 3, 3, 3])
    // One that stands closes at its highest and at its lowest.
    expect([...all.highs]).toEqual([0, 0, 2, 2, 2, 2])
    expect([...all.lows]).toEqual([0, 0, 2, 2, 2, 2])
    expect([...all.advancing]).toEqual([0, 1, 1, 1, 1, 1])
    expect([...all.declining]).toEqual([0, 1, 1, 1, 1, 1])
  })

  it('share above an average counts only those that have enough bars', () => {
    const all = breadth([climb(60), climb(60, -1), sliceBars(climb(60), 50, 60)])
    expect([all.above50[48], all.above50[59], all.above200[59]]).toEqual([NaN, 50, NaN])
    expect([all.counted[49], all.counted[50]]).toEqual([2, 3])
  })

  it('agrees with the plain count over any closes', () => {
    fc.assert(
      fc.property(
        fc.array(prices(1, 30), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 2, max: 8 }),
        (list, n) => {
          const all = breadth(
            list.map((xs) => barsOf(xs)),
            n,
          )
          const count = (row: number, holds: (xs: number[]) => boolean) =>
            list.filter((xs) => row < xs.length && holds(xs)).length
          const rows = Math.max(...list.map((xs) => xs.length))
          const window = (xs: number[], row: number) => xs.slice(row - n + 1, row + 1)
          const each = (holds: (xs: number[], row: number) => boolean) =>
            Array.from({ length: rows }, (_, row) => count(row, (xs) => holds(xs, row)))
          expectColumn(
            all.highs,
            each((xs, row) => row >= n - 1 && xs[row] === Math.max(...window(xs, row))),
          )
          expectColumn(
            all.lows,
            each((xs, row) => row >= n - 1 && xs[row] === Math.min(...window(xs, row))),
          )
          expectColumn(
            all.advancing,
            each((xs, row) => row > 0 && xs[row] > xs[row - 1]),
          )
          expectColumn(
            all.declining,
            each((xs, row) => row > 0 && xs[row] < xs[row - 1]),
          )
        },
      ),
    )
  })

  it('says what it means for longs and shorts', () => {
    const up = breadth([climb(300), climb(300), climb(300, -1)])
    expect(leanOf(up)).toBe('up')
    expect(sayBreadth(up)).toBe(
      '2 closed at a new high of a year, 1 at a new low; over five bars 10 against 5. The market leans up: longs go with it, shorts against it.',
    )
    expect(leanOf(breadth([climb(300, -1)]))).toBe('down')
    expect(sayBreadth(breadth([climb(10)]))).toContain(
      'None closed at a new high of a year, none at a new low; over five bars 0 against 0. The market leans neither way',
    )
    expect(sayBreadth(breadth([]))).toBe('')
  })
})
