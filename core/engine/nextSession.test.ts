import { describe, expect, it } from '@jest/globals'
import { aboveAverage, BEGINS } from '@/tests/aboveAverage'
import { OPEN, PlanBench } from '@/tests/planBench'
import { BRACKWATER, sessionsBetween } from '../market/venue'
import { type Plan } from '../plans/document'
import { planProse } from '../plans/say'
import { withOtherSide } from '../plans/sides'
import { sayTrace } from './say'
import { freshState } from './state'
import { step } from './step'

const SESSIONS = sessionsBetween(BRACKWATER, '2026-05-04', '2026-05-15')
const MINUTE = 60_000

/** A session is over: its bar is told at the close, when the venue is closed. */
function day(bench: PlanBench, k: number, close: number, acts = true, symbol = 'OSPRY'): void {
  const { open: time, close: end } = SESSIONS[k]
  const bar = { time, end, open: close, high: close + 0.1, low: close - 0.1, close, volume: 1000 }
  bench.step({ is: 'bar', at: end, symbol, every: '1 day', bar }, acts)
  bench.answer()
}
/** A quote comes so many minutes after the open of a session. */
const tick = (bench: PlanBench, k: number, minute: number, last: number) =>
  bench.tick((SESSIONS[k].open - OPEN) / MINUTE + minute, last)

const daily = (said: Parameters<typeof aboveAverage>[0] = {}): Plan =>
  aboveAverage({ ...said, if: { every: '1 day', ...said.if } })
/** Five sessions, with the last of which the condition begins. */
function begun(plan: Plan): PlanBench {
  const bench = new PlanBench(plan)
  BEGINS.forEach((close, k) => day(bench, k, close))
  return bench
}
const told = (bench: PlanBench) => sayTrace(bench.traces.at(-1)!)

describe('bars that end with the session', () => {
  it('lead to an order in the next one, with the first quote at which it may enter', () => {
    const plan = daily({ when: { from: { afterOpen: 15 }, until: { clock: '15:00' } } })
    expect(planProse(plan)[0].text).toBe(
      'at the end of every 1 day bar, entering in the session after it, from 15 min after the open, until 15:00',
    )
    const bench = begun(plan)
    expect(bench.sent).toHaveLength(0)
    expect(told(bench)).toContain('it began with the close, and waits until it may enter')
    // A quote of the session that is over comes late, and one before its time.
    tick(bench, 4, 389, 10)
    tick(bench, 5, 1, 10)
    expect(bench.sent).toHaveLength(0)
    tick(bench, 5, 15, 10.2)
    expect(bench.sent.map(({ side, orderQty }) => `${side} ${orderQty}`)).toEqual(['Buy 100'])
    expect(bench.held).toBe(100)
    tick(bench, 5, 16, 10.2)
    day(bench, 5, 10.3)
    tick(bench, 6, 20, 10.3)
    expect(bench.sent).toHaveLength(1)
  })

  it('lead to none where the time for it is over, or the next bar has come', () => {
    const late = begun(daily({ when: { until: { clock: '15:00' } } }))
    tick(late, 5, 380, 10)
    expect(told(late)).toContain('too late: it enters until 15:00')
    tick(late, 6, 1, 10)
    const unquoted = begun(daily())
    day(unquoted, 5, 9)
    tick(unquoted, 6, 1, 10)
    expect([late.sent, unquoted.sent]).toEqual([[], []])
  })

  it('are put off through a restart; who goes on after another life knows it again, who is begun anew waits', () => {
    const kept = begun(daily())
    kept.restart()
    tick(kept, 5, 1, 10)
    expect(kept.sent).toHaveLength(1)
    const again = (since: number | undefined) => {
      const bench = begun(daily())
      bench.prepared = new PlanBench(bench.plan).prepared
      bench.state = freshState(bench.plan)
      BEGINS.forEach((close, k) => day(bench, k, close, false))
      const at = SESSIONS[5].open - MINUTE
      if (since !== undefined) bench.step({ is: 'go on', at, since }, true)
      tick(bench, 5, 1, 10)
      return bench.sent.map(({ clOrdId }) => clOrdId)
    }
    expect(again(SESSIONS[2].open)).toEqual(kept.sent.map(({ clOrdId }) => clOrdId))
    // It was armed after that close.
    expect(again(SESSIONS[4].close + MINUTE)).toEqual([])
    expect(again(undefined)).toEqual([])
  })

  it('count at once where it is begun between sessions and that is wished: with the next open', () => {
    const bench = new PlanBench(daily())
    BEGINS.forEach((close, k) => day(bench, k, close, false))
    const at = SESSIONS[5].open - 600 * MINUTE
    bench.step({ is: 'act now', at, since: at }, true)
    expect(bench.sent).toHaveLength(0)
    tick(bench, 5, 1, 10)
    expect(bench.sent).toHaveLength(1)
    // In the session, and before it may enter.
    const early = new PlanBench(daily({ when: { from: { afterOpen: 15 } } }))
    BEGINS.forEach((close, k) => day(early, k, close, false))
    early.step({ is: 'act now', at: SESSIONS[5].open + MINUTE, since: SESSIONS[5].open + MINUTE }, true)
    tick(early, 5, 2, 10)
    expect(early.sent).toHaveLength(0)
    tick(early, 5, 16, 10)
    expect(early.sent).toHaveLength(1)
  })

  it('leave by their rule when the venue is open again, also where it was begun anew meanwhile', () => {
    const bench = begun(daily({ then: { leaveIf: 'close < sma(close, 3)' } }))
    // The rule held on bars before the entry, and does not count.
    tick(bench, 5, 1, 10)
    expect(bench.held).toBe(100)
    bench.step({ is: 'time', at: SESSIONS[5].open + 5 * MINUTE }, true)
    expect(bench.sent).toHaveLength(1)
    day(bench, 5, 9)
    tick(bench, 5, 389, 9)
    expect(bench.sent).toHaveLength(1)
    const { reported } = bench
    bench.prepared = new PlanBench(bench.plan).prepared
    bench.state = freshState(bench.plan)
    for (const report of reported)
      step(bench.prepared, bench.state, bench.shared, { is: 'report', at: SESSIONS[5].close, report }, false)
    ;[...BEGINS, 9].forEach((close, k) => day(bench, k, close, false))
    bench.step({ is: 'time', at: SESSIONS[6].open - MINUTE }, true)
    expect(bench.sent).toHaveLength(1)
    tick(bench, 6, 1, 9)
    expect(bench.sent.at(-1)).toMatchObject({ side: 'Sell', orderQty: 100 })
    expect(bench.held).toBe(0)
  })

  it('take back what rests as soon as they fail, and turn in the next session', () => {
    const rests = begun(
      daily({
        do: {
          ...{ price: { limit: 'low - 1', ticks: 0, percent: 0 }, timeInForce: 'GoodTillCancel' },
          rests: { follows: false },
        },
      }),
    )
    tick(rests, 5, 1, 10)
    expect(rests.sent).toHaveLength(1)
    day(rests, 5, 9)
    expect(rests.wanted.at(-1)).toMatchObject({ is: 'cancel', symbol: 'OSPRY' })
  })
})

it('a pair is ordered once both are quoted in the next session', () => {
  const pairs = [['OSPRY', 'GANET']]
  const { sides, ...rest } = daily({
    do: { mate: { ratio: '1', alone: 'Close' } },
    then: { leaveIf: 'close < 1' },
  })
  const plan = { ...rest, sides: [{ ...sides[0], among: { pairs } }] } as Plan
  const bench = new PlanBench(plan, false, ['OSPRY', 'GANET'])
  BEGINS.forEach((close, k) => {
    day(bench, k, 20, true, 'GANET')
    day(bench, k, close)
  })
  const quoted = (at: number) => (bench.shared.quotes.GANET = { at, bid: 20, ask: 20, last: 20 })
  quoted(SESSIONS[4].close)
  tick(bench, 5, 1, 10)
  expect(bench.sent).toEqual([])
  quoted(SESSIONS[5].open + MINUTE)
  tick(bench, 5, 2, 10)
  expect(bench.sent.map(({ side, symbol }) => `${side} ${symbol}`).sort()).toEqual([
    'Buy OSPRY',
    'SellShort GANET',
  ])
})

it('both sides turn over in the session after the close at which the other began', () => {
  const plan = {
    ...withOtherSide(daily({ then: { exits: { stop: { percent: 30 } } } }))!,
    opposite: 'Turn' as const,
  }
  const bench = begun(plan)
  tick(bench, 5, 1, 10)
  expect(bench.held).toBe(100)
  day(bench, 5, 9)
  expect(bench.held).toBe(100)
  tick(bench, 6, 1, 9)
  bench.answer()
  expect(bench.sent.map(({ side, orderQty }) => `${side} ${orderQty}`)).toEqual([
    'Buy 100',
    'Sell 100',
    'SellShort 100',
  ])
  expect(bench.held).toBe(-100)
})

it('candidates come in the order of Among, whichever is quoted first; who is not quoted is waited for a minute', () => {
  const list = ['OSPRY', 'GANET', 'TERNW']
  const { sides, ...rest } = daily({ never: { entriesPerDay: 1 } })
  const began = () => {
    const bench = new PlanBench({ ...rest, sides: [{ ...sides[0], among: { list } }] }, false, list)
    for (const symbol of list) BEGINS.forEach((close, k) => day(bench, k, close, true, symbol))
    return bench
  }
  const quote = (bench: PlanBench, symbol: string, seconds: number) => {
    const at = SESSIONS[5].open + seconds * 1000
    const tick = { symbol, at, bid: 10, ask: 10, last: 10 }
    bench.shared.quotes[symbol] = tick
    bench.step({ is: 'quote', ...tick, since: undefined }, true)
  }
  const ordered = (bench: PlanBench) => bench.sent.map(({ symbol }) => symbol)
  const bench = began()
  quote(bench, 'TERNW', 1)
  quote(bench, 'GANET', 2)
  expect(ordered(bench)).toEqual([])
  quote(bench, 'OSPRY', 3)
  for (const symbol of ['TERNW', 'GANET']) quote(bench, symbol, 4)
  expect(ordered(bench)).toEqual(['OSPRY'])
  const unquoted = began()
  quote(unquoted, 'GANET', 59)
  quote(unquoted, 'GANET', 60)
  expect(ordered(unquoted)).toEqual(['GANET'])
})
