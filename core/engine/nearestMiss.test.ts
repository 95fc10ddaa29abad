import { expect, it } from '@jest/globals'
import { aboveAverage, BEGINS } from '@/tests/aboveAverage'
import { PlanBench } from '@/tests/planBench'
import { missText } from './nearestMiss'

it('of all looks that came to nothing, the one with the figure that was nearest to its limit is told', () => {
  const plan = aboveAverage({ if: { lasts: { bars: 50 } } })
  plan.sides[0].provided = [{ name: 'widest spread', rule: 'quoted spread <= 0.4%' }]
  const bench = new PlanBench(plan)
  bench.wide = 0.1
  BEGINS.forEach((close, k) => bench.bar(k, close))
  // Spreads of 1 %, 0.5 % and 0.8 % of the middle of 10; the second ends at 10:00.
  bench.wide = 0.05
  bench.bar(5, 10)
  bench.wide = 0.08
  bench.bar(6, 10)
  expect(bench.sent).toEqual([])
  const { looks = 0, miss } = bench.state
  expect(missText(looks, 0, miss, 'America/Halifax')).toBe(
    'Looked 7 times and sent nothing. Nearest miss: OSPRY at 10:00, widest spread: quoted spread 0.50 % is not at or below 0.4%.',
  )
  expect(missText(looks, 2, undefined, 'America/Halifax')).toBe(
    'Looked 7 times and sent 2 entries. Its condition was met at none of them, or only with an order.',
  )
  // What came nearest is kept over an end and a new beginning.
  bench.restart()
  expect(bench.state.miss).toEqual(miss)
})

it('where the condition held all along, that is told: it acts on what begins', () => {
  const bench = new PlanBench(aboveAverage({ if: { rule: 'close > 1' } }))
  BEGINS.forEach((close, k) => bench.bar(k, close))
  const { looks = 0, miss } = bench.state
  expect(bench.sent).toEqual([])
  expect(missText(looks, 0, miss, 'America/Halifax')).toMatch(
    /sent nothing\. Nearest miss: OSPRY at \d\d:\d\d, everything held, and the condition had begun before; it acts on what begins\.$/,
  )
})
