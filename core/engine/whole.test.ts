import { readFileSync } from 'node:fs'
import { describe, expect, it } from '@jest/globals'
import { PlanBench } from '@/tests/planBench'
import { Plan } from '../plans/document'
import { withInput, bound } from '../plans/inputs'
import { sayNote, sayTrace } from './say'
import { sayWant } from './sayWant'

/** Four contracts of one security, opened, held and closed together; every figure can be reckoned by hand. */
const PLAN = Plan.parse(JSON.parse(readFileSync('plans/between-the-shoals.json', 'utf8')))
const LOW_PUT = 'BUOYS 260619P00067500'
const PUT = 'BUOYS 260619P00072500'
const CALL = 'BUOYS 260619C00092500'
const HIGH_CALL = 'BUOYS 260619C00097500'

type Quotes = Record<string, readonly [number, number]>
/** 2.65 - 1.55 + 3.50 - 2.35 = 2.25 in the middle; 2.00 for who takes what is shown. */
const WIDE: Quotes = { [LOW_PUT]: [1.5, 1.6], [PUT]: [2.6, 2.7], [CALL]: [3.4, 3.6], [HIGH_CALL]: [2.3, 2.4] }
/** The same middle, and so narrow that the limit is met. */
const NARROW: Quotes = {
  [LOW_PUT]: [1.54, 1.56],
  [PUT]: [2.65, 2.66],
  [CALL]: [3.5, 3.51],
  [HIGH_CALL]: [2.34, 2.36],
}
const quoted = (bench: PlanBench, quotes: Quotes) => {
  for (const [symbol, [bid, ask]] of Object.entries(quotes)) bench.quote(symbol, bid, ask)
  bench.answer()
}
/** In a quiet market; the bar in which the condition begins has just ended. */
function quiet(plan = PLAN, quotes = WIDE): PlanBench {
  const bench = new PlanBench(bound(plan), true, ['BUOYS'])
  bench.before(
    3,
    Array.from({ length: 14 }, (_, k) => (k % 2 === 0 ? 82 : 82.5)),
    'BUOYS',
  )
  bench.at(2)
  quoted(bench, quotes)
  bench.bar(2, 82, true, 'BUOYS')
  return bench
}
const wants = ({ wanted }: PlanBench) => wanted.map(sayWant)
const OPENED =
  '5 × BUOYS Buy 1 19 Jun 26 67.50 put, SellShort 1 19 Jun 26 72.50 put, SellShort 1 19 Jun 26 92.50 call, Buy 1 19 Jun 26 97.50 call Limit receives 2.07'
const CLOSED =
  '5 × BUOYS Sell 1 19 Jun 26 67.50 put, Buy 1 19 Jun 26 72.50 put, Buy 1 19 Jun 26 92.50 call, Sell 1 19 Jun 26 97.50 call Market, since '

describe('between the shoals', () => {
  it('orders four legs at eighteen cents below the middle, as many units as may be kept for them', () => {
    // A unit keeps its width of 5.00 less 2.07: 293 of the 1,500 that 3 % of 50,000 are.
    const bench = quiet()
    expect(wants(bench)).toEqual([OPENED])
    expect(bench.state.held).toEqual({})
    quoted(bench, NARROW)
    expect(bench.state.held.BUOYS).toMatchObject({ quantity: 5, unitE4: 2_930_000 })
    expect([LOW_PUT, PUT, CALL, HIGH_CALL].map(bench.heldOf)).toEqual([5, -5, -5, 5])
  })

  it('waits while they bring too little, and orders once they bring enough', () => {
    const bench = quiet(withInput(PLAN, 'enough', '2.3'))
    expect(bench.sent).toEqual([])
    expect(sayTrace(bench.traces.at(-1)!)).toContain(
      'no order. Provided: least credit: net credit 2.07 is not at or above 2.3',
    )
    bench.at(3)
    quoted(bench, { ...WIDE, [CALL]: [3.75, 3.85] })
    bench.bar(3, 82.5, true, 'BUOYS')
    expect(wants(bench)[0]).toContain('Limit receives 2.37')
  })

  it('a contract that has ended, or has no quote, is named', () => {
    const silent = quiet(PLAN, { [PUT]: [2.6, 2.7], [CALL]: [3.4, 3.6], [HIGH_CALL]: [2.3, 2.4] })
    expect(sayTrace(silent.traces.at(-1)!)).toContain('no quote has come for BUOYS 19 Jun 26 67.50 put')
    expect(silent.sent).toEqual([])
  })

  it('closes all of it once it has gained 45 % of what it brought', () => {
    const bench = quiet(PLAN, NARROW)
    expect(bench.state.held.BUOYS.quantity).toBe(5)
    // It brought 2.65 + 3.50 - 1.56 - 2.36 = 2.23. In the middle it costs 1.26 and then 1.21: gained 43.5 %, and 45.7 %.
    quoted(bench, { [CALL]: [2.5, 2.51] })
    expect(wants(bench)).toHaveLength(1)
    quoted(bench, { [CALL]: [2.45, 2.46] })
    expect(wants(bench).slice(1)).toEqual([CLOSED + 'its gain or its loss is reached'])
    expect([LOW_PUT, PUT, CALL, HIGH_CALL].map(bench.heldOf)).toEqual([0, 0, 0, 0])
    // Bought back for 2.66 + 2.46, sold for 1.54 + 2.34: 1.24. 99 a unit, less 65 cents a contract both ways.
    expect(bench.state.takenE4.BUOYS).toBe((5 * 99 - 40 * 0.65) * 10_000)
    expect(bench.state.held.BUOYS.quantity).toBe(0)
  })

  it('closes all of it once it has lost 90 %', () => {
    const bench = quiet(PLAN, NARROW)
    quoted(bench, { [CALL]: [5.46, 5.48] })
    expect(wants(bench)).toHaveLength(1)
    quoted(bench, { [CALL]: [5.49, 5.51] })
    expect(wants(bench).slice(1)).toEqual([CLOSED + 'its gain or its loss is reached'])
  })

  it('closes with twelve days left, an hour before the close', () => {
    const bench = quiet(PLAN, NARROW)
    const at = (moment: string) => bench.step({ is: 'time', at: Date.parse(moment) }, true)
    at('2026-06-05T15:30:00-03:00')
    at('2026-06-08T14:59:00-03:00')
    expect(wants(bench)).toHaveLength(1)
    at('2026-06-08T15:00:00-03:00')
    expect(wants(bench).slice(1)).toEqual([CLOSED + 'its time has come'])
  })

  it('where one leg is closed by hand it goes on with the rest, and says so', () => {
    const bench = quiet({ ...PLAN, byHand: 'TakeOver' }, NARROW)
    bench.byHand({ symbol: PUT, side: 'Buy', orderQty: 3 })
    expect(bench.notes.map(sayNote)).toEqual([
      'BUOYS: 3 of its 5 were closed (not by this plan), 2 are left. The plan takes your change over; it enters there no more until you hand it back',
    ])
    expect(bench.state.held.BUOYS.quantity).toBe(2)
    quoted(bench, { [CALL]: [2.3, 2.31] })
    expect(wants(bench).at(-1)).toBe(`${CLOSED.replace('5 ×', '2 ×')}its gain or its loss is reached`)
    expect(bench.heldOf(CALL)).toBe(-3)
  })

  it('what the plan holds is bounded by what its units keep', () => {
    // Three of them keep 879; a fifth of five is one.
    const bench = quiet({ ...PLAN, never: { ...PLAN.never, exposure: 1000 } })
    const capped = 'BUOYS: orders 3 units (5 wanted, capped by exposure of the plan), each receives 2.07'
    expect(sayTrace(bench.traces.at(-1)!)).toBe(capped)
    const sides = PLAN.sides.map((one) => ({ ...one, do: { ...one.do, least: 100 } }))
    const whole = quiet({ ...PLAN, sides, never: { ...PLAN.never, exposure: 1000 } })
    expect(sayTrace(whole.traces.at(-1)!)).toContain('exposure of the plan: $1,465.00, at most $1,000.00')
  })

  it('goes on after a restart, and after it has forgotten everything, with the same legs', () => {
    const bench = quiet(PLAN, NARROW)
    const held = structuredClone(bench.state.held)
    bench.restart()
    expect(bench.state.held).toEqual(held)
    bench.forget([10])
    const { legs, quantity, paid } = held.BUOYS
    expect(bench.state.held).toMatchObject({ BUOYS: { legs, quantity, paid } })
    quoted(bench, { [CALL]: [2.3, 2.31] })
    expect(wants(bench).slice(1)).toEqual([CLOSED + 'its gain or its loss is reached'])
  })
})
