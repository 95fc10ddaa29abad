import { describe, expect, it } from '@jest/globals'
import { aboveAverage, BEGINS, begun } from '@/tests/aboveAverage'
import { barOf, OPEN, type PlanBench } from '@/tests/planBench'
import { growBars } from './growing'
import { planIssues } from '../plans/check'
import { type Plan } from '../plans/document'
import { planProse } from '../plans/say'
import { prepare } from './prepare'
import { sayWant } from './sayWant'
import { freshState } from './state'
import { step } from './step'

const planOf = (then: object): Plan => aboveAverage({ then, never: { entriesPerDay: 1 } })
const held = (then: object): PlanBench => {
  const bench = begun(planOf(then))
  expect(bench.held).toBe(100)
  return bench
}
/** A minute, counted from the open, is over. */
const minute = (bench: PlanBench, k: number, close: number) => {
  const bar = barOf(k, close, 1)
  bench.step({ is: 'bar', at: bar.end, symbol: 'OSPRY', every: '1 min', bar }, true)
}

describe('what is held is watched', () => {
  it('on bars of its own, apart from those of the condition', () => {
    const then = { leaveIf: 'close < lowest(earlier(close, 1 bar), 3)', on: { every: '1 min' } }
    expect(planIssues(planOf(then)).filter(({ is }) => is === 'error')).toEqual([])
    const bench = held(then)
    ;[10, 10.1, 10.2].forEach((close, k) => minute(bench, 25 + k, close))
    expect(bench.sent).toHaveLength(1)
    // Below the three minutes before it, in the middle of a bar of five.
    minute(bench, 28, 9.99)
    expect(sayWant(bench.wanted.at(-1)!)).toBe('Sell 100 OSPRY Market, since its rule to leave holds')
    expect(planProse(planOf(then)).at(-2)?.text).toBe(
      'all where close < lowest(earlier(close, 1 bar), 3); watched at the end of every 1 min bar',
    )
  })

  it('at each tick, where it says so', () => {
    const then = { leaveIf: 'close < 9.85', on: { bars: 'SoFar' } }
    const bench = held(then)
    growBars(bench.shared.growing, '5 min')
    bench.tick(26, 9.9)
    expect(bench.held).toBe(100)
    bench.tick(27, 9.84)
    expect(bench.held).toBe(0)
  })

  it('a target follows its measure to either side; one that the price has come to is filled', () => {
    const bench = held({
      exits: { stop: { percent: 5 }, target: { percent: 5 } },
      moves: [{ of: 'Target', when: 'EveryBar', to: { level: 'sma(close, 2) + 0.3' } }],
    })
    expect(bench.exits).toEqual({ Stop: 9.5, Target: 10.5 })
    bench.bar(5, 10.1)
    // 10.05 and 0.30; then 10.00 and 0.30.
    expect(bench.exits).toEqual({ Stop: 9.5, Target: 10.35 })
    bench.bar(6, 9.9)
    expect(bench.exits).toEqual({ Stop: 9.5, Target: 10.3 })
    bench.bar(7, 10.4)
    expect(bench.held).toBe(0)
    const bare = { exits: { stop: { percent: 5 } }, moves: [{ of: 'Target', when: 'EveryBar', to: 'Fill' }] }
    expect(planIssues(planOf(bare)).map(({ text }) => text)).toContain(
      'a target is moved, and there is none for all of it',
    )
  })

  it('also where it is looked for no more, and by who begins anew and is told of it by the broker alone', () => {
    const then = { leaveIf: 'close < 9.85' }
    const bench = held(then)
    const { shared, reported } = bench
    // Today's search found nothing.
    const [prepared, state] = [prepare(bench.plan, shared.listed, [[]]), freshState(bench.plan)]
    const at = OPEN + 30 * 60_000
    const told = (event: Parameters<typeof step>[3], acts: boolean) =>
      step(prepared, state, shared, event, acts).intents.map(sayWant)
    told({ is: 'time', at }, false)
    for (const report of reported) told({ is: 'report', at, report }, false)
    const bar = (k: number, close: number) => {
      const one = barOf(k, close)
      return { is: 'bar' as const, at: one.end, symbol: 'OSPRY', every: '5 min', bar: one }
    }
    told(bar(4, 10), false)
    expect(told(bar(5, 9.9), true)).toEqual([])
    expect(told(bar(6, 9.8), true)).toEqual(['Sell 100 OSPRY Market, since its rule to leave holds'])
  })

  it('at a bar that was completed while nobody followed, once, as soon as it goes on', () => {
    const then = { leaveIf: 'close < 9.85', exits: { stop: { percent: 20 } } }
    const bench = held(then)
    // Killed, it catches up with a bar that says that it leaves, and was followed by none.
    bench.forget([...BEGINS, 9.8])
    expect(bench.sent).toHaveLength(1)
    bench.tick(32, 9.8)
    expect(bench.sent.slice(1).map(({ orderQty, side }) => [side, orderQty])).toEqual([['Sell', 100]])
    bench.tick(33, 9.8)
    expect(bench.sent).toHaveLength(2)
    // Bars from before the fill say nothing of what is held.
    const early = held({ leaveIf: 'close < 10.05' })
    early.forget(BEGINS)
    early.tick(26, 10)
    expect(early.sent).toHaveLength(1)
  })

  it('at a bar that ends with the session: what is to be left is left with the next open', () => {
    const bench = held({ leaveIf: 'close < 9.85', exits: { stop: { percent: 20 } } })
    bench.bar(76, 10)
    bench.bar(77, 9.8)
    const night = OPEN + 10 * 3_600_000
    bench.step({ is: 'time', at: night }, true)
    expect([bench.sent.length, bench.held]).toEqual([1, 100])
    bench.tick(24 * 60, 10.2)
    expect([bench.sent.length, bench.held]).toEqual([2, 0])
  })
})
