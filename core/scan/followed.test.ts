import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { mean, median } from 'simple-statistics'
import { barsOf } from '@/tests/bars'
import { checkRule } from '../rules'
import { type Followed, followed } from './followed'
import { countHits } from './history'
import { digitsOf, lieOf, sayFollowed } from './sayFollowed'

const DAILY = { count: 1, unit: 'day' } as const
const rule = (text: string) => checkRule(text, DAILY).tree!

const about = (over: Partial<Followed>): Followed => ({
  ...{ ahead: 5, cases: 900, independent: 80, median: 0.2, mean: 0.1, rose: 55, low: 0.1, high: 0.3 },
  others: { total: 9000, median: 0, mean: 0, rose: 50 },
  bins: { from: -2, step: 1, hits: [], others: [] },
  ...over,
})
const other = (middle: number) => ({ others: { total: 9000, median: middle, mean: 0, rose: 50 } })

describe('what followed all other bars', () => {
  it('is the exact middle, by another library (simple-statistics), also of changes finer than any bin', () => {
    const walks = fc.array(fc.array(fc.integer({ min: 990, max: 1010 }), { minLength: 3, maxLength: 60 }), {
      minLength: 1,
      maxLength: 5,
    })
    fc.assert(
      fc.property(walks, fc.integer({ min: 1, max: 4 }), (all, ahead) => {
        const set = {
          symbols: all.map((_, i) => `S${i}`),
          bars: all.map((cents) => barsOf(cents.map((c) => c / 100))),
        }
        const counts = countHits(set, rule('close > 10.05'), [ahead])
        const rest = all.flatMap((cents) =>
          cents.flatMap((c, i) => {
            // On the first bar nothing is known of the one before: it cannot have begun there.
            const hit = i > 0 && c > 1005 && !(cents[i - 1] > 1005)
            return hit || i + ahead >= cents.length ? [] : [(100 * (cents[i + ahead] - c)) / c]
          }),
        )
        const told = followed(counts, 0).others
        expect(told.total).toBe(rest.length)
        if (rest.length === 0) return
        expect(told.median).toBeCloseTo(median(rest), 10)
        expect(told.mean).toBeCloseTo(mean(rest), 10)
      }),
    )
  })

  it('by hand: changes of -0.04, -0.03 and +0.02 percent have the middle -0.03, not that of a bin', () => {
    const set = { symbols: ['A'], bars: [barsOf([100, 99.96, 99.930012, 99.949998])] }
    const told = followed(countHits(set, rule('close > 1000'), [1]), 0)
    expect(told.others.median).toBeCloseTo(-0.03, 9)
  })
})

describe('the sentence', () => {
  it('is made of the figures as printed: digits are added until what differs is seen to differ', () => {
    expect(digitsOf(about({ low: 0.1, high: 0.3, ...other(0) }))).toBe(2)
    expect(digitsOf(about({ low: 0.001, high: 0.3, ...other(-0.001) }))).toBe(3)
    const said = sayFollowed(900, about({ low: 0.001, high: 0.3, ...other(-0.001) }))
    expect(said).toContain('that of all other bars at −0.001 %')
    expect(said).toContain(
      '+0.001 % and +0.300 %: the other bars lie below, so the difference is more than chance',
    )
  })

  it('says never more than chance of an interval that is printed without width', () => {
    for (const at of [0, 0.00001, -0.2]) {
      const said = sayFollowed(900, about({ low: at, high: at + 0.00002, ...other(-3) }))
      expect(said).toContain('an interval without width tells nothing about chance')
      expect(said).not.toContain('more than chance')
    }
  })

  it('never contradicts its own figures', () => {
    const figure = fc.integer({ min: -300, max: 300 }).map((n) => n / 1e5)
    fc.assert(
      fc.property(figure, figure, figure, (a, b, c) => {
        const f = about({ low: Math.min(a, b), high: Math.max(a, b), ...other(c) })
        const at = (text: string) => Number(text.replace('−', '-').replace(/[+%, ]/g, ''))
        const said = sayFollowed(900, f)
        const [, low, high] = /between (\S+) % and (\S+) %/.exec(said)!.map(at)
        const middle = at(/other bars at (\S+) %/.exec(said)![1])
        const lie = lieOf(f)
        if (lie === 'no width') expect(low).toBe(high)
        else {
          expect(low).toBeLessThan(high)
          expect(lie).toBe(middle < low ? 'below' : middle > high ? 'above' : 'within')
        }
      }),
    )
  })

  it('with few cases of their own it says so', () => {
    expect(sayFollowed(30, about({ independent: 3, low: NaN, high: NaN }))).toContain('that proves nothing')
    expect(sayFollowed(30, about({ independent: 12 }))).toContain('little to go by')
    expect(sayFollowed(1, about({ cases: 0 }))).toBe('It came true once, but what follows has not come yet.')
  })
})
