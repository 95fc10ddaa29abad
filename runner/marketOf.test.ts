import { expect, it } from '@jest/globals'
import { type Broker } from '@/client'
import { PlanBench } from '@/tests/planBench'
import { barSetOf } from '@/tests/bars'
import { OSPRY } from '@/tests/venue'
import { sayTrace } from '@/core/engine/say'
import { encodeBars } from '@/core/formats/barsBinary'
import { BRACKWATER } from '@/core/market/venue'
import { wrongGate, wrongPlanGate } from '@/core/orders/gates'
import { PLAN_FORM, Plan } from '@/core/plans/document'
import { asksForMarket, marketAt } from './marketOf'

const walk = (step: number) => Array.from({ length: 260 }, (_, i) => 400 + step * i)

it('the market stands as the session before left it, reckoned by hand over its stocks', async () => {
  const asked: { to?: string; symbols: string[] }[] = []
  const closes: Record<string, number[]> = { OSPRY: walk(1), GANET: walk(1), KIPPR: walk(-1) }
  const broker = {
    bars: (_every: string, of: { to?: string; symbols: string[] }) => {
      asked.push(of)
      const bytes = encodeBars(
        barSetOf(Object.fromEntries(of.symbols.map((symbol) => [symbol, closes[symbol]]))),
        '2026-05-04T12:30:00Z',
      )
      return Promise.resolve(bytes.slice().buffer as ArrayBuffer)
    },
  } as unknown as Broker
  const listed = Object.fromEntries(
    [...Object.keys(closes), 'BWALL'].map((symbol) => [
      symbol,
      {
        security: { ...OSPRY, symbol, kind: symbol === 'BWALL' ? ('Index' as const) : OSPRY.kind },
        venue: BRACKWATER,
        rate: 1,
      },
    ]),
  )
  const now = await marketAt(broker, { listed }, BRACKWATER, Date.parse('2026-05-04T12:30:00-03:00'))
  // Two of three climb: ten new highs of five sessions against five new lows.
  expect(now).toEqual({
    breadth: expect.closeTo(200 / 3),
    'slow breadth': expect.closeTo(200 / 3),
    'advancing share': expect.closeTo(200 / 3),
    'market lean': 1,
  })
  expect(asked).toEqual([expect.objectContaining({ symbols: Object.keys(closes), to: '2026-05-03' })])
})

it('gates of a plan ask how the market stands; those of an account do not', () => {
  expect(wrongPlanGate({ rule: 'breadth >= 50% and market lean > 0' })).toBeUndefined()
  expect(wrongGate({ rule: 'breadth >= 50%' })).toContain('is for the gates of plans')
  const plan = Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'with', name: 'With it', version: 1, when: {} },
    sides: [
      {
        among: { list: ['OSPRY'] },
        if: { rule: 'close crosses above sma(close, 3)', every: '5 min' },
        provided: [{ name: 'with the market', rule: 'breadth >= 50% and market lean >= 0' }],
        do: { open: 'Long', price: 'market', size: { shares: 100 } },
        then: { outAt: { clock: '15:50' } },
      },
    ],
    never: { entriesPerDay: 5 },
  })
  expect(asksForMarket(plan.sides)).toBe(true)
  const live = (breadth: number | undefined) => {
    const bench = new PlanBench(plan)
    if (breadth !== undefined)
      bench.shared.market = {
        XBKW: { breadth, 'slow breadth': 50, 'advancing share': 50, 'market lean': 0 },
      }
    ;[10, 9.9, 9.8, 9.7, 10].forEach((close, k) => bench.bar(k, close))
    return [bench.held, sayTrace(bench.traces.at(-1)!)]
  }
  expect(live(62)).toEqual([100, 'OSPRY: orders 100 at about 10.00'])
  expect(live(41)).toEqual([0, expect.stringContaining('no order. Provided: with the market: breadth 41')])
  // What is not known does not pass.
  expect(live(undefined)).toEqual([0, expect.stringContaining('cannot tell. Provided: with the market')])
})
