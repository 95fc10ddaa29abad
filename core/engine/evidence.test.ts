import { readFileSync } from 'node:fs'
import { describe, expect, it } from '@jest/globals'
import { barOf, PlanBench, type Prices } from '@/tests/planBench'
import { type Bars, emptyBars, SERIES } from '../market/bars'
import { PLAN_FORM, Plan } from '../plans/document'
import { bound } from '../plans/inputs'
import { evidenceOf } from './evidence'
import { BRACKWATER } from '../market/venue'
import { sayClause, sayTried } from './say'
import { timeExitOf } from './timeExit'

const barsOf = (all: readonly Prices[], minutes = 5): Bars => {
  const bars = emptyBars(all.length, { count: minutes, unit: 'min' }, 'America/Halifax')
  all.forEach((prices, k) => {
    const bar = barOf(k, prices, minutes)
    ;[bars.time[k], bars.end[k]] = [bar.time, bar.end]
    for (const name of SERIES) bars[name][k] = bar[name]
  })
  return bars
}
const planOf = (rule: string, bars: 'Complete' | 'SoFar' = 'Complete') =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'seen', name: 'Seen', version: 1, when: {} },
    sides: [
      {
        ...{ among: { list: ['OSPRY'] }, if: { rule, every: '5 min', bars }, provided: [] },
        ...{ do: { open: 'Long', price: 'market', size: { shares: 10 } }, then: {} },
      },
    ],
    never: { quoteAge: 60 },
  })
const CLOSES: Prices[] = [10, 10.2, 10.4, 10.6]
const ifOf = (plan: Plan, k: number, more: Partial<Parameters<typeof evidenceOf>[3]> = {}) => {
  const { shared } = new PlanBench(plan, true, ['OSPRY', 'GANET'])
  const at = barOf(k, 1).end
  const quote = { at, bid: 10, ask: 10, last: 10 }
  const { findings } = evidenceOf(plan, 0, 'OSPRY', {
    ...{ shared, reports: [], bars: barsOf(CLOSES), quote, at, ...more },
  })
  return sayClause(findings.find(({ clause }) => clause === 'If')!)
}

it('bars that end after the moment are not seen; values of the moment are told', () => {
  const plan = planOf('close > 10.3')
  expect(ifOf(plan, 1)).toBe('close 10.20 is not above 10.3')
  expect(ifOf(plan, 2)).toBe('close 10.40 is above 10.3')
})

it('the bar that grew at the moment counts where the plan says so, and no other', () => {
  const growing = { ...barOf(2, 10.9), end: Infinity }
  expect(ifOf(planOf('close > 10.3', 'SoFar'), 1, { growing })).toBe('close 10.90 is above 10.3')
  expect(ifOf(planOf('close > 10.3'), 1, { growing })).toBe('close 10.20 is not above 10.3')
  // One that began later than the moment is of another time.
  const later = { ...barOf(3, 10.9), end: Infinity }
  expect(ifOf(planOf('close > 10.3', 'SoFar'), 1, { growing: later })).toBe('close 10.20 is not above 10.3')
})

it('values of another security are told with its own, at the same moment', () => {
  const plan = planOf('close > 10 and beside("GANET", close) > 20')
  const others = new Map([['GANET', barsOf([19, 19, 21, 22])]])
  expect(ifOf(plan, 1, { others })).toBe('beside("GANET", close) 19.00 is not above 20')
  expect(ifOf(plan, 2, { others })).toBe('close 10.40 is above 10; beside("GANET", close) 21.00 is above 20')
})

it('of a pair both are read', () => {
  const plan = bound(Plan.parse(JSON.parse(readFileSync('plans/two-of-a-kind.json', 'utf8'))))
  const [side] = plan.sides
  const rule = 'close - mate(close) < -9'
  const pair = {
    ...plan,
    sides: [{ ...side, among: { pairs: [['OSPRY', 'GANET']] }, if: { ...side.if, rule, every: '5 min' } }],
  } as Plan
  const others = new Map([['GANET', barsOf([19, 19, 21, 22])]])
  expect(ifOf(pair, 1, { others })).toBe('close - mate(close) −8.80 is not below -9')
  expect(ifOf(pair, 2, { others })).toBe('close - mate(close) −10.60 is below -9')
})

describe('when it would be left by the time', () => {
  const at = (text: string) => Date.parse(`${text}-03:00`)
  // 15 May 2026 is a Friday; what is entered at night is of the next session.
  it.each([
    [{ outAt: { clock: '15:50' } }, '2026-05-15T10:00:00', '2026-05-15T15:50:00'],
    [{ outAt: { beforeClose: 10 }, sessions: 2 }, '2026-05-14T10:00:00', '2026-05-15T15:50:00'],
    [{ outAt: { afterOpen: 30 }, sessions: 3 }, '2026-05-13T20:00:00', '2026-05-18T10:00:00'],
  ] as const)('%j, entered at %s', (then, entered, out) => {
    expect(timeExitOf(then, BRACKWATER, at(entered))).toBe(at(out))
  })

  it('is not known where no time is given', () => {
    expect(timeExitOf({}, BRACKWATER, at('2026-05-15T10:00:00'))).toBeUndefined()
  })
})

it('says whether the condition begins at the moment that is looked at', () => {
  const told = (rule: string, k: number, more: Partial<Parameters<typeof evidenceOf>[3]> = {}) => {
    const plan = planOf(rule, more.growing ? 'SoFar' : 'Complete')
    const at = more.at ?? barOf(k, 1).end
    const { shared } = new PlanBench(plan)
    const quote = { at, bid: 10, ask: 10, last: 10 }
    const { findings, begins } = evidenceOf(plan, 0, 'OSPRY', {
      ...{ shared, reports: [], bars: barsOf(CLOSES), quote, at, ...more },
    })
    return sayTried('OSPRY', findings, begins)
  }
  const not = 'OSPRY: everything holds, and the condition did not begin now'
  expect(told('close > 10.3', 2)).toBe('OSPRY: its condition begins there, and it orders 10 at about 10.00')
  expect(told('close > 10.3', 2, { at: barOf(2, 1).end + 60_000 })).toBe(not)
  expect(told('close > 10.3', 3)).toBe(not)
  // Of the first bar it is not known whether it held before.
  expect(told('close > 9', 0)).toBe(not)
  expect(told('close > 10.3', 1, { growing: { ...barOf(2, 10.9), end: Infinity } })).toBe(
    'OSPRY: everything holds, in the bar in which its condition began',
  )
  expect(told('close > 11', 2)).toContain('OSPRY: no order. If: not met, ')
})
