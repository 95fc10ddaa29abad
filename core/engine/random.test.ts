import { cases } from '@/tests/cases'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { PlanBench, type Prices } from '@/tests/planBench'
import { Plan, type Side } from '../plans/document'
import { bound } from '../plans/inputs'

/** What may happen in the length of a bar: quotes, a hand that trades in the same account, a venue that refuses, an end and a new beginning. */
interface Span {
  ticks: number[]
  close: number
  hand: number
  refuses: boolean
  restarts: boolean
}

const move = fc.integer({ min: -6, max: 6 })
const span: fc.Arbitrary<Span> = fc.record({
  ticks: fc.array(move, { maxLength: 3 }),
  close: move,
  hand: fc.oneof(
    { weight: 8, arbitrary: fc.constant(0) },
    { weight: 1, arbitrary: fc.integer({ min: -300, max: 300 }) },
  ),
  refuses: fc.oneof(
    { weight: 9, arbitrary: fc.constant(false) },
    { weight: 1, arbitrary: fc.constant(true) },
  ),
  restarts: fc.oneof(
    { weight: 4, arbitrary: fc.constant(false) },
    { weight: 1, arbitrary: fc.constant(true) },
  ),
})

const PLANS = [
  ...['fast-over-slow', 'through-the-middle', 'low-of-the-bar', 'low-so-far', 'resting-at-the-edge'],
  ...['out-of-yesterday', 'yesterday-as-the-stop', 'middle-in-ticks', 'turning-averages', 'low-end'],
  ...['through-the-middle, adding', 'turning-averages, leaving at a limit'],
  ...['fast-over-slow, watched at ticks', 'through-the-middle, moving its target'],
  ...['turning-averages, stopped at a limit', 'middle-in-ticks, taking over', 'low-so-far, standing still'],
]

/** The same side that orders more of what it holds, or closes at a limit first. */
function varied(side: Side, way: string | undefined): Side {
  const { do: deed, then } = side
  if (way === 'adding' && 'open' in deed)
    return { ...side, do: { ...deed, adds: { most: 2, after: { gain: { percent: 1 } }, stops: 'Newest' } } }
  if (way === 'leaving at a limit')
    return {
      ...side,
      then: { ...then, leave: { at: 'mid', ticks: 3, unfilled: { minutes: 3, next: 'Market' } } },
    }
  if (way === 'watched at ticks')
    return {
      ...side,
      then: { ...then, leaveIf: 'close < 0.99 * average price', on: { bars: 'SoFar' } },
    }
  if (way === 'moving its target') return { ...side, then: { ...then, exits: BOTH, moves: [TO_AVERAGE] } }
  if (way === 'stopped at a limit')
    return { ...side, then: { ...then, exits: { ...BOTH, stopLimit: { ticks: 1 } }, stopWaits: 3 } }
  return side
}

const BOTH = { stop: { percent: 2 }, target: { percent: 2 } }
const TO_AVERAGE: NonNullable<Side['then']['moves']>[number] = {
  ...{ of: 'Target', when: 'EveryBar' },
  to: { level: 'average price * 1.01' },
}

const BY_HAND: Record<string, Plan['byHand']> = { 'taking over': 'TakeOver', 'standing still': 'StandStill' }

/** The same plan on OSPRY alone, which may look all day. */
function planOf(name: string): Plan {
  const [id, way] = name.split(', ')
  const plan = bound(Plan.parse(JSON.parse(readFileSync(`plans/${id}.json`, 'utf8'))))
  const sides = plan.sides.map((side) => ({ ...varied(side, way), among: { list: ['OSPRY'] } }))
  return {
    ...plan,
    when: { look: plan.when.look },
    sides,
    byHand: BY_HAND[way],
    never: { ...plan.never, entriesPerSecurityAndDay: 3 },
  }
}

/** Lives through spans; `breaks` where it ends and begins again when they say so, as another version. */
function live(plan: Plan, spans: readonly Span[], breaks: boolean): PlanBench {
  const bench = new PlanBench(plan)
  bench.before(3, Array<Prices>(30).fill([10, 10.2, 9.8, 10]))
  let price = 10
  let version = 1
  spans.forEach((one, k) => {
    bench.refuses = one.refuses ? 'OSPRY' : undefined
    one.ticks.forEach((step, i) => {
      price = Math.max(2, price + step / 25)
      bench.tick(k * bench.minutes + ((i + 1) * bench.minutes) / 5, Number(price.toFixed(2)))
    })
    if (one.hand !== 0)
      bench.byHand({
        side: one.hand > 0 ? 'Buy' : 'Sell',
        orderQty: Math.abs(one.hand),
        clOrdId: `hand-${k}`,
      })
    price = Math.max(2, price + one.close / 25)
    const close = Number(price.toFixed(2))
    bench.bar(k, [close, close + 0.05, close - 0.05, close])
    if (breaks && one.restarts) bench.restart({ ...plan, version: ++version })
    checkLimits(bench)
  })
  return bench
}

/** What must hold at every moment, whatever happened. */
function checkLimits({ plan, state, sent, refused, shared, seat }: PlanBench): void {
  const { never } = plan
  const ids = sent.map(({ clOrdId }) => clOrdId)
  // An id that was refused is free, and the same order may come under it once more.
  const free = [...refused]
  const again = ids.filter((id, i) => ids.indexOf(id) !== i)
  for (const id of again) {
    expect(free).toContain(id)
    free.splice(free.indexOf(id), 1)
  }
  expect(state.entries.OSPRY ?? 0).toBeLessThanOrEqual(never.entriesPerSecurityAndDay!)
  const held = state.held.OSPRY?.quantity ?? 0
  const account = seat.book.holdings.OSPRY?.quantity ?? 0
  // Of what it believes to hold, the account has at least as much, the same way.
  if (held !== 0) expect(Math.sign(held) * account).toBeGreaterThanOrEqual(Math.abs(held))
  // Nothing is kept back that was answered.
  expect(Object.keys(shared.pending)).toEqual([])
}

describe('whatever happens', () => {
  it.each(PLANS)(
    '%s keeps its limits, doubles nothing, and does the same when it is begun again at any moment',
    (id) => {
      const plan = planOf(id)
      let sent = 0
      fc.assert(
        fc.property(fc.array(span, { minLength: 8, maxLength: 60 }), (spans) => {
          const [through, broken] = [live(plan, spans, false), live(plan, spans, true)]
          sent += through.sent.length
          const wants = (bench: PlanBench) =>
            bench.wanted.map((want) =>
              want.is === 'send' ? want.order.clOrdId : `${want.is} ${JSON.stringify(want)}`,
            )
          const plain = (texts: string[]) => texts.map((text) => text.replace(/"version":\d+/, ''))
          expect(plain(wants(broken))).toEqual(plain(wants(through)))
          expect(broken.held).toBe(through.held)
          expect(broken.state.held).toEqual(through.state.held)
          expect(broken.state.entries).toEqual(through.state.entries)
          // Every opening order was within its limit when it was wanted.
          for (const { orderQty, positionEffect } of through.sent)
            if (positionEffect !== 'Close' && plan.never.exposurePerSecurity !== undefined)
              expect(orderQty! * 2).toBeLessThanOrEqual(plan.never.exposurePerSecurity)
        }),
        { numRuns: cases(6) },
      )
      // It was not for want of orders.
      expect(sent).toBeGreaterThan(0)
    },
  )
})
