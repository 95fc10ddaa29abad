import { describe, expect, it } from '@jest/globals'
import { aboveAverage, begun } from '@/tests/aboveAverage'
import { OPEN, type PlanBench } from '@/tests/planBench'
import { endSession } from '../venue/orders'
import { stopLimitPrice } from '../orders/levels'
import { planIssues } from '../plans/check'
import { type Plan } from '../plans/document'
import { planProse } from '../plans/say'
import { USUAL_INCREMENTS } from '../market/increment'

/** Its stop at 5 % is a limit two ticks beyond. */
const planOf = (then: object = {}, exits: object = {}): Plan =>
  aboveAverage({
    then: { exits: { stop: { percent: 5 }, stopLimit: { ticks: 2 }, ...exits }, ...then },
    never: { entriesPerDay: 1 },
  })
const stop = ({ seat: { book } }: PlanBench) => {
  const { ordType, stopPx, price, timeInForce, ordStatus } = Object.values(book.orders).find(
    ({ role }) => role === 'Stop',
  )!
  return { ordType, stopPx, price, timeInForce, ordStatus }
}

describe('a stop that becomes a limit', () => {
  it('lies so far beyond, and is filled at no worse price', () => {
    const bench = begun(planOf())
    expect(stop(bench)).toMatchObject({ ordType: 'StopLimit', stopPx: 9.5, price: 9.48 })
    bench.tick(26, 9.49)
    expect([bench.held, stop(bench).ordStatus]).toEqual([0, 'Filled'])
  })

  it('what it has not sold after its minutes goes at the market, also while nothing is quoted', () => {
    const bench = begun(planOf({ stopWaits: 3 }))
    bench.tick(26, 9.3)
    bench.tick(28, 9.2)
    expect([bench.held, stop(bench).ordStatus]).toEqual([100, 'New'])
    bench.restart()
    bench.step({ is: 'time', at: OPEN + 29 * 60_000 }, true)
    bench.answer()
    expect([bench.held, bench.sent.at(-1)?.ordType, stop(bench).ordStatus]).toEqual([0, 'Market', 'Canceled'])
    // Without minutes it waits as long as the broker lets it.
    const waits = begun(planOf())
    waits.tick(26, 9.3)
    waits.tick(60, 9.2)
    expect(waits.held).toBe(100)
  })

  it('its limit goes along where it is moved', () => {
    const bench = begun(planOf({ moves: [{ when: { gain: { percent: 2 } }, to: 'Fill' }] }))
    bench.bar(5, 10.3)
    expect(stop(bench)).toMatchObject({ stopPx: 10, price: 9.98 })
  })

  it('may end with the session; while it waits for its entry it does not', () => {
    const bench = begun(planOf({}, { timeInForce: 'Day' }))
    endSession(bench.seat, '2026-05-04', OPEN + 6.5 * 3_600_000)
    expect(stop(bench)).toMatchObject({ timeInForce: 'Day', ordStatus: 'Expired' })
    const entry = {
      price: { limit: 'close * 0.9', ticks: 0, percent: 0 },
      timeInForce: 'GoodTillCancel' as const,
    }
    const [side] = planOf({}, { timeInForce: 'Day' }).sides
    const plan = { ...planOf(), sides: [{ ...side, do: { ...side.do, ...entry } as typeof side.do }] }
    const waits = begun(plan)
    endSession(waits.seat, '2026-05-04', OPEN + 6.5 * 3_600_000)
    expect([waits.held, stop(waits).ordStatus]).toEqual([0, 'PendingNew'])
  })

  it('is read aloud and checked; of a buy it lies above', () => {
    expect(planProse(planOf({ stopWaits: 3 })).at(-2)?.text).toContain(
      'a stop becomes a limit 2 ticks beyond it, after 3 min what is left goes at the market',
    )
    expect(planIssues(planOf()).map(({ text }) => text)).toContain(
      'a stop that becomes a limit may stay unfilled while the price runs away: say when the rest goes at the market',
    )
    expect(planIssues(planOf({ stopWaits: 3 }, { stopLimit: undefined })).map(({ is }) => is)).toContain(
      'error',
    )
    expect(() => planOf({}, { stop: { trail: { percent: 2 } } })).toThrow('none that does not trail')
    expect(stopLimitPrice({ percent: 1 }, 'Buy', 10.004, USUAL_INCREMENTS)).toBe(10.11)
    expect(stopLimitPrice({ ticks: 1 }, 'Sell', 0.01, USUAL_INCREMENTS)).toBeGreaterThan(0)
  })
})
