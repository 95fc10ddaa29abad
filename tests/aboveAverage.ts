import { PLAN_FORM, Plan } from '@/core/plans/document'
import { PlanBench } from './planBench'

/** Closes after which the condition of aboveAverage begins: the last of them is filled at 10.00. */
export const BEGINS: readonly number[] = [10, 9.9, 9.8, 9.7, 10]

/** A plan that buys 100 OSPRY at the market where the price comes above its average of three bars of five minutes; each clause may be said otherwise. */
export const aboveAverage = (said: {
  when?: Partial<Plan['when']>
  if?: object
  do?: object
  then?: object
  never?: object
  byHand?: Plan['byHand']
}): Plan =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'above', name: 'Above', version: 1 },
    when: { look: 'Bar', ...said.when },
    sides: [
      {
        among: { list: ['OSPRY'] },
        if: { rule: 'close > sma(close, 3)', every: '5 min', ...said.if },
        provided: [],
        do: { open: 'Long', price: 'market', size: { shares: 100 }, ...said.do },
        then: said.then ?? { exits: { stop: { percent: 5 } } },
      },
    ],
    ...(said.byHand ? { byHand: said.byHand } : {}),
    never: { entriesPerDay: 5, quoteAge: 900, ...said.never },
  })

/** A plan whose condition has just begun. */
export function begun(plan: Plan): PlanBench {
  const bench = new PlanBench(plan)
  BEGINS.forEach((close, k) => bench.bar(k, close))
  return bench
}
