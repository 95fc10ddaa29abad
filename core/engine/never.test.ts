import { describe, expect, it } from '@jest/globals'
import { aboveAverage, BEGINS, begun } from '@/tests/aboveAverage'
import { barOf, OPEN, PlanBench } from '@/tests/planBench'
import { BRACKWATER } from '../market/venue'
import { parseTimeframe } from '../market/timeframe'
import { type Plan } from '../plans/document'
import { planProse } from '../plans/say'
import { barsBehind } from './behind'
import { prepare } from './prepare'
import { sayTrace } from './say'
import { freshState } from './state'
import { step } from './step'

/** Buys 1,000; figures below are reckoned by hand. */
const planOf = (never: object, deed: object = {}, look: Plan['when']['look'] = 'Bar'): Plan =>
  aboveAverage({
    ...{ when: { look }, if: { lasts: { bars: 50 } }, never },
    do: { size: { shares: 1000 }, ...deed },
  })
const last = ({ traces }: PlanBench): string => sayTrace(traces.at(-1)!)

describe('what must never happen', () => {
  it('leaves room for less than was wanted, which is ordered, and the wanted is kept', () => {
    const bench = begun(planOf({ exposurePerSecurity: 4_000 }))
    expect(bench.held).toBe(400)
    expect(last(bench)).toBe(
      'OSPRY: orders 400 (1,000 wanted, capped by exposure in the security) at about 10.00',
    )
    expect(begun(planOf({ largestOrder: 2_500 })).held).toBe(250)
    expect(begun(planOf({ exposure: 7_123 })).held).toBe(712)
    // 10 % of 50,000; and of 100,000 of buying power 95,000 are to be left, of which commission is paid too.
    expect(begun(planOf({ share: 10 })).held).toBe(500)
    expect(begun(planOf({ freeBuyingPower: 95_000 })).held).toBe(499)
  })

  it('counts what is under way in the account, by hand, script and plan alike', () => {
    // 500 at 9.50 rest by hand: 5,000 of the 9,000 are taken at the last price of 10.
    const bench = new PlanBench(planOf({ exposurePerSecurity: 9_000 }))
    BEGINS.slice(0, -1).forEach((close, k) => bench.bar(k, close))
    bench.byHand({ side: 'Buy', orderQty: 500, ordType: 'Limit', price: 9.5 })
    bench.bar(BEGINS.length - 1, BEGINS.at(-1)!)
    expect(bench.held).toBe(400)
  })

  it('counts an entry by hand among those of the security today, but none that ended unfilled', () => {
    const after = (part: object) => {
      const bench = new PlanBench(planOf({ entriesPerSecurityAndDay: 1 }))
      BEGINS.slice(0, -1).forEach((close, k) => bench.bar(k, close))
      bench.byHand({ side: 'Buy', orderQty: 10, ...part })
      bench.bar(BEGINS.length - 1, BEGINS.at(-1)!)
      return bench
    }
    expect(last(after({}))).toBe('OSPRY: no order. Never: entries of the security today: 2, at most 1')
    const gone = after({ ordType: 'Limit', price: 1, timeInForce: 'ImmediateOrCancel' })
    expect(gone.held).toBe(1000)
    // Its own, which was reserved and then reported, is one.
    expect(gone.shared.book.lately.entries.OSPRY).toBe(2)
  })

  it('two plans on one quote get what is left, in the order in which they were armed', () => {
    const plan = planOf({ exposurePerSecurity: 12_000 })
    const bench = new PlanBench(plan, false)
    const second = prepare({ ...plan, id: 'second' }, bench.shared.listed)
    const state = freshState({ ...plan, id: 'second' })
    BEGINS.forEach((close, k) => {
      bench.bar(k, close)
      const bar = barOf(k, close)
      const { intents } = step(
        second,
        state,
        bench.shared,
        { is: 'bar', at: bar.end, symbol: 'OSPRY', every: '5 min', bar },
        true,
      )
      for (const intent of intents) if (intent.is === 'send') bench.sent.push(intent.order)
    })
    // 10,000 of 12,000 are the first one's, whose order has not been answered; a fifth of the size is the least.
    expect(bench.sent.map(({ orderQty }) => orderQty)).toEqual([1000, 200])
  })

  it('a daily loss counts what was realised, or open losses as well', () => {
    const adding = (never: object) =>
      begun(
        aboveAverage({
          ...{ never, do: { size: { shares: 100 }, adds: { most: 3, after: 'Signal' } } },
          then: { exits: { stop: { percent: 20 } } },
        }),
      )
    const bench = adding({ lossPerDay: 40, lossCounts: 'WithOpen' })
    const realised = adding({ lossPerDay: 40 })
    for (const one of [bench, realised]) [9.5, 9.4, 9.5, 9.6].forEach((close, k) => one.bar(5 + k, close))
    // 100 bought at 10.00 and quoted at 9.50 when the condition begins anew: an open loss of 50, and 0.50 of commission realised.
    expect(last(bench)).toMatch(/Never: loss today, open loss counted: \$50\.50, at most \$40\.00/)
    expect(realised.held).toBe(200)
  })

  it('says no where there is room for less than the least', () => {
    const bench = begun(planOf({ exposurePerSecurity: 1_999 }))
    expect([bench.held, last(bench)]).toEqual([
      0,
      'OSPRY: no order. Never: exposure in the security: $10,000.00, at most $1,999.00',
    ])
    expect(begun(planOf({ exposurePerSecurity: 9_000 }, { least: 100 })).held).toBe(0)
    expect(begun(planOf({ exposurePerSecurity: 1_999 }, { least: 1 })).held).toBe(199)
  })

  it('has hours of its own, whatever When says; what rests is taken back with them', () => {
    const bench = begun(planOf({ hours: { from: { afterOpen: 30 }, until: { clock: '10:15' } } }))
    expect([bench.held, last(bench)]).toEqual([
      0,
      'OSPRY: no order. Never: outside its hours, from 30 min after the open until 10:15',
    ])
    // 10:00 is within them: what began stands.
    bench.bar(5, 10)
    expect(bench.held).toBe(1000)
    const rests = { price: { limit: 'close - 0.5', ticks: 0, percent: 0 }, rests: {} }
    const resting = begun(planOf({ hours: { until: { afterOpen: 35 } } }, rests))
    resting.bar(5, 10)
    expect(resting.wanted.map(({ is }) => is)).toEqual(['send'])
    resting.bar(6, 10.2)
    expect(resting.wanted.map(({ is }) => is)).toEqual(['send', 'cancel'])
  })

  it('bounds how far from the last trade an entry is priced', () => {
    const far = { price: { limit: 'close', ticks: 0, percent: -2 } }
    const bench = begun(planOf({ collar: 1.5 }, far))
    expect(last(bench)).toBe('OSPRY: no order. Never: price away from the last: 2.00 %, at most 1.50 %')
    expect(begun(planOf({ collar: 2 }, far)).sent).toMatchObject([{ price: 9.8 }])
  })

  it('does not enter where bars are missing', () => {
    // A side that looks at each quote; the bars of 9:55 and 10:00 have not come.
    const plan = planOf({ barsBehind: 1, quoteAge: 5, exposurePerSecurity: 1 }, {}, 'Tick')
    const bench = begun(plan)
    expect(last(bench)).toContain('exposure in the security')
    const free = { ...plan, never: { ...plan.never, exposurePerSecurity: undefined } }
    bench.restart(free)
    bench.tick(36, 10)
    expect([bench.held, last(bench)]).toEqual([0, 'OSPRY: no order. Never: bars missing: 2, at most 1'])
    bench.tick(34, 10)
    expect(bench.held).toBe(1000)
  })

  it('is read aloud', () => {
    const never = {
      ...{ largestOrder: 2500, collar: 1.5, barsBehind: 2, quoteAge: 5 },
      hours: { from: { afterOpen: 5 }, until: { clock: '15:40' } },
    }
    expect(planProse(planOf(never)).find(({ clause }) => clause === 'Never')?.text).toBe(
      'more than 5 entries a day, 2,500 in one order, or 1.50 % away from the last price, or before 5 min after the open, or from 15:40 on, or on quotes older than 5 seconds or where more than 2 bars are missing',
    )
  })
})

describe('bars that are missing', () => {
  const at = (text: string) => Date.parse(`${text}-03:00`)
  // 4 May 2026 is a Monday; sessions go from 9:30 to 16:00.
  it.each([
    ['5 min', '2026-05-04T09:45:00', '2026-05-04T09:49:59', 0],
    ['5 min', '2026-05-04T09:45:00', '2026-05-04T09:50:00', 1],
    ['5 min', '2026-05-01T16:00:00', '2026-05-04T09:40:00', 2],
    ['5 min', '2026-05-01T15:55:00', '2026-05-03T12:00:00', 1],
    // Seven in a session: the last is short.
    ['1 hour', '2026-05-04T10:30:00', '2026-05-04T20:00:00', 6],
    ['1 day', '2026-05-01T16:00:00', '2026-05-04T15:00:00', 0],
    ['1 day', '2026-04-30T16:00:00', '2026-05-04T15:00:00', 1],
    ['1 week', '2026-05-01T16:00:00', '2026-05-04T15:00:00', 0],
  ])('%s after %s by %s', (every, lastEnd, now, missing) => {
    expect(barsBehind(BRACKWATER, parseTimeframe(every)!, at(lastEnd), at(now))).toBe(missing)
  })

  it('is not known before there was any', () => {
    expect(barsBehind(BRACKWATER, parseTimeframe('5 min')!, -Infinity, OPEN)).toBeNaN()
  })
})
