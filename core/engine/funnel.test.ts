import { expect, it } from '@jest/globals'
import { type Funnel, stepsOf, withTrace } from './funnel'
import { type ClauseFinding, type Trace } from './verdicts'

const trace = (symbol: string, fails: ClauseFinding['clause'] | 'ordered' | 'nothing'): Trace => {
  const when: ClauseFinding = {
    clause: 'When',
    why: 'in time',
    verdict: fails === 'When' ? 'fails' : 'holds',
  }
  const condition: ClauseFinding = {
    ...{ clause: 'If', why: 'condition', rule: 'close > 5' },
    verdict: fails === 'If' ? 'fails' : 'holds',
  }
  return {
    ...{ at: 0, planId: 'one', version: 1, side: 0, symbol, findings: [when, condition] },
    ...(fails === 'ordered' ? { clOrdId: 'p.x' } : {}),
  }
}

it('counts how many came through each clause at best, and says what stopped the others', () => {
  let funnel: Funnel = {}
  for (const one of [
    trace('OSPRY', 'When'),
    trace('OSPRY', 'If'),
    trace('GANET', 'If'),
    trace('GANET', 'ordered'),
    trace('GANET', 'When'),
    trace('KIPPR', 'When'),
  ])
    funnel = withTrace(funnel, one)
  const { looked, steps, ordered } = stepsOf(funnel)
  expect([looked, ordered]).toEqual([3, 1])
  expect(steps.map(({ clause, passed }) => `${clause} ${passed}`)).toEqual([
    ...['When 2', 'Among 2', 'If 1', 'Provided 1', 'Do 1', 'Then 1', 'Never 1'],
  ])
  expect(steps[2].stopped).toEqual([{ symbol: 'OSPRY', passed: 2, why: 'close > 5' }])
  // The same said again is the same.
  expect(withTrace(funnel, trace('OSPRY', 'If'))).toBe(funnel)
})
