import { expect, it } from '@jest/globals'
import { emptyBook } from '@/core/book/book'
import { sharedOf } from '@/core/engine/shared'
import { BRACKWATER } from '@/core/market/venue'
import { USUAL_RULES } from '@/core/orders/accountRules'
import { type LiveBar } from '@/core/rules/exec/liveBar'
import { OSPRY } from '@/tests/venue'
import { type Hub } from './hub'
import { isLate } from './late'

it('a bar of minutes is late once another is over; one of a day once the next session has ended', () => {
  const listed = { OSPRY: { security: OSPRY, venue: BRACKWATER, rate: 1 } }
  const known = { shared: sharedOf(emptyBook(0, USUAL_RULES), listed, BRACKWATER) } as Hub['known']
  const late = (every: string, end: string, now: string) =>
    isLate(
      { is: 'bar', symbol: 'OSPRY', every, at: Date.parse(end), bar: {} as LiveBar },
      { at: Date.parse(now), known },
    )
  const friday = '2026-05-08T16:00:00-03:00'
  expect(
    ['2026-05-09T20:00:00-03:00', '2026-05-11T15:59:00-03:00', '2026-05-11T16:00:00-03:00'].map((now) =>
      late('1 day', friday, now),
    ),
  ).toEqual([false, false, true])
  expect([
    late('5 min', friday, '2026-05-08T16:05:00-03:00'),
    late('5 min', friday, '2026-05-11T09:31:00-03:00'),
  ]).toEqual([false, true])
})
