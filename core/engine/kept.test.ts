import { describe, expect, it } from '@jest/globals'
import { aboveAverage, BEGINS } from '@/tests/aboveAverage'
import { OPEN, PlanBench } from '@/tests/planBench'
import { type Plan } from '../plans/document'
import { planIssues } from '../plans/check'
import { bound } from '../plans/inputs'
import { planProse } from '../plans/say'
import { clockOf } from './clock'
import { BRACKWATER } from '../market/venue'
import { sayTrace } from './say'

const MINUTE = 60_000
const HOUR = 60 * MINUTE

/** Buys 100 OSPRY on any event while the close is above 1. */
const planOf = (when: Partial<Plan['when']>, deed: object = {}): Plan =>
  aboveAverage({
    when: { look: 'Event', ...when },
    if: { rule: 'close > 1' },
    do: deed,
    never: { entriesPerDay: 9 },
  })

const benchOf = (plan: Plan): PlanBench => {
  const bench = new PlanBench(plan)
  BEGINS.forEach((close, k) => bench.bar(k, close))
  return bench
}
const event = (bench: PlanBench, at: number, key: string, symbol = 'OSPRY') =>
  bench.step({ is: 'dated', at, key, symbol }, true)
/** Time passes, with a quote of the moment. */
const pass = (bench: PlanBench, at: number) => {
  bench.tick((at - OPEN) / MINUTE, 10)
  bench.step({ is: 'time', at }, true)
  bench.answer()
}
const said = ({ traces }: PlanBench) => traces.map(sayTrace)

describe('an event that comes while the plan may not enter', () => {
  it('at night it is kept, and judged with the first moment of the next session', () => {
    const bench = benchOf(planOf({ from: { afterOpen: 5 } }))
    event(bench, OPEN + 10 * HOUR, 'night')
    expect(said(bench).at(-1)).toBe(
      'OSPRY: cannot tell. When: the venue is closed; it is kept, and judged as soon as the plan may enter',
    )
    pass(bench, OPEN + 24 * HOUR + 4 * MINUTE)
    expect(bench.held).toBe(0)
    pass(bench, OPEN + 24 * HOUR + 5 * MINUTE)
    expect(bench.held).toBe(100)
  })

  it('too late in the day it is kept for the next, and survives an end and a new beginning', () => {
    const bench = benchOf(planOf({ until: { clock: '10:30' } }))
    event(bench, OPEN + 2 * HOUR, 'late')
    pass(bench, OPEN + 3 * HOUR)
    bench.restart()
    pass(bench, OPEN + 24 * HOUR + MINUTE)
    expect(bench.held).toBe(100)
  })

  it('at the time of each trading day it takes all since the last look, oldest first', () => {
    const bench = benchOf(planOf({ look: { events: { afterOpen: 60 } } }))
    event(bench, OPEN + 40 * MINUTE, 'second')
    event(bench, OPEN + 30 * MINUTE, 'first')
    pass(bench, OPEN + 59 * MINUTE)
    expect(bench.sent).toEqual([])
    pass(bench, OPEN + 60 * MINUTE)
    const judged = bench.traces.flatMap(({ event: key, findings }) => (findings.length > 1 ? [key] : []))
    expect([judged, bench.held]).toEqual([['first', 'second'], 100])
    // What comes after the time waits for that of the next day.
    event(bench, OPEN + 61 * MINUTE, 'third')
    expect(said(bench).at(-1)).toContain('events wait for 60 min after the open; it is kept')
  })

  it('at the bell it waits for the first quote of the session: what was quoted last is of the day before', () => {
    const plan = planOf({ look: { events: { afterOpen: 0 } } })
    const bench = benchOf({ ...plan, never: { ...plan.never, quoteAge: 60 } })
    bench.tick(380, 10)
    event(bench, OPEN + 10 * HOUR, 'night')
    const bell = OPEN + 24 * HOUR
    bench.step({ is: 'time', at: bell }, true)
    bench.step({ is: 'time', at: bell + 3 * MINUTE }, true)
    expect([bench.sent, bench.traces.length]).toEqual([[], 1])
    pass(bench, bell + 4 * MINUTE)
    expect(bench.held).toBe(100)
  })

  it('of a security that is unknown, or not looked at, it stands in the record with that reason', () => {
    const bench = benchOf(planOf({}))
    event(bench, OPEN + 30 * MINUTE, 'strange', 'NOSUCH')
    expect(said(bench).at(-1)).toBe('NOSUCH: no order. Among: the broker lists no NOSUCH')
    const two = new PlanBench(planOf({}), true, ['OSPRY', 'GANET'])
    two.bar(0, 10)
    event(two, OPEN + 10 * MINUTE, 'other', 'GANET')
    expect(said(two).at(-1)).toBe('GANET: no order. Among: GANET is not on the list')
  })

  it('orders for the opening auction are sent while the venue is closed, and only then', () => {
    const bench = benchOf(planOf({}, { timeInForce: 'AtTheOpening' }))
    event(bench, OPEN + 30 * MINUTE, 'open')
    expect(said(bench).at(-1)).toContain(
      'the venue is open, and the order is for the opening auction; it is kept',
    )
    // The bell has rung at 16:00.
    bench.step({ is: 'time', at: OPEN + 6.6 * HOUR }, true)
    expect(bench.sent).toMatchObject([{ timeInForce: 'AtTheOpening', side: 'Buy' }])
    event(bench, OPEN + 10 * HOUR, 'night')
    expect(
      planIssues(aboveAverage({ do: { timeInForce: 'AtTheOpening' } })).map(({ text }) => text),
    ).toContain(
      'an order for the opening auction is of an event: have it look when an event comes, or let it be good for the day',
    )
  })
})

describe('a signal by the calendar', () => {
  it('comes once, at its time of the days that are named, while the condition holds', () => {
    const bench = benchOf(planOf({ look: { calendar: { clock: '10:00' } }, weekdays: [1] }))
    bench.step({ is: 'time', at: OPEN + 25 * MINUTE }, false)
    pass(bench, OPEN + 29 * MINUTE)
    expect(bench.sent).toEqual([])
    pass(bench, OPEN + 30 * MINUTE)
    pass(bench, OPEN + 31 * MINUTE)
    expect(bench.sent).toHaveLength(1)
    // Tuesday is not named.
    pass(bench, OPEN + 24 * HOUR + 31 * MINUTE)
    expect(bench.sent).toHaveLength(1)
  })

  it('a time that passed before it was armed counts as done; one that passed while it was killed is made up for', () => {
    const armedLate = benchOf(planOf({ look: { calendar: { clock: '10:00' } } }))
    armedLate.step({ is: 'time', at: OPEN + 40 * MINUTE }, false)
    pass(armedLate, OPEN + 41 * MINUTE)
    expect(armedLate.sent).toEqual([])
    armedLate.step({ is: 'go on', at: OPEN + 42 * MINUTE, since: OPEN + 5 * MINUTE }, true)
    armedLate.answer()
    expect(armedLate.sent).toHaveLength(1)
  })

  it('a day of the month without a session counts with the next one', () => {
    // In 2026 the 1st of February is a Sunday, the 1st of April a Wednesday (ISO 8601 calendar).
    const clock = clockOf(BRACKWATER)
    const why = (date: string) => clock.whenAt({ monthDays: [1] }, Date.parse(`${date}T12:00:00-04:00`))
    expect(['2026-01-30', '2026-02-02', '2026-02-03', '2026-04-01'].map(why)).toEqual([
      ...['month day', 'in time', 'month day', 'in time'],
    ])
  })

  it('is read aloud', () => {
    const [{ text }] = planProse(planOf({ look: { calendar: { clock: '10:00' } }, monthDays: [1, 15] }))
    expect(text).toBe('on day 1 or 15 of the month, or the next session, at 10:00')
  })
})

describe('orders for more', () => {
  it('come a minute apart at least, whatever the price does', () => {
    const deed = { adds: { most: 5, after: { loss: { ticks: 5 } } } }
    const bench = new PlanBench(
      aboveAverage({ do: deed, then: { exits: { stop: { percent: 50 } } }, never: { entriesPerDay: 9 } }),
    )
    BEGINS.forEach((close, k) => bench.bar(k, close))
    // Each fill is worse than the one before by more than the five ticks.
    for (let second = 1; second <= 12; second++) bench.tick(25 + second / 10, 10 - second / 10)
    expect(bench.sent).toHaveLength(2)
  })
})

it('rule text that is used several times is written once', () => {
  const plan = bound({
    ...aboveAverage({ if: { rule: 'gap > far and gap < 9' } }),
    inputs: [
      { name: 'span', value: '20' },
      { name: 'gap', value: 'close - sma(close, span)' },
      { name: 'far', value: 'atr(span)' },
    ],
  })
  expect(plan.sides[0].if.rule).toBe('(close - sma(close, 20)) > atr(20) and (close - sma(close, 20)) < 9')
})
