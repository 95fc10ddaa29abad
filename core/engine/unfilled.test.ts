import { describe, expect, it } from '@jest/globals'
import { OPEN, PlanBench } from '@/tests/planBench'
import { PLAN_FORM, Plan } from '../plans/document'
import { planProse } from '../plans/say'

/** Buys 100 at the fifth bar, and is out at a time; quotes lie 0.10 apart about the last price. */
const planOf = (unfilled: object, deed?: object, outAt = '10:10'): Plan =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'out', name: 'Out', version: 1, when: {} },
    sides: [
      {
        among: { list: ['OSPRY'] },
        if: { rule: 'close crosses above sma(close, 3)', every: '5 min' },
        provided: [],
        do: deed ?? { open: 'Long', price: 'market', size: { shares: 100 } },
        then: deed ? {} : { outAt: { clock: outAt }, leave: { at: 'ask', unfilled } },
      },
    ],
    never: { entriesPerDay: 5 },
  })
const begun = (plan: Plan): PlanBench => {
  const bench = new PlanBench(plan)
  bench.wide = 0.1
  ;[10, 9.9, 9.8, 9.7, 10].forEach((close, k) => bench.bar(k, close))
  return bench
}
const MINUTE = 60_000
/** The clock says the time, so many minutes after the open. */
const time = (bench: PlanBench, minute: number) => {
  bench.step({ is: 'time', at: OPEN + minute * MINUTE }, true)
  bench.answer()
}
const told = ({ sent }: PlanBench) =>
  sent.map(({ side, orderQty, ordType, price }) => `${side} ${orderQty} ${ordType} ${price ?? ''}`.trim())

describe('a way out at a limit', () => {
  it('waits its minutes and goes on at the market, once', () => {
    const bench = begun(planOf({ minutes: 3 }))
    bench.tick(40, 10)
    expect(told(bench)).toEqual(['Buy 100 Market', 'Sell 100 Limit 10.05'])
    bench.tick(42, 10.01)
    time(bench, 42.9)
    expect(bench.held).toBe(100)
    time(bench, 43)
    expect(told(bench).slice(2)).toEqual(['Sell 100 Market'])
    expect(bench.held).toBe(0)
    bench.tick(44, 10)
    time(bench, 45)
    expect(bench.sent).toHaveLength(3)
  })

  it('is filled at its limit when the price comes, and nothing follows', () => {
    const bench = begun(planOf({ minutes: 3 }))
    bench.tick(40, 10)
    bench.tick(41, 10.06)
    time(bench, 44)
    expect([bench.held, bench.sent.length]).toEqual([0, 2])
  })

  it('or is priced anew, as often as it takes', () => {
    const bench = begun(planOf({ minutes: 3, next: 'Again' }))
    bench.tick(40, 10)
    bench.tick(43, 9.9)
    time(bench, 43)
    bench.tick(46, 9.8)
    time(bench, 46)
    expect(told(bench).slice(1)).toEqual([
      'Sell 100 Limit 10.05',
      'Sell 100 Limit 9.95',
      'Sell 100 Limit 9.85',
    ])
    expect(new Set(bench.sent.map(({ clOrdId }) => clOrdId)).size).toBe(4)
  })

  it('goes at the market at once where the session ends before it has waited', () => {
    const bench = begun(planOf({ minutes: 10 }, undefined, '15:52'))
    bench.tick(382, 10)
    expect(told(bench).slice(1)).toEqual(['Sell 100 Market'])
  })

  it('begun anew while it waits, it knows until when', () => {
    const bench = begun(planOf({ minutes: 3 }))
    bench.tick(40, 10)
    bench.forget([10, 9.9, 9.8, 9.7, 10])
    bench.tick(42, 10)
    expect(bench.sent).toHaveLength(2)
    bench.tick(43, 10)
    time(bench, 43)
    bench.tick(43.1, 10)
    expect([bench.held, told(bench).at(-1)]).toEqual([0, 'Sell 100 Market'])
  })

  it('so does what closes a holding of others', () => {
    const deed = { close: 50, price: { at: 'ask' }, unfilled: { minutes: 2 } }
    const bench = new PlanBench(planOf({}, deed))
    bench.wide = 0.1
    ;[10, 9.9, 9.8, 9.7].forEach((close, k) => bench.bar(k, close))
    bench.byHand({ side: 'Buy', orderQty: 200 })
    bench.bar(4, 10)
    expect(told(bench)).toEqual(['Sell 100 Limit 10.05'])
    bench.tick(27, 10)
    time(bench, 27)
    expect(told(bench)).toEqual(['Sell 100 Limit 10.05', 'Sell 100 Market'])
    time(bench, 40)
    // Half of it, and no more.
    expect(bench.seat.book.holdings.OSPRY.quantity).toBe(100)
    expect(bench.sent).toHaveLength(2)
  })

  it('is read aloud', () => {
    expect(planProse(planOf({ minutes: 3 })).find(({ clause }) => clause === 'Then')?.text).toBe(
      'all by 10:10; that limit at the ask, after 3 min what is left at the market',
    )
  })
})
