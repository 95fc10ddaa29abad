import { expect, it } from '@jest/globals'
import { aboveAverage, BEGINS } from '@/tests/aboveAverage'
import { barOf, OPEN, PlanBench } from '@/tests/planBench'
import { BRACKWATER, sessionsBetween } from '../market/venue'
import { freshState } from './state'
import { takeQuoted } from './shared'
import { step } from './step'

it('what the growing bar has come to when it is begun counts as beginning then, where that is wished', () => {
  const begun = (acts: boolean) => {
    const bench = new PlanBench(aboveAverage({ when: { look: 'Tick' }, if: { bars: 'SoFar' } }))
    BEGINS.slice(0, 4).forEach((close, k) => bench.bar(k, close, false))
    const at = barOf(3, 1).end + 60_000
    const since = { high: 10, low: 10, volume: 10, uptrades: 1, downtrades: 0 }
    takeQuoted(bench.shared, { symbol: 'OSPRY', at, bid: 10, ask: 10, last: 10, since })
    if (acts) bench.step({ is: 'act now', at, since: at }, true)
    bench.answer()
    bench.tick(22, 10)
    return bench.sent.length
  }
  expect([begun(false), begun(true)]).toEqual([0, 1])
})

it('a signal that lasts still stands for who goes on after a kill, and leads to one order whichever life sends it', () => {
  const plan = aboveAverage({ if: { lasts: { bars: 3 } }, then: { exits: { stop: { percent: 5 } } } })
  const gone = {
    ...plan,
    sides: [{ ...plan.sides[0], provided: [{ name: 'size', rule: 'order value <= 1005' }] }],
  }
  /** A life that has seen it begin, at a price at which a gate kept it from an order; what goes on knows bars and reports alone. */
  const life = (since: number | undefined, last: number) => {
    const first = new PlanBench(gone)
    BEGINS.forEach((close, k) => first.bar(k, k === 4 ? 10.1 : close))
    expect(first.sent).toHaveLength(0)
    first.prepared = new PlanBench(gone).prepared
    first.state = freshState(gone)
    ;[...BEGINS.slice(0, 4), 10.1].forEach((close, k) => {
      const bar = barOf(k, close)
      first.step({ is: 'bar', at: bar.end, symbol: 'OSPRY', every: '5 min', bar }, false)
    })
    const at = barOf(4, 1).end + 60_000
    if (since !== undefined) first.step({ is: 'go on', at, since }, true)
    first.bar(5, last)
    return first
  }
  expect(life(OPEN, 10.04).sent.map(({ orderQty }) => orderQty)).toEqual([100])
  // It began before it was armed, or nobody says that it goes on.
  expect(life(barOf(4, 1).end, 10.04).sent).toEqual([])
  expect(life(undefined, 10.04).sent).toEqual([])
  // What was ordered in the life before is known by its id.
  const twice = life(OPEN, 10.04)
  const { reported } = twice
  twice.prepared = new PlanBench(gone).prepared
  twice.state = freshState(gone)
  for (const report of reported)
    step(twice.prepared, twice.state, twice.shared, { is: 'report', at: barOf(5, 1).end, report }, false)
  ;[...BEGINS.slice(0, 4), 10.1, 10.04].forEach((close, k) => {
    const bar = barOf(k, close)
    twice.step({ is: 'bar', at: bar.end, symbol: 'OSPRY', every: '5 min', bar }, false)
  })
  twice.step({ is: 'go on', at: barOf(5, 1).end, since: OPEN }, true)
  twice.bar(6, 10.03)
  expect(twice.sent).toHaveLength(1)
})

it('who is found newly may have begun with the last close; who has been looked at is not looked at again', () => {
  const plan = aboveAverage({ if: { every: '1 day' } })
  const [side] = plan.sides
  const gated = { ...plan, sides: [{ ...side, provided: [{ name: 'size', rule: 'order value <= 1005' }] }] }
  const bench = new PlanBench(gated, false, ['OSPRY', 'GANET'])
  const sessions = sessionsBetween(BRACKWATER, '2026-05-04', '2026-05-15')
  const day = (symbol: string, k: number, close: number, acts: boolean) => {
    const { open: time, close: end } = sessions[k]
    const bar = { time, end, open: close, high: close, low: close, close, volume: 1 }
    bench.step({ is: 'bar', at: end, symbol, every: '1 day', bar }, acts)
  }
  const quote = (symbol: string, minute: number, last: number) => {
    const one = { symbol, at: sessions[5].open + minute * 60_000, bid: last, ask: last, last }
    bench.shared.quotes[symbol] = one
    bench.step({ is: 'quote', ...one, since: undefined }, true)
  }
  BEGINS.forEach((close, k) => day('OSPRY', k, close, true))
  const { open } = sessions[5]
  // Too much for its gate.
  quote('OSPRY', 1, 11)
  expect(bench.sent).toEqual([])
  bench.step({ is: 'universe', at: open + 120_000, side: 0, symbols: ['OSPRY', 'GANET'] }, true)
  BEGINS.forEach((close, k) => day('GANET', k, close, false))
  bench.step({ is: 'go on', at: open + 120_000, since: sessions[0].open, symbols: ['GANET'] }, true)
  quote('OSPRY', 3, 10)
  quote('GANET', 3, 10)
  expect(bench.sent.map(({ symbol }) => symbol)).toEqual(['GANET'])
})
