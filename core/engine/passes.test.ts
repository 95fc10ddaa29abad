import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { aboveAverage } from '@/tests/aboveAverage'
import { OPEN, PlanBench, type Prices } from '@/tests/planBench'
import { emptyBars } from '../market/bars'
import { begunBy, grown, type Growing } from '../market/growing'
import { sayNote, sayTrace } from './say'
import { barSource, checkRule, ColumnMachine, compile, HOLDS, StepMachine } from '../rules'

const MINUTE = 60_000
const FIVE = { count: 5, unit: 'min' } as const
const ZONE = 'America/Halifax'
type Bar = readonly [open: number, high: number, low: number, close: number]

/** Whether each of some bars holds for a rule. */
function onBars(rule: string, bars: readonly Bar[]): boolean[] {
  const made = emptyBars(bars.length, FIVE, ZONE)
  bars.forEach(([open, high, low, close], i) => {
    made.time[i] = OPEN + i * 5 * MINUTE
    made.end[i] = made.time[i] + 5 * MINUTE
    ;[made.open[i], made.high[i], made.low[i], made.close[i], made.volume[i]] = [open, high, low, close, 1]
  })
  const graph = compile([checkRule(rule, FIVE).tree!], FIVE)
  const machine = new ColumnMachine(graph)
  machine.run(barSource(made))
  return Array.from(machine.verdicts[graph.results[0]]!, (verdict) => verdict === HOLDS)
}

describe('a price that passes a level', () => {
  it('does so within a bar, with an open beyond it, and from one bar to the next', () => {
    const flat: Bar = [9, 9, 9, 9]
    const up = (bar: Bar) => onBars('passesup(10)', [flat, bar])[1]
    const down = (bar: Bar) => onBars('passesdown(10)', [flat, bar])[1]
    // Through it, to it, a gap over it, and short of it.
    expect([up([9, 11, 9, 11]), up([9, 10, 9, 9.5]), up([11, 12, 11, 12]), up([9, 9.9, 9, 9.5])]).toEqual([
      ...[true, true, true, false],
    ])
    // Up and back down again passes both ways; what has never been above it does not pass down.
    expect([down([9, 11, 9, 9.5]), down([9, 9.5, 8, 8])]).toEqual([true, false])
    // First to the nearer extreme, 10.5, then to 9 and to 9.5: it has not come back.
    expect(
      onBars('passesup(10)', [
        [10.4, 10.4, 10.4, 10.4],
        [10.4, 10.5, 9, 9.5],
      ])[1],
    ).toBe(false)
    expect(onBars('passes(10)', [flat, [9, 11, 9, 11], [11, 11, 10.1, 10.5], [10.5, 10.5, 9, 9]])).toEqual([
      ...[false, true, false, true],
    ])
  })

  it('the ticks on the path of a bar give what the bar gives', () => {
    const price = fc.integer({ min: 1, max: 9 })
    fc.assert(
      fc.property(
        fc.array(fc.tuple(price, price, price, price), { minLength: 1, maxLength: 8 }),
        price,
        fc.constantFrom('passesup', 'passesdown', 'passes'),
        (drawn, level, word) => {
          const rule = `${word}(${level})`
          const bars = drawn.map(([a, b, c, d]): Bar => [a, Math.max(a, b, c, d), Math.min(a, b, c, d), d])
          const machine = StepMachine.of([checkRule(rule, FIVE).tree!], FIVE, { zone: ZONE })
          let growing: Growing | undefined
          const ticked = bars.map(([open, high, low, close], i) => {
            const near = high - open <= open - low ? [high, low] : [low, high]
            let holds = false
            ;[open, ...near, close].forEach((last, k) => {
              const at = OPEN + i * 5 * MINUTE + k
              growing =
                growing && k > 0
                  ? grown(growing, { at, last })
                  : begunBy({ at, last }, growing ?? ({ close: 0 } as Growing))
              machine.feed({ ...growing, time: OPEN + i * 5 * MINUTE, end: Infinity }, false)
              holds ||= machine.value(0) === HOLDS
            })
            const time = OPEN + i * 5 * MINUTE
            machine.feed({ time, end: time + 5 * MINUTE, open, high, low, close, volume: 1 }, true)
            return holds
          })
          expect(ticked).toEqual(onBars(rule, bars))
        },
      ),
    )
  })
})

describe('a plan at a line', () => {
  const planAt = (level: number, every = '1 day') =>
    aboveAverage({ when: { look: 'Tick' }, if: { rule: `passesup(${level})`, every, bars: 'SoFar' } })
  const day: Prices = [10, 10.2, 9.8, 10]
  /** Days that closed at 10, and a session that is under way when the plan is armed. */
  const benchAt = (level: number, before: readonly number[], every = '1 day') => {
    const bench = new PlanBench(planAt(level, every))
    bench.before(3, [day, day])
    // Told while it catches up: nothing follows of it.
    before.forEach((last, i) => {
      const at = OPEN + i * MINUTE
      bench.shared.quotes.OSPRY = { at, bid: last, ask: last, last }
    })
    const last = before.at(-1)!
    bench.shared.growing[every].bars.set('OSPRY', {
      ...{ time: OPEN, end: Infinity, open: before[0], high: Math.max(...before), low: Math.min(...before) },
      ...{ close: last, volume: 1 },
    })
    return bench
  }

  it('on daily bars a line between the close of yesterday and the price now is passed on the way back', () => {
    // Above the line since the open: "crosses above" would wait for tomorrow.
    const bench = benchAt(10.5, [11, 11.2])
    for (const [i, last] of [10.8, 10.3, 10.4].entries()) bench.tick(10 + i, last)
    expect(bench.sent).toEqual([])
    bench.tick(14, 10.6)
    expect(bench.sent).toHaveLength(1)
  })

  it('what passed before it was armed fires nothing; the first price after is compared with the last before', () => {
    const passed = benchAt(10.5, [10, 10.8])
    passed.tick(10, 10.9)
    expect(passed.sent).toEqual([])
    const between = benchAt(10.5, [10, 10.2])
    between.tick(10, 10.9)
    expect(between.sent).toHaveLength(1)
  })

  it('after a time without quotes the first price is compared with the last one known before', () => {
    const bench = benchAt(10.5, [10, 10.2], '5 min')
    bench.tick(1, 10.3)
    // Two bars were missed meanwhile.
    bench.tick(12, 10.9)
    bench.tick(12.5, 11)
    expect(bench.sent).toHaveLength(1)
  })

  it('only tells where that is asked for, once, also after it is begun anew', () => {
    const plan = { ...planAt(10.5, '5 min'), never: { entriesInAll: 1, quoteAge: 900 } }
    const bench = new PlanBench({ ...plan, sides: [{ ...plan.sides[0], do: { tell: true }, then: {} }] })
    bench.bar(0, 10.2)
    for (const [i, last] of [10.3, 10.6, 10.2, 10.7].entries()) bench.tick(6 + i / 4, last)
    expect(bench.notes.map(sayNote)).toEqual(['OSPRY: its condition began, the last price is 10.60'])
    bench.restart()
    for (const [i, last] of [10.2, 10.7].entries()) bench.tick(8 + i / 4, last)
    expect([bench.notes.length, bench.sent.length]).toEqual([1, 0])
    expect(sayTrace(bench.traces.at(-1)!)).toBe(
      'OSPRY: no order. Never: entries of the plan in all: 2, at most 1',
    )
  })

  it('a security that its search finds newly counts as a signal at once, those of before do not', () => {
    const plan = aboveAverage({ if: { rule: 'close > 1' } })
    const sides = [{ ...plan.sides[0], among: { list: ['OSPRY', 'GANET'] } }]
    const bench = new PlanBench({ ...plan, sides }, true, ['OSPRY', 'GANET'])
    for (let k = 0; k < 3; k++) for (const symbol of ['OSPRY', 'GANET']) bench.bar(k, 10, true, symbol)
    bench.step(
      { is: 'act now', at: OPEN + 16 * MINUTE, since: OPEN + 16 * MINUTE, side: 0, symbols: ['GANET'] },
      true,
    )
    expect(bench.sent.map(({ symbol }) => symbol)).toEqual(['GANET'])
  })
})
