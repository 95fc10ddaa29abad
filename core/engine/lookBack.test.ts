import { cases } from '@/tests/cases'
import { expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barOf, PlanBench, type Prices } from '@/tests/planBench'
import { type Bars, emptyBars, SERIES } from '../market/bars'
import { BRACKWATER, sessionsBetween } from '../market/venue'
import { PLAN_FORM, Plan } from '../plans/document'
import { lookBack, summedUp } from './lookBack'

const planOf = (then: object, rule = 'close crosses above sma(close, 3)', open = 'Long') =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'back', name: 'Back', version: 1 },
    when: { from: { afterOpen: 10 }, until: { clock: '15:30' } },
    sides: [
      {
        ...{ among: { list: ['OSPRY'] }, if: { rule, every: '5 min' }, provided: [] },
        ...{ do: { open, price: 'market', size: { shares: 100 } }, then },
      },
    ],
    never: { quoteAge: 60 },
  })

const barsOf = (all: readonly Prices[]): Bars => {
  const bars = emptyBars(all.length, { count: 5, unit: 'min' }, 'America/Halifax')
  all.forEach((prices, k) => {
    const bar = barOf(k, prices)
    ;[bars.time[k], bars.end[k]] = [bar.time, bar.end]
    for (const name of SERIES) bars[name][k] = bar[name]
  })
  return bars
}
const back = (plan: Plan, all: readonly Prices[]) =>
  lookBack(plan, 0, { bars: barsOf(all) }, new PlanBench(plan).shared.listed, 'OSPRY')
const ways = (plan: Plan, all: readonly Prices[]) => back(plan, all).map(({ was, left }) => [was, left])

/** Falls, and crosses its average at 10. */
const BEGINS: Prices[] = [10.2, 10, 9.8, 9.6, 10]

it('target, stop, rule or time, whichever comes first; where a bar reaches both, the stop', () => {
  const plan = planOf({ exits: { stop: { percent: 2 }, target: { percent: 3 } }, outAt: { clock: '10:30' } })
  expect(ways(plan, [...BEGINS, 10.1, 10.25])).toEqual([['target', 10.3]])
  expect(ways(plan, [...BEGINS, 9.95, [9.9, 10.4, 9.7, 10]])).toEqual([['stop', 9.8]])
  // It opens below the stop.
  expect(ways(plan, [...BEGINS, [9.5, 9.6, 9.4, 9.5]])).toEqual([['stop', 9.5]])
  // 10:30 ends the twelfth bar.
  expect(ways(plan, [...BEGINS, ...Array<Prices>(7).fill([10, 10.02, 9.98, 10.01])])).toEqual([
    ['time', 10.01],
  ])
  expect(ways(plan, [...BEGINS, 10])).toEqual([['open', 10]])
  const rule = planOf({ exits: { stop: { percent: 2 } }, leaveIf: 'close < 9.95' })
  expect(ways(rule, [...BEGINS, [10, 10, 9.9, 9.94]])).toEqual([['rule', 9.94]])
})

it('what lies on the wrong side that day is not entered; a short side gains downward', () => {
  expect(back(planOf({ exits: { stop: { level: 'high' } } }), BEGINS)).toEqual([])
  const short = planOf(
    { exits: { stop: { percent: 2 }, target: { percent: 3 } } },
    'close crosses below sma(close, 3)',
    'Short',
  )
  const pasts = back(short, [9.8, 10, 10.2, 10.4, 10, [10, 10, 9.6, 9.7]])
  expect(pasts.map(({ was }) => was)).toEqual(['target'])
  const sum = summedUp(pasts, -1)
  expect(sum).toMatchObject({ began: 1, target: 1, stop: 0 })
  expect(sum.meanPercent).toBeCloseTo(3, 9)
})

it('over a walk it says what the plan itself does', () => {
  const plan = planOf({ exits: { stop: { percent: 1 }, target: { percent: 1.5 } } })
  const steps = fc.array(fc.integer({ min: -12, max: 12 }), { minLength: 20, maxLength: 70 })
  fc.assert(
    fc.property(steps, (moves) => {
      let price = 10
      const closes = moves.map((move) => {
        price = Math.round(Math.max(5, price * (1 + move / 1000)) * 100) / 100
        return price
      })
      // Bars of one price: the venue of the bench meets each bar's close alone.
      const all = closes.map((close): Prices => [close, close, close, close])
      const bench = new PlanBench(plan)
      all.forEach((prices, k) => bench.bar(k, prices))
      const { orders } = bench.seat.book
      const traded = Object.values(orders).filter(({ ordStatus }) => ordStatus === 'Filled')
      const entries = traded.filter(({ role }) => role === 'Entry').map(({ avgPx }) => avgPx)
      const exits = traded.filter(({ role }) => role !== 'Entry').map(({ role }) => role.toLowerCase())
      const pasts = lookBack(plan, 0, { bars: barsOf(all) }, bench.shared.listed, 'OSPRY').reverse()
      expect(pasts.map(({ entry }) => entry)).toEqual(entries)
      expect(pasts.map(({ was }) => was).filter((was) => was !== 'open')).toEqual(exits)
    }),
    { numRuns: cases(30) },
  )
})

it('distances are told in average ranges', () => {
  const pasts = [
    { at: 0, entry: 10, stop: 9.8, target: 10.4, was: 'stop', leftAt: 1, left: 9.8, range: 0.2 },
    { at: 2, entry: 10, stop: 9.6, target: 10.8, was: 'target', leftAt: 3, left: 10.8, range: 0.2 },
  ] as const
  const sum = summedUp(pasts, 1)
  expect(sum).toMatchObject({ stop: 1, target: 1 })
  expect([sum.stopRanges, sum.targetRanges].map((x) => x!.toFixed(6))).toEqual(['1.500000', '3.000000'])
})

it('bars that end with the session are entered at the open of the next, and left by their rule at an open', () => {
  const sessions = sessionsBetween(BRACKWATER, '2026-05-04', '2026-05-15')
  const over = (plan: Plan, all: readonly (readonly number[])[]) => {
    const bars = emptyBars(all.length, { count: 1, unit: 'day' }, BRACKWATER.zone)
    all.forEach(([open, high, low, close], k) => {
      // A bar of a day begins at midnight, nine and a half hours before the open.
      const time = sessions[k].open - 9.5 * 3_600_000
      const one = { open, high, low, close, volume: 1, time, end: sessions[k].close }
      for (const [name, value] of Object.entries(one)) bars[name as 'open'][k] = value
    })
    return lookBack(plan, 0, { bars }, new PlanBench(plan).shared.listed, 'OSPRY').map(
      ({ at, entry, was, left }) => [sessions.findIndex(({ close }) => close === at), entry, was, left],
    )
  }
  const flat = (price: number) => [price, price, price, price]
  const falls = [10.2, 10, 9.8, 9.6].map(flat)
  const daily = (then: object, weekdays?: number[]) => {
    const plan = planOf(then)
    const [side] = plan.sides
    return {
      ...plan,
      when: { ...plan.when, weekdays },
      sides: [{ ...side, if: { ...side.if, every: '1 day' } }],
    }
  }
  // It begins with the fifth session, at 10, and is entered at 11, where the sixth opens.
  const begins = [...falls, flat(10)]
  const exits = { stop: { percent: 10 }, target: { percent: 10 } }
  expect(over(daily({ exits }), [...begins, [11, 12.2, 10.5, 12]])).toEqual([[4, 11, 'target', 12.1]])
  expect(over(daily({ exits }), [...begins, [11, 11.5, 9.8, 11]])).toEqual([[4, 11, 'stop', 9.9]])
  // The rule holds at the close of the seventh, and is followed where the eighth opens.
  const rule = daily({ leaveIf: 'close < 10' })
  const more = [
    [11, 11, 11, 11],
    [10, 10, 9.5, 9.5],
    [9, 9, 9, 9],
  ]
  expect(over(rule, [...begins, ...more])).toEqual([[4, 11, 'rule', 9]])
  // The sixth session is a Monday.
  expect(over(daily({ exits }, [2, 3]), [...begins, [11, 12.2, 10.5, 12]])).toEqual([])
  expect(over(daily({ exits }, [1]), [...begins, [11, 12.2, 10.5, 12]])).toHaveLength(1)
})
