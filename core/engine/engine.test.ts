import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { aboveAverage, BEGINS } from '@/tests/aboveAverage'
import { barOf, OPEN, PlanBench } from '@/tests/planBench'
import { toE4 } from '../market/money'
import { PLAN_FORM, Plan } from '../plans/document'
import { type Open } from '../plans/entry'
import { sayTrace } from './say'
import { prepare } from './prepare'
import { freshState } from './state'
import { step } from './step'

const planOf = (part: Partial<Plan> = {}): Plan =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'first', name: 'First', version: 1 },
    when: { from: { afterOpen: 10 }, until: { clock: '15:30' } },
    sides: [
      {
        among: { list: ['OSPRY'] },
        if: { rule: 'close crosses above sma(close, 3)', every: '5 min' },
        provided: [{ name: 'largest order', rule: 'order value <= 20000' }],
        do: { open: 'Long', price: 'market', size: { risk: 0.5 } },
        then: { exits: { stop: { percent: 2 }, target: { percent: 4 } }, outAt: { clock: '15:50' } },
      },
    ],
    never: { entriesPerSecurityAndDay: 2, entriesPerDay: 3, exposure: 30_000 },
    ...part,
  })

/** Closes that lie below their average of three and then cross it in the last of them. */
const CROSSES = [10, 9.9, 9.8, 9.7, 10.2]

describe('a plan, stepped', () => {
  it('orders once where its condition begins, sized by the stop, and not while it goes on', () => {
    const bench = new PlanBench(planOf())
    CROSSES.forEach((close, k) => bench.bar(k, close))
    // 0.5 % of 50,000 is 250; 2 % of 10.20 is 0.204, on a tick 10.00: 0.20 a share, so 1,250 shares.
    expect(bench.sent).toMatchObject([{ side: 'Buy', orderQty: 1250, ordType: 'Market', symbol: 'OSPRY' }])
    expect(bench.sent[0].clOrdId).toMatch(/^p\.[a-z2-7]{26}$/)
    expect(bench.sent[0].origin).toMatchObject({ from: 'Plan', name: 'First', version: '1' })
    expect(bench.held).toBe(1250)
    bench.bar(5, 10.3)
    expect(bench.sent).toHaveLength(1)
    expect(bench.state.held.OSPRY.quantity).toBe(1250)
  })

  it('the stop ends the trade; the next beginning is another order, and a third is one too many', () => {
    const bench = new PlanBench(planOf())
    const closes = [...CROSSES, 9.5, 9.4, 10.1, 9.3, 9.2, 10.4, 9.1, 9, 10.5]
    closes.forEach((close, k) => bench.bar(k, close))
    expect(bench.sent).toHaveLength(2)
    expect(new Set(bench.sent.map(({ clOrdId }) => clOrdId)).size).toBe(2)
    expect(bench.held).toBe(0)
    expect(sayTrace(bench.traces.at(-1)!)).toContain('Never: entries of the security today: 3, at most 2')
  })

  it('waits for the next beginning where the condition held before it looked', () => {
    const bench = new PlanBench(planOf())
    ;[10, 9.8, 10.4].forEach((close, k) => bench.bar(k, close, false))
    bench.bar(3, 10.6)
    expect(bench.sent).toEqual([])
  })

  it('enters within its time alone, and is out by its hour', () => {
    const early = new PlanBench(planOf())
    // The condition begins with the bar that ends five minutes after the open.
    early.bar(-3, 10, false)
    early.bar(-2, 9.8, false)
    early.bar(-1, 9.7, false)
    early.bar(0, 10.4)
    expect(early.sent).toEqual([])
    expect(sayTrace(early.traces.at(-1)!)).toBe(
      'OSPRY: no order. When: too early: it enters from 10 min after the open',
    )
    const late = new PlanBench(planOf())
    CROSSES.forEach((close, k) => late.bar(k, close))
    late.bar(74, 10.2)
    expect(late.held).toBe(1250)
    late.bar(75, 10.2)
    expect(late.sent.at(-1)).toMatchObject({ side: 'Sell', orderQty: 1250, positionEffect: 'Close' })
    expect(late.held).toBe(0)
  })

  it('a gate stops the very order, with its figure', () => {
    const [side] = planOf().sides
    const strict = { ...side, provided: [{ name: 'largest order', rule: 'order value <= 2000' }] }
    const bench = new PlanBench(planOf({ sides: [strict] }))
    CROSSES.forEach((close, k) => bench.bar(k, close))
    expect(bench.sent).toEqual([])
    expect(sayTrace(bench.traces.at(-1)!)).toContain('Provided: largest order: ')
  })

  it('what is wanted is kept back before the broker has answered', () => {
    const [side] = planOf().sides
    const large = { ...side, provided: [], do: { ...(side.do as Open), size: { equity: 100 } } }
    const shared = new PlanBench(planOf({ sides: [large], never: { quoteAge: 60 } }), false)
    CROSSES.forEach((close, k) => shared.bar(k, close))
    const [wanted] = shared.sent
    expect(shared.shared.pending).toEqual({ [wanted.clOrdId]: wanted })
    shared.answer()
    expect(shared.shared.pending).toEqual({})
    expect(shared.held).toBe(wanted.orderQty)
  })

  it('what one plan wants, the next of the same account cannot have', () => {
    const [side] = planOf().sides
    const large = { ...side, provided: [], do: { ...(side.do as Open), size: { money: 80_000 }, least: 100 } }
    const never = { quoteAge: 60 }
    const first = new PlanBench(planOf({ sides: [large], never }), false)
    const next = planOf({ id: 'next', sides: [large], never })
    const [prepared, state] = [prepare(next, first.shared.listed), freshState(next)]
    const told: string[] = []
    CROSSES.forEach((close, k) => {
      first.bar(k, close)
      const bar = barOf(k, close)
      const event = { is: 'bar' as const, at: bar.end, symbol: 'OSPRY', every: '5 min', bar }
      const { traces, intents } = step(prepared, state, first.shared, event, true)
      expect(intents).toEqual([])
      told.push(...traces.map(sayTrace))
    })
    // Of 100,000 of buying power 80,000 are wanted already.
    expect(first.sent).toHaveLength(1)
    expect(told.at(-1)).toContain('buying power')
  })

  describe('with two sides', () => {
    const both = (opposite: Plan['opposite']) => {
      const [long] = planOf().sides
      const easy = { ...long, provided: [], then: { outAt: { clock: '15:50' as const } } }
      const size = { shares: 100 }
      const deed = long.do as Open
      return planOf({
        opposite,
        sides: [
          { ...easy, do: { ...deed, size } },
          {
            ...{ ...easy, if: { ...long.if, rule: 'close crosses below sma(close, 3)' } },
            do: { ...deed, open: 'Short', size },
          },
        ],
        never: { quoteAge: 60 },
      })
    }
    const dealt = (opposite: Plan['opposite'], closes: readonly number[]) => {
      const bench = new PlanBench(both(opposite))
      closes.forEach((close, k) => bench.bar(k, close))
      return { bench, sides: bench.sent.map(({ side, orderQty }) => `${side} ${orderQty}`) }
    }
    // Up through the average with the fifth, down through it with the seventh.
    const closes = [...CROSSES, 10.3, 9.5]

    it('the opposite signal is passed over, closes, or turns over once the close is filled', () => {
      expect(dealt('Ignore', closes).sides).toEqual(['Buy 100'])
      expect(dealt('Close', closes).sides).toEqual(['Buy 100', 'Sell 100'])
      const turned = dealt('Turn', closes)
      expect(turned.sides).toEqual(['Buy 100', 'Sell 100', 'SellShort 100'])
      expect(turned.bench.held).toBe(-100)
      expect(new Set(turned.bench.sent.map(({ clOrdId }) => clOrdId)).size).toBe(3)
      // And back again.
      expect(dealt('Turn', [...closes, 9.4, 10.6]).bench.held).toBe(100)
    })

    it('nothing is opened the other way before the close is filled', () => {
      const bench = new PlanBench(both('Turn'), false)
      closes.forEach((close, k) => {
        bench.bar(k, close)
        if (k === 4) bench.answer()
      })
      expect(bench.sent.map(({ side }) => side)).toEqual(['Buy', 'Sell'])
      bench.answer()
      expect(bench.sent.map(({ side }) => side)).toEqual(['Buy', 'Sell', 'SellShort'])
    })
  })

  it('what a growing bar had come to before the plan was begun is no beginning; what comes after is', () => {
    const [side] = planOf().sides
    const soFar = planOf({
      when: { look: 'Tick' },
      sides: [{ ...side, provided: [], if: { ...side.if, bars: 'SoFar' } }],
    })
    const bench = new PlanBench(soFar)
    CROSSES.slice(0, -1).forEach((close, k) => bench.bar(k, close, false))
    const minute = 5 * (CROSSES.length - 1)
    bench.tick(minute + 1, CROSSES.at(-1)!)
    bench.tick(minute + 2, CROSSES.at(-1)!)
    expect(bench.sent).toEqual([])
    // Back under the average, and through it once more.
    bench.tick(minute + 3, CROSSES.at(-2)! - 1)
    bench.tick(minute + 4, CROSSES.at(-1)!)
    expect(bench.sent).toHaveLength(1)
  })

  it('a way out that is refused is taken again a minute later under its own id; one that ends with something left, by another', () => {
    const bench = new PlanBench(planOf())
    CROSSES.forEach((close, k) => bench.bar(k, close))
    bench.refuses = 'OSPRY'
    // Its time of the session.
    bench.bar(75, 10.2)
    const [, refused] = bench.sent
    expect([bench.sent.length, bench.held]).toEqual([2, 1250])
    bench.tick(5 * 76 + 0.5, 10.2)
    expect(bench.sent).toHaveLength(2)
    bench.refuses = undefined
    bench.tick(5 * 76 + 2, 10.2)
    expect(bench.sent.map(({ clOrdId }) => clOrdId).slice(1)).toEqual([refused.clOrdId, refused.clOrdId])
    expect(bench.held).toBe(0)
  })

  it('another security is read beside its own at the same moment, whichever bar comes first; one that is not listed is named', () => {
    const [side] = planOf().sides
    const plan = planOf({
      sides: [{ ...side, if: { ...side.if, rule: `${side.if.rule} and beside("GANET", close) > 20` } }],
    })
    const run = (first: 'OSPRY' | 'GANET', ganet: number) => {
      const bench = new PlanBench(plan, true, ['OSPRY', 'GANET'])
      CROSSES.forEach((close, k) => {
        const last = k === CROSSES.length - 1 ? ganet : 19
        const bars = { OSPRY: close, GANET: last }
        bench.bar(k, bars[first], true, first)
        const second = first === 'OSPRY' ? 'GANET' : 'OSPRY'
        if (k === 1) bench.restart()
        bench.bar(k, bars[second], true, second)
      })
      return bench.sent.map(({ symbol, side: way }) => `${way} ${symbol}`)
    }
    expect(run('OSPRY', 21)).toEqual(['Buy OSPRY'])
    expect(run('GANET', 21)).toEqual(['Buy OSPRY'])
    expect(run('OSPRY', 19)).toEqual([])
    expect(() => new PlanBench(plan)).toThrow('The broker lists no GANET, which its rule text asks about')
  })

  it('shares that are split while it holds them are all its own still, and all are closed', () => {
    const bench = new PlanBench(planOf())
    CROSSES.forEach((close, k) => bench.bar(k, close))
    const { costE4 } = bench.state.held.OSPRY
    bench.split(2)
    expect(bench.state.held.OSPRY).toMatchObject({ quantity: 2500, costE4 })
    bench.bar(75, 5.1)
    expect(bench.sent.at(-1)).toMatchObject({ side: 'Sell', orderQty: 2500 })
    expect([bench.held, bench.state.held.OSPRY.quantity]).toEqual([0, 0])
  })

  it('what was traded on days before is held, and is none of today’s entries or losses', () => {
    const bench = new PlanBench(planOf())
    ;[...CROSSES, 9.5].forEach((close, k) => bench.bar(k, close))
    expect(bench.state.takenE4.OSPRY).toBeLessThan(0)
    bench.tomorrow()
    bench.forget([10])
    expect(bench.state.entries).toEqual({})
    expect(bench.state.takenE4).toEqual({})
    expect(bench.state.held.OSPRY.quantity).toBe(0)
  })

  it('what the account holds besides counts for its size, at what it cost until it is quoted', () => {
    const [side] = planOf().sides
    const bench = new PlanBench(
      planOf({ sides: [{ ...side, provided: [], do: { ...(side.do as Open), size: { equity: 10 } } }] }),
    )
    const { book } = bench.shared
    // 1,000 were bought at 20: of 50,000 there are 30,000 in cash and 20,000 in shares.
    book.holdings.GANET = { symbol: 'GANET', quantity: 1000, costE4: toE4(20_000), lots: [], realizedE4: {} }
    book.cashE4 = toE4(30_000)
    CROSSES.forEach((close, k) => bench.bar(k, close))
    expect(bench.sent[0].orderQty).toBe(Math.floor(5_000 / 10.2))
  })

  it('begun anew with nothing but the broker’s records, it knows its orders again and sends none twice', () => {
    const bench = new PlanBench(planOf())
    CROSSES.forEach((close, k) => bench.bar(k, close))
    const { sent } = bench
    bench.forget(CROSSES)
    expect(bench.state.held.OSPRY.quantity).toBe(1250)
    expect(bench.state.entries).toEqual({ OSPRY: 1 })
    bench.bar(5, 9.9)
    bench.bar(6, 10.6)
    expect(bench.sent).toHaveLength(sent.length)
  })

  it('begun where its condition holds already it waits, or takes that for its beginning: once', () => {
    const closes = [...BEGINS, 10.1]
    const end = barOf(closes.length - 1, 1).end
    const caughtUp = () => {
      const bench = new PlanBench(aboveAverage({}))
      // It began in the past, before anybody followed it.
      closes.forEach((close, k) => bench.bar(k, close, false))
      return bench
    }
    const waits = caughtUp()
    waits.bar(closes.length, 10.2)
    expect(waits.sent).toHaveLength(0)
    const acts = caughtUp()
    acts.step({ is: 'act now', at: end, since: end }, true)
    acts.answer()
    expect(acts.sent).toHaveLength(1)
    acts.bar(closes.length, 10.2)
    expect(acts.sent).toHaveLength(1)
    // What began since then has led to its order already.
    const live = new PlanBench(aboveAverage({ then: { leaveIf: 'close > 1' } }))
    closes.forEach((close, k) => live.bar(k, close))
    const { length } = live.sent
    expect(live.held).toBe(0)
    live.step({ is: 'act now', at: end, since: OPEN }, true)
    expect(live.sent).toHaveLength(length)
  })

  it('restarted at any moment, also as another version, it sends what it would have sent, and nothing twice', () => {
    const walk = fc.array(fc.integer({ min: -4, max: 4 }), { minLength: 20, maxLength: 70 })
    fc.assert(
      fc.property(
        walk,
        fc.array(fc.nat({ max: 69 }), { maxLength: 6 }),
        fc.boolean(),
        (moves, stops, mended) => {
          const plan = planOf({ never: { entriesPerSecurityAndDay: 5, quoteAge: 60 } })
          const [through, broken] = [new PlanBench(plan), new PlanBench(plan)]
          let close = 100
          moves.forEach((move, k) => {
            close += move / 4
            through.bar(k, close)
            broken.bar(k, close)
            if (stops.includes(k)) broken.restart(mended ? { ...plan, version: 2 } : plan)
          })
          const ids = (bench: PlanBench) => bench.sent.map(({ clOrdId }) => clOrdId)
          expect(ids(broken)).toEqual(ids(through))
          expect(new Set(ids(broken)).size).toBe(broken.sent.length)
          expect(broken.held).toBe(through.held)
          expect(broken.state.held).toEqual(through.state.held)
          expect(through.held).toBe(through.state.held.OSPRY?.quantity ?? 0)
        },
      ),
      { numRuns: cases(30) },
    )
  })
})
