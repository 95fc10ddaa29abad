import { expect, it } from '@jest/globals'
import { PlanBench } from '@/tests/planBench'
import { PLAN_FORM, Plan } from '../plans/document'
import { heldByPlan } from './heldByPlan'

it('what a plan holds is known by the broker’s reports alone, apart from what a hand has bought', () => {
  const plan = Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'own', name: 'Own', version: 1, when: {} },
    sides: [
      {
        among: { list: ['OSPRY'] },
        if: { rule: 'close crosses above sma(close, 3)', every: '5 min' },
        provided: [],
        do: { open: 'Long', price: 'market', size: { shares: 100 } },
        then: { exits: { stop: { percent: 3 } } },
      },
    ],
    never: { entriesPerDay: 5 },
  })
  const bench = new PlanBench(plan)
  ;[10, 9.9, 9.8, 9.7].forEach((close, k) => bench.bar(k, close))
  bench.byHand({ side: 'Buy', orderQty: 50 })
  const held = (id: string) => heldByPlan(id, bench.reported, bench.shared)
  expect(held('own')).toEqual([])
  bench.bar(4, 10)
  expect([held('own'), held('another')]).toEqual([['OSPRY'], []])
  // Stopped: an exit that is attached to its entry is its own too.
  bench.bar(5, 9)
  expect(held('own')).toEqual([])
  expect(bench.seat.book.holdings.OSPRY.quantity).toBe(50)
})
