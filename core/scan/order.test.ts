import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { measuresIn, parse, print } from '../rules'
import { checkMeasure } from '../rules'
import { ballotTree, USUAL_VOTERS, voiceTree } from './ballot'
import { measureColumn } from './hits'
import { ranked } from './order'
import { type ScanRow } from './scan'
import { SUPPLIED } from './supplied'
import { barSource } from '../rules'
import { barsOf } from '@/tests/bars'

const row = (symbol: string, close: number, values: number[] = []): ScanRow => ({
  symbol,
  values,
  close,
  change: close / 10,
  hits: 1,
  asOf: 0,
  zone: 'UTC',
  bar: 0,
  first: 0,
  recent: [],
})

const value = fc.oneof(fc.constant(NaN), fc.integer({ min: -5, max: 5 }))

describe('the order of a result', () => {
  it('is by the value asked, unknown ones last either way, those alike as they stood', () => {
    fc.assert(
      fc.property(fc.array(value), fc.boolean(), (values, down) => {
        const rows = values.map((v, i) => row(`S${i}`, 1, [0, v]))
        const got = ranked(rows, { by: 'measure rsi(14)', down }, ['close', 'rsi(14)'])
        const known = rows.filter((r) => !Number.isNaN(r.values[1]))
        const stable = known
          .map((r, i) => ({ r, i }))
          .sort((a, b) => (down ? -1 : 1) * (a.r.values[1] - b.r.values[1]) || a.i - b.i)
          .map(({ r }) => r)
        expect(got).toEqual([...stable, ...rows.filter((r) => Number.isNaN(r.values[1]))])
      }),
    )
  })

  it.each([
    ['symbol', false, ['A', 'B', 'C']],
    ['close', true, ['B', 'C', 'A']],
    ['change', false, ['A', 'C', 'B']],
    ['measure not there', true, ['C', 'A', 'B']],
  ])('by %s, down %s', (by, down, wanted) => {
    const rows = [row('C', 5), row('A', 1), row('B', 9)]
    expect(ranked(rows, { by, down }, []).map((r) => r.symbol)).toEqual(wanted)
  })

  it('without one, rows stand as they came, and those given are not touched', () => {
    const rows = [row('C', 5), row('A', 1)]
    const got = ranked(rows, undefined, [])
    expect(got).toEqual(rows)
    expect(got).not.toBe(rows)
  })
})

describe('supplied scans', () => {
  it.each(SUPPLIED.map((scan) => [scan.name, scan] as const))(
    '%s is ranked by a column that it has',
    (_, scan) => {
      const columns = [...measuresIn(parse(scan.rule).tree!).map(print), ...scan.measures]
      expect(columns.map((text) => print(parse(text).tree!))).toContain(scan.order.by.replace('measure ', ''))
    },
  )
})

describe('a ballot over a list', () => {
  it('its sum is the sum of its voices, each asked alone; one that is unknown counts as neither', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 500, max: 2500 }), { minLength: 210, maxLength: 230 }),
        (cents) => {
          const source = barSource(barsOf(cents.map((c) => c / 100)))
          const sum = measureColumn(ballotTree(USUAL_VOTERS)!, source)
          const parts = USUAL_VOTERS.map((voter) => measureColumn(voiceTree(voter)!, source))
          for (const row of [0, 5, 30, 100, sum.length - 1]) {
            const said = parts.map((part) => part[row]).filter((vote) => !Number.isNaN(vote))
            for (const vote of said) expect([-1, 0, 1]).toContain(vote)
            expect(sum[row]).toBe(said.reduce((s, vote) => s + vote, 0))
          }
          // Before the long average is known, that voice alone is not.
          expect(parts[0][100]).toBeNaN()
        },
      ),
      { numRuns: cases(10) },
    )
  })

  it('each voice is a sound measure', () => {
    for (const voter of USUAL_VOTERS) expect(checkMeasure(print(voiceTree(voter)!)).issues).toEqual([])
  })
})
