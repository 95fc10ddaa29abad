import { describe, expect, it } from '@jest/globals'
import { aboveAverage, begun, BEGINS } from '@/tests/aboveAverage'
import { barOf, OPEN, PlanBench } from '@/tests/planBench'
import { emptyBars, SERIES } from '../market/bars'
import { BRACKWATER } from '../market/venue'
import { Plan } from '../plans/document'
import { planProse } from '../plans/say'
import { askCancel, cancel } from '../venue/orders'
import { replace } from '../venue/replace'
import { handKey } from './byHand'
import { evidenceOf } from './evidence'
import { sayNote, sayTrace } from './say'
import { sayWant } from './sayWant'

/** Its stop follows the low of every bar. */
const planOf = (byHand?: Plan['byHand']): Plan =>
  aboveAverage({
    byHand,
    then: {
      exits: { stop: { percent: 5 } },
      moves: [{ when: 'EveryBar', to: { level: 'low' } }],
      leaveIf: 'close < 8',
    },
    never: { entriesPerDay: 9 },
  })
const held = (byHand?: Plan['byHand']): PlanBench => {
  const bench = begun(planOf(byHand))
  expect([bench.held, bench.exits.Stop]).toEqual([100, 9.5])
  return bench
}
const stopOf = ({ seat: { book } }: PlanBench) =>
  Object.values(book.orders).find(({ role }) => role === 'Stop')!
const notes = (bench: PlanBench) => bench.notes.map(sayNote)
/** The condition ends and begins anew. */
const again = (bench: PlanBench, from: number) =>
  [9.5, 9.4, 9.3, 9.8].forEach((close, k) => bench.bar(from + k, close))

describe('where a hand is at it', () => {
  it('closed what it holds, the plan enters no more until it is handed back', () => {
    const bench = held()
    bench.byHand({ orderQty: 100 })
    expect(notes(bench)).toEqual([
      'OSPRY: its 100 were closed (not by this plan). The plan leaves it alone until you hand it back',
    ])
    again(bench, 5)
    expect(bench.sent).toHaveLength(1)
    expect(sayTrace(bench.traces.at(-1)!)).toBe(
      'OSPRY: no order. Do: some of it was closed by hand: it enters no more until you hand it back',
    )
    const key = handKey('OSPRY')
    const entry = bench.state.seen[key]
    expect(entry).toMatchObject({ became: 'Declined', symbol: 'OSPRY' })
    bench.step({ is: 'seen', at: OPEN + 46 * 60_000, book: { [key]: { ...entry, became: 'Seen' } } }, true)
    again(bench, 10)
    expect([bench.sent.length, bench.held]).toEqual([2, 100])
  })

  it('is known again by who begins anew; what the trader has said of it since stands', () => {
    const bench = held()
    bench.byHand({ orderQty: 40 })
    const key = handKey('OSPRY')
    const { [key]: entry } = bench.state.seen
    bench.forget(BEGINS)
    expect(bench.state.seen[key]).toEqual(entry)
    bench.state.seen[key] = { ...entry, became: 'Seen' }
    bench.restart()
    expect(bench.state.seen[key].became).toBe('Seen')
  })

  it('a stop that was moved by hand goes on being moved, or stays there and nothing is done any more', () => {
    const moved = (byHand?: Plan['byHand']) => {
      const bench = held(byHand)
      replace(bench.seat, stopOf(bench), { clOrdId: 'hand-1', stopPx: 9.2 }, OPEN + 26 * 60_000)
      bench.bar(5, 10.5)
      bench.bar(6, 10.8)
      return bench
    }
    const taken = moved('TakeOver')
    expect([taken.exits.Stop, notes(taken)[0]]).toEqual([
      10.7,
      'OSPRY: an order of it was moved by hand; the plan takes your change over; it enters there no more until you hand it back',
    ])
    const still = moved()
    expect([still.exits.Stop, notes(still)[0]]).toEqual([
      9.2,
      'OSPRY: an order of it was moved by hand; the plan leaves it alone until you hand it back',
    ])
    still.tick(42, 9.3)
    still.bar(8, 9.25)
    expect([still.held, still.sent.length]).toEqual([100, 1])
  })

  it('an exit that was canceled by hand is told; what the plan or the broker ends itself is not', () => {
    const bench = held()
    cancel(bench.seat, stopOf(bench).orderId, OPEN + 26 * 60_000)
    bench.bar(5, 10.2)
    expect(notes(bench)).toEqual([
      'OSPRY: an order of it was canceled by hand; the plan leaves it alone until you hand it back. 100 shares have no stop',
    ])
    const alone = held()
    alone.bar(5, 9.4)
    expect([alone.held, notes(alone)]).toEqual([0, []])
  })

  it('an order that the plan itself takes back is not by hand, however late the broker does it', () => {
    const [side] = planOf().sides
    const rests = {
      ...{ open: 'Long', price: { limit: 'close * 0.9', ticks: 0, percent: 0 }, size: { shares: 100 } },
      rests: {},
    }
    const bench = new PlanBench(Plan.parse({ ...planOf(), sides: [{ ...side, do: rests }] }), false)
    BEGINS.forEach((close, k) => bench.bar(k, close))
    bench.answer()
    const [{ orderId }] = Object.values(bench.seat.book.orders)
    bench.bar(5, 9.5)
    expect(bench.wanted.map(({ is }) => is)).toEqual(['send', 'cancel'])
    // The broker says that it will, and then that it has.
    askCancel(bench.seat, orderId, OPEN + 31 * 60_000)
    bench.bar(6, 9.5)
    cancel(bench.seat, orderId, OPEN + 36 * 60_000)
    bench.bar(7, 9.5)
    expect([bench.held, notes(bench), bench.state.seen]).toEqual([0, [], {}])
  })

  it('a try knows what the trader has let, at moments since then', () => {
    const bench = held()
    bench.byHand({ orderQty: 100 })
    const key = handKey('OSPRY')
    const seen = { [key]: { ...bench.state.seen[key], became: 'Seen' as const } }
    const bars = emptyBars(5, { count: 5, unit: 'min' }, BRACKWATER.zone)
    BEGINS.forEach((close, k) => {
      const bar = barOf(k, close)
      ;[bars.time[k], bars.end[k]] = [bar.time, bar.end]
      for (const name of SERIES) bars[name][k] = bar[name]
    })
    const at = OPEN + 26 * 60_000
    const quote = { at, bid: 10, ask: 10, last: 10 }
    const tried = (more: object) =>
      evidenceOf(bench.plan, 0, 'OSPRY', {
        shared: bench.shared,
        reports: bench.reported,
        bars,
        quote,
        at,
        ...more,
      })
    const found = (more: object) => tried(more).findings.find(({ clause }) => clause === 'Do')?.why
    expect([found({}), found({ seen })]).toEqual(['by hand', 'order'])
  })

  it('what was bought besides is taken over where it says so: the rule closes all of it', () => {
    const more = (byHand?: Plan['byHand']) => {
      const bench = held(byHand)
      bench.byHand({ side: 'Buy', orderQty: 50 })
      bench.bar(5, 10.1)
      bench.step(
        {
          is: 'bar',
          at: OPEN + 35 * 60_000,
          symbol: 'OSPRY',
          every: '5 min',
          bar: {
            time: OPEN + 30 * 60_000,
            end: OPEN + 35 * 60_000,
            open: 10,
            high: 10,
            low: 7.9,
            close: 7.9,
            volume: 1,
          },
        },
        true,
      )
      return sayWant(bench.wanted.findLast(({ is }) => is === 'send')!)
    }
    expect(more('TakeOver')).toBe('Sell 150 OSPRY Market, since its rule to leave holds')
    // Left alone, nothing was sent after its entry.
    expect(more()).toBe('Buy 100 OSPRY Market')
  })

  it('a doubled position is noticed, and shares that no stop covers are said', () => {
    const after = (byHand?: Plan['byHand']) => {
      const bench = held(byHand)
      bench.byHand({ side: 'Buy', orderQty: 100 })
      return notes(bench)
    }
    expect(after()).toEqual([
      'OSPRY: more was bought, or sold short, by hand; the plan leaves it alone until you hand it back',
    ])
    expect(after('TakeOver')).toEqual([
      'OSPRY: more was bought, or sold short, by hand; the plan takes your change over; it enters there no more until you hand it back. 100 shares have no stop',
    ])
  })

  it('a plan that gives a security up withdraws its own stop and target, and nothing else', () => {
    const bench = held('LetGo')
    bench.byHand({ side: 'Buy', orderQty: 50 })
    expect(notes(bench)).toEqual([
      'OSPRY: more was bought, or sold short, by hand; the plan gives it up, and withdraws its own stop and target',
    ])
    expect([bench.held, bench.exits.Stop, bench.state.held.OSPRY.quantity]).toEqual([150, undefined, 0])
    bench.bar(5, 7.9)
    expect(bench.held).toBe(150)
    // Begun anew it knows the same from the broker's reports.
    bench.forget(BEGINS)
    expect(bench.state.held.OSPRY.quantity).toBe(0)
  })

  it('is read aloud where it says otherwise', () => {
    const texts = (byHand?: Plan['byHand']) => planProse(planOf(byHand)).map(({ text }) => text)
    expect(texts('StandStill').at(-2)).toContain('leaves that security alone until you hand it back')
    expect(texts()).toHaveLength(7)
  })
})
