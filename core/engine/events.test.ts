import { readFileSync } from 'node:fs'
import { describe, expect, it } from '@jest/globals'
import { OPEN, PlanBench, type Prices } from '@/tests/planBench'
import { Plan } from '../plans/document'
import { scoreVerdict } from '../plans/score'
import { blockedBy, SeenRule } from '../plans/seen'
import { handKey } from './byHand'
import { sayNote, sayTrace } from './say'

const MINUTE = 60_000
const example = (change: (plan: Plan) => void = () => undefined) => {
  const plan = Plan.parse(JSON.parse(readFileSync('plans/first-announcement.json', 'utf8')))
  change(plan)
  return new PlanBench(plan)
}
/** Days that rise, and a morning in which much is traded: two lines of the card are known to give two points each. */
const ready = (bench: PlanBench) => {
  for (let day = 28; day > 2; day--)
    // Four weeks without their weekends.
    if (day % 7 !== 1 && day % 7 !== 2) {
      const close = 10 - day / 20
      bench.before(day, Array<Prices>(78).fill([close, close + 0.1, close - 0.1, close, 1000]))
    }
  for (const [k, close] of [10, 10, 10].entries()) bench.bar(k, close)
  bench.bar(3, [10, 10.3, 10, 10.3, 4000])
  return bench
}
const event = (bench: PlanBench, minute: number, key = 'a') => {
  bench.tick(minute, 10.3)
  bench.step({ is: 'dated', at: OPEN + minute * MINUTE, key, symbol: 'OSPRY', text: 'a contract' }, true)
}
const points = (bench: PlanBench, minute: number, line: string, many: number, key = 'a') => {
  bench.tick(minute, 10.3)
  bench.step({ is: 'points', at: OPEN + minute * MINUTE, key, line, points: many }, true)
  bench.answer()
}
const asked = ({ wanted }: PlanBench) => wanted.filter(({ is }) => is === 'ask')
const last = ({ traces }: PlanBench) => sayTrace(traces.at(-1)!)

describe('an event with a score card', () => {
  it('waits for points, asks the trader, and is sent once that is approved', () => {
    const bench = ready(example((plan) => (plan.sides[0].score!.least = 6)))
    event(bench, 21)
    expect(last(bench)).toContain('cannot tell. Provided: score ')
    expect(bench.wanted).toEqual([])
    points(bench, 22, 'my reading', 1)
    expect(asked(bench)).toEqual([])
    points(bench, 23, 'size of the contract', 3)
    const [ask] = asked(bench)
    expect(ask).toMatchObject({ order: { side: 'Buy', orderQty: 485 }, until: OPEN + 33 * MINUTE })
    expect(bench.sent).toEqual([])
    expect(bench.state.seen.a.became).toBe('Seen')
    bench.tick(24, 10.4)
    const clOrdId = ask.is === 'ask' ? ask.order.clOrdId : ''
    bench.step({ is: 'answer', at: OPEN + 24 * MINUTE, clOrdId, yes: true }, true)
    // Priced and sized anew: 5,000 at 10.40.
    expect(bench.sent).toMatchObject([{ orderQty: 480, clOrdId }])
    expect(bench.state.seen.a.became).toBe('Ordered')
    bench.answer()
    expect(bench.state.seen.a.became).toBe('Filled')
    // The same event once more is nothing new; neither is the answer.
    event(bench, 26)
    expect(last(bench)).toContain('it was filled before')
    bench.step({ is: 'answer', at: OPEN + 26 * MINUTE, clOrdId, yes: true }, true)
    expect(bench.sent).toHaveLength(1)
  })

  it('is not passed by what nobody has told in time', () => {
    const bench = ready(example((plan) => (plan.sides[0].score!.least = 6)))
    event(bench, 21)
    bench.tick(41, 10.3)
    bench.step({ is: 'time', at: OPEN + 41 * MINUTE }, true)
    expect(bench.state.candidates).toEqual({})
    expect(bench.state.seen.a.became).toBe('Declined')
    points(bench, 42, 'my reading', 3)
    points(bench, 42, 'size of the contract', 3)
    expect(bench.wanted).toEqual([])
  })

  it('declined, or not answered in time, it is not sent, and that is remembered', () => {
    for (const how of ['declined', 'late'] as const) {
      const bench = ready(example((plan) => (plan.sides[0].score!.least = 4)))
      event(bench, 21)
      const [ask] = asked(bench)
      const clOrdId = ask.is === 'ask' ? ask.order.clOrdId : ''
      bench.tick(33, 10.3)
      if (how === 'declined') bench.step({ is: 'answer', at: OPEN + 22 * MINUTE, clOrdId, yes: false }, true)
      else bench.step({ is: 'time', at: OPEN + 33 * MINUTE }, true)
      expect(bench.sent).toEqual([])
      expect(bench.notes.map(sayNote)).toEqual([
        `OSPRY: ${how === 'declined' ? 'declined by hand' : 'nobody answered in time, nothing was sent'}`,
      ])
      expect(bench.state.seen.a.became).toBe('Declined')
    }
  })

  it('what it has seen is known again after a restart, also to another version', () => {
    const bench = ready(example((plan) => (plan.sides[0].score!.least = 4)))
    event(bench, 21)
    bench.restart({ ...bench.plan, version: 2 })
    event(bench, 22)
    expect(last(bench)).toContain('it was seen before')
    expect(asked(bench)).toHaveLength(1)
  })
})

it('an event is its whole key: two that begin alike are two, and both sides look at each', () => {
  const bench = example((plan) => {
    const [side] = plan.sides
    const long = { ...side, score: undefined, ask: undefined }
    plan.sides = [
      { ...long, if: { ...side.if, rule: 'close < 1' } },
      { ...long, do: { ...side.do, open: 'Short' } as typeof side.do },
    ]
    plan.never.entriesPerSecurityAndDay = 2
  })
  ready(bench)
  const alike = 'harbour-contract-awards-of-the-year-'
  event(bench, 21, `${alike}1`)
  bench.answer()
  // The first side does not hold; the second is not kept from it by what the first has noted.
  expect(bench.sent.map(({ side }) => side)).toEqual(['SellShort'])
  bench.byHand({ side: 'Buy', orderQty: bench.sent[0].orderQty })
  // A hand was at it: the trader lets it enter again.
  delete bench.state.seen[handKey('OSPRY')]
  event(bench, 22, `${alike}2`)
  expect(bench.sent).toHaveLength(2)
  expect(bench.sent[0].clOrdId).not.toBe(bench.sent[1].clOrdId)
  for (const { origin } of bench.sent) expect(origin!.signal!.length).toBeLessThanOrEqual(80)
})

it('a view of the day is asked for, of that day, and holds only where it goes that way', () => {
  const at = (say?: 'Up' | 'Down', date = '2026-05-04') => {
    const bench = example((plan) => {
      plan.sides[0] = { ...plan.sides[0], score: undefined, ask: undefined, view: 'Up' }
    })
    ready(bench)
    if (say) bench.step({ is: 'view', at: OPEN, view: { date, view: say, at: OPEN } }, true)
    bench.restart()
    event(bench, 21)
    return bench
  }
  expect(last(at())).toContain('cannot tell. Provided: your view of the day: you have not said')
  expect(last(at('Down'))).toContain('no order. Provided: your view of the day: down, up is wanted')
  expect(last(at('Up', '2026-05-01'))).toContain('you have not said')
  expect(at('Up').sent).toHaveLength(1)
})

it('a sum is known once what is missing can change nothing', () => {
  const line = (points: number) => ({ name: 'one', points, from: 'Outside' as const })
  const of = (least: number, told: readonly (number | undefined)[], most: readonly number[]) =>
    scoreVerdict(
      { lines: most.map(line), least, waits: 0 },
      told.map((points) => ({ name: 'one', points })),
    ).verdict
  expect(of(5, [3, undefined], [3, 2])).toBe('unknown')
  expect(of(6, [3, undefined], [3, 2])).toBe('fails')
  expect(of(3, [3, undefined], [3, 2])).toBe('holds')
  expect(of(3, [3, undefined], [3, -2])).toBe('unknown')
  expect(of(1, [3, undefined], [3, -2])).toBe('holds')
})

it('a seen book blocks by event or by security, what it says, and for as long as it says', () => {
  const [day, now] = [86_400_000, 1_000 * 86_400_000]
  const book = { a: { symbol: 'OSPRY', at: now - 3 * day, became: 'Declined' as const } }
  const of = (rule: object, key: string) =>
    blockedBy(SeenRule.parse(rule), book, { key, symbol: 'OSPRY', at: now })
  expect(of({}, 'a')).toBe(book.a)
  expect(of({}, 'b')).toBeUndefined()
  expect(of({ blocks: ['Ordered'] }, 'a')).toBeUndefined()
  expect(of({ days: 2 }, 'a')).toBeUndefined()
  expect(of({ days: 4 }, 'a')).toBe(book.a)
  const bySymbol = { OSPRY: book.a }
  expect(blockedBy(SeenRule.parse({ by: 'Symbol' }), bySymbol, { key: 'z', symbol: 'OSPRY', at: now })).toBe(
    book.a,
  )
})
