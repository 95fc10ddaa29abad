import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { type Mark, together } from './DayRail'

const mark = (minute: number, name: string): Mark => ({
  minute,
  shape: '○',
  sentence: `what ${name} did`,
  goes: `/desk?order=${name}`,
})

describe('marks on the day rail', () => {
  it('stand far enough apart to be hit, in order, and the last few of a group are told', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 570, max: 960 }), { maxLength: 60 }), (minutes) => {
        const marks = minutes.map((minute, i) => mark(minute, String(i)))
        const shown = together(marks)
        for (let k = 1; k < shown.length; k++)
          // 24 pixels of 730 for 390 minutes (WCAG 2.2, success criterion 2.5.8).
          expect((shown[k].minute - shown[k - 1].minute) * (730 / 390)).toBeGreaterThanOrEqual(24)
        const told = shown.flatMap(({ sentence }) => sentence.split('\n'))
        const counted = told.reduce(
          (sum, line) => sum + Number(/^(\d+) more before$/.exec(line)?.[1] ?? 1),
          0,
        )
        expect(counted).toBe(marks.length)
        expect(told.length).toBeLessThanOrEqual(7 * shown.length)
      }),
    )
  })

  it('go to the latest of what they stand for', () => {
    const [one, other] = together([mark(650, 'b'), mark(640, 'a'), mark(700, 'c')])
    expect([one.minute, one.goes, one.sentence]).toEqual([640, '/desk?order=b', 'what a did\nwhat b did'])
    expect([other.minute, other.goes]).toEqual([700, '/desk?order=c'])
  })
})
