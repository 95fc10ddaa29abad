import { describe, expect, it } from '@jest/globals'
import { aboveAverage, begun } from '@/tests/aboveAverage'
import { type PlanBench } from '@/tests/planBench'
import { type Plan } from '../plans/document'
import { planIssues } from '../plans/check'
import { type Adds } from '../plans/entry'
import { planProse } from '../plans/say'
import { sayTrace } from './say'

/** Orders more of what it holds; figures below are reckoned by hand. */
const planOf = (adds: Partial<Adds>, then?: object): Plan =>
  aboveAverage({
    ...{ when: { look: 'Tick' }, if: { rule: 'close crosses above sma(close, 3)' } },
    ...{ do: { adds: { most: 2, ...adds } }, then },
  })
const stopsOf = ({ state }: PlanBench) =>
  Object.values(state.orders).flatMap(({ exits = {} }) =>
    Object.values(exits).flatMap(({ works, stopPx }) => (works ? [stopPx] : [])),
  )

describe('ordering more of what is held', () => {
  it('each time that it has gained so much since the last fill, so many times at most', () => {
    const bench = begun(planOf({ after: { gain: { percent: 2 } } }))
    expect(bench.held).toBe(100)
    bench.tick(26, 10.15)
    expect(bench.held).toBe(100)
    // 2 % of 10.00, then of 10.20: 10.404.
    bench.tick(27, 10.2)
    bench.tick(28, 10.4)
    expect(bench.held).toBe(200)
    bench.tick(29, 10.41)
    expect(bench.held).toBe(300)
    bench.tick(30, 12)
    expect([bench.held, bench.sent.length]).toEqual([300, 3])
    expect(new Set(bench.sent.map(({ clOrdId }) => clOrdId)).size).toBe(3)
    expect(stopsOf(bench)).toEqual([9.5, 9.69, 9.89])
    expect(sayTrace(bench.traces.at(-1)!)).toBe('OSPRY: orders 100 at about 10.41')
  })

  it('with all stops at the newest, each is brought after the last', () => {
    const bench = begun(planOf({ after: { gain: { risk: 1 } }, stops: 'Newest' }))
    // The first stop lies 0.50 away.
    bench.tick(26, 10.5)
    bench.tick(27, 10.5)
    expect([bench.held, stopsOf(bench)]).toEqual([200, [9.98, 9.98]])
    bench.tick(28, 9.97)
    expect(bench.held).toBe(0)
  })

  it('on a fall, where it says so; and nothing once the guardrail of the day is reached', () => {
    const plan = planOf({ after: { loss: { ticks: 20 } } })
    const bench = begun({ ...plan, never: { ...plan.never, entriesPerDay: 2 } })
    bench.tick(26, 9.81)
    expect(bench.held).toBe(100)
    bench.tick(27, 9.8)
    expect(bench.held).toBe(200)
    bench.tick(28, 9.6)
    bench.tick(29, 9.59)
    expect(bench.held).toBe(200)
    expect(sayTrace(bench.traces.at(-1)!)).toContain('entries of the plan today: 3, at most 2')
  })

  it('on its next signal; while the condition goes on it does not', () => {
    const bench = begun(planOf({ after: 'Signal', most: 1 }))
    ;[10.1, 9.8, 9.7, 10.2].forEach((close, k) => bench.bar(5 + k, close))
    expect(bench.held).toBe(200)
    ;[9.8, 9.7, 10.2].forEach((close, k) => bench.bar(9 + k, close))
    expect(bench.held).toBe(200)
    expect(sayTrace(bench.traces.at(-1)!)).toContain('it has ordered more of it once already')
  })

  it('begun anew from the broker’s reports, it knows what it has ordered and doubles nothing', () => {
    const bench = begun(planOf({ after: { gain: { percent: 2 } } }))
    bench.tick(27, 10.2)
    bench.forget([10, 9.9, 9.8, 9.7, 10])
    expect(bench.state.held.OSPRY).toMatchObject({ quantity: 200, lastPx: 10.2 })
    bench.tick(28, 10.25)
    bench.tick(29, 10.41)
    expect([bench.held, bench.sent.length]).toEqual([300, 3])
  })

  it('is read aloud, and what cannot be is told', () => {
    const adds = planOf({ after: { gain: { percent: 2 } }, stops: 'Newest' })
    expect(planProse(adds).find(({ clause }) => clause === 'Do')?.text).toBe(
      'buy 100 shares, where limits leave less at least 20 % of that, at the market, good for the day, up to 2 times more each time it has gained 2 % since the last fill, all at the newest stop',
    )
    const bare = planOf({ after: { gain: { risk: 1 } }, stops: 'Newest' }, { outAt: { clock: '15:50' } })
    expect(planIssues(bare).filter(({ is }) => is === 'error')).toMatchObject([
      { clause: 'Do', text: expect.stringContaining('so many times the risk') },
      { clause: 'Do', text: expect.stringContaining('all stops go to the newest') },
    ])
  })
})
