import { describe, expect, it } from '@jest/globals'
import { barOf, OPEN, PlanBench } from '@/tests/planBench'
import { BRACKWATER } from '../market/venue'
import { planIssues } from '../plans/check'
import { PLAN_FORM, Plan } from '../plans/document'
import { asksOfCompanies, withFigures } from '../plans/drawn'
import { OSPRY } from '@/tests/venue'
import { daysToEarnings } from '../market/figures'
import { wrongGate, wrongPlanGate } from '../orders/gates'
import { quotedBar } from './quoted'
import { sayTrace } from './say'

const planOf = (rule: string, bars: 'Complete' | 'SoFar' = 'Complete'): Plan =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'quoted', name: 'Quoted', version: 1 },
    when: { look: bars === 'SoFar' ? 'Tick' : 'Bar' },
    sides: [
      {
        ...{ among: { list: ['OSPRY'] }, if: { rule, every: '5 min', bars }, provided: [] },
        ...{
          do: { open: 'Long', price: 'market', size: { shares: 100 } },
          then: { exits: { stop: { percent: 5 } } },
        },
      },
    ],
    never: { entriesPerDay: 1, quoteAge: 600 },
  })

describe('what rule text of a plan reads besides bars', () => {
  it('the quote on the last bar: complete, or growing', () => {
    const plan = planOf('100 * (ask / bid - 1) < 0.5 and close > 0')
    expect(planIssues(plan)).toEqual([])
    const bench = new PlanBench(plan)
    bench.wide = 0.1
    bench.bar(0, 10)
    bench.bar(1, 10)
    expect(bench.held).toBe(0)
    bench.wide = 0.02
    bench.bar(2, 10)
    expect(bench.held).toBe(100)
    const ticks = new PlanBench(planOf('bid > 10.2', 'SoFar'))
    ticks.bar(0, 10)
    ticks.tick(6, 10.1)
    expect(ticks.held).toBe(0)
    ticks.tick(7, 10.3)
    expect(ticks.held).toBe(100)
  })

  it('on bars before the last it is not known', () => {
    const quote = { at: OPEN + 12 * 60_000, bid: 9, ask: 11, last: 10 }
    const listed = { security: OSPRY, venue: BRACKWATER, rate: 1 }
    const every = { count: 5, unit: 'min' } as const
    const bids = [0, 1, 2].map((k) => quotedBar(barOf(k, 10), quote, listed, every).bid)
    // At 9:42 the second bar is the last that is over.
    expect(bids).toEqual([NaN, 9, 9])
    expect(quotedBar(barOf(1, 10), undefined, listed, every).ask).toBeNaN()
  })

  it('what a company has reported, the trader’s own before the broker’s', () => {
    const plan = planOf('days to earnings between 3 and 9')
    expect([planIssues(plan), asksOfCompanies(plan), asksOfCompanies(planOf('close > 1'))]).toEqual([
      [],
      true,
      false,
    ])
    const told = (reports: object[], own: Plan = plan) => {
      const bench = new PlanBench(own)
      Object.assign(bench.shared.listed.OSPRY, { reports })
      bench.restart()
      bench.bar(0, 10)
      bench.bar(1, 10)
      return bench
    }
    const report = (nextEarnings: string, known = OPEN - 1) => ({ known, nextEarnings })
    // The bench's day is 4 May 2026; the condition holds from the first bar on, and does not begin.
    const bench = told([report('2026-05-11')])
    expect(bench.state.watched['0 OSPRY'].verdict).toBe(1)
    expect(told([report('2026-05-20')]).state.watched['0 OSPRY'].verdict).toBe(0)
    // One that becomes known at 9:37 begins it.
    const later = told([report('2026-05-20'), report('2026-05-11', OPEN + 7 * 60_000)])
    expect(later.held).toBe(100)
    const own = withFigures(plan, { OSPRY: [report('2026-05-11')], GANET: [report('2026-05-11')] })
    expect(own.figures).toEqual({ OSPRY: [report('2026-05-11')] })
    expect(told([report('2026-05-20')], own).state.watched['0 OSPRY'].verdict).toBe(1)
    expect(withFigures(planOf('close > 1'), own.figures!).figures).toBeUndefined()
  })

  it('a gate asks when the company reports, and where the middle of the quote is', () => {
    const rule = 'days to report > 5 and quoted middle between 9.5 and 10.5'
    const [side] = planOf('close > sma(close, 3)').sides
    const gated = {
      ...planOf('close > 1'),
      sides: [{ ...side, provided: [{ name: 'far from a report', rule }] }],
    }
    expect([wrongPlanGate({ rule }), asksOfCompanies(gated)]).toEqual([undefined, true])
    expect(wrongGate({ rule })).toContain('is for the gates of plans')
    const last = (reports: object[]) => {
      const bench = new PlanBench(gated)
      Object.assign(bench.shared.listed.OSPRY, { reports })
      ;[10, 9.9, 9.8, 9.7, 10].forEach((close, k) => bench.bar(k, close))
      return sayTrace(bench.traces.at(-1)!)
    }
    // The bench's day is 4 May 2026.
    expect(last([{ known: 0, nextEarnings: '2026-05-11' }])).toBe('OSPRY: orders 100 at about 10.00')
    expect(last([{ known: 0, nextEarnings: '2026-05-08' }])).toContain(
      'far from a report: days to report 4 is not above 5',
    )
    expect(last([])).toContain('cannot tell')
    // What became known too late, and a date that has gone by, say nothing.
    expect(daysToEarnings([{ known: OPEN + 1, nextEarnings: '2026-05-11' }], OPEN, '2026-05-04')).toBeNaN()
    expect(daysToEarnings([{ known: 0, nextEarnings: '2026-05-01' }], OPEN, '2026-05-04')).toBeNaN()
  })
})
