import { readFileSync } from 'node:fs'
import { describe, expect, it } from '@jest/globals'
import { PlanBench, type Prices } from '@/tests/planBench'
import { Plan } from '../plans/document'
import { bound } from '../plans/inputs'
import { sayTrace } from './say'

/** What the worked examples send, on bars and quotes of which every figure can be reckoned by hand. */
const benchOf = (id: string): PlanBench =>
  new PlanBench(bound(Plan.parse(JSON.parse(readFileSync(`plans/${id}.json`, 'utf8')))))
const run = (bench: PlanBench, bars: readonly Prices[], from = 0) =>
  bars.forEach((prices, k) => bench.bar(from + k, prices))
const told = ({ sent }: PlanBench) =>
  sent.map(({ side, orderQty, ordType }) => `${side} ${orderQty} ${ordType}`)
/** The same session turned over about a price. */
const mirrored = (bars: readonly Prices[], about: number): Prices[] =>
  bars.map((prices) => {
    if (typeof prices === 'number') return 2 * about - prices
    const [open, high, low, close] = prices.map((one) => Number((2 * about - one!).toFixed(4)))
    return [open, low, high, close]
  })

const FRIDAY: Prices[] = [[10, 10.2, 9.8, 10]]
/** Gaps up; its first quarter of an hour reaches from 10.40 to 10.80; the fifth bar breaks out of it. */
const GAP: Prices[] = [
  [10.5, 10.6, 10.4, 10.5],
  [10.5, 10.7, 10.4, 10.6],
  [10.6, 10.8, 10.5, 10.7],
  [10.7, 10.8, 10.7, 10.75],
  [10.75, 10.95, 10.7, 10.9],
]

describe('at the open', () => {
  it('first quarter of an hour: the first break after a gap, stop in the middle, target the height away', () => {
    const bench = benchOf('first-quarter')
    bench.before(3, FRIDAY)
    run(bench, GAP)
    // 10 % of 50,000 at 10.90; the middle of 10.40 and 10.80; 0.40 above the fill.
    expect(told(bench)).toEqual(['Buy 458 Market'])
    expect(bench.exits).toEqual({ Stop: 10.6, Target: 11.3 })
    // Stopped; what breaks out once more is not the first.
    run(bench, [10.5, 10.7, 10.95, 11], 5)
    expect([bench.held, bench.sent.length]).toEqual([0, 1])
  })

  it('downward it sells short; without a gap it does neither', () => {
    const bench = benchOf('first-quarter')
    bench.before(3, mirrored(FRIDAY, 10))
    run(bench, mirrored(GAP, 10))
    expect(told(bench)).toEqual(['SellShort 549 Market'])
    expect(bench.exits).toEqual({ Stop: 9.4, Target: 8.7 })
    const still = benchOf('first-quarter')
    still.before(3, [[10, 10.9, 9.8, 10]])
    run(still, GAP)
    expect(still.sent).toEqual([])
  })

  it('is out at its time, and enters no more after another', () => {
    const bench = benchOf('first-quarter')
    bench.before(3, FRIDAY)
    run(bench, GAP)
    // The bar that ends at 15:35 is the 73rd.
    bench.bar(71, 10.9)
    expect(bench.held).toBe(458)
    bench.bar(72, 10.9)
    expect(told(bench).at(-1)).toBe('Sell 458 Market')
    const late = benchOf('first-quarter')
    late.before(3, FRIDAY)
    run(late, GAP.slice(0, 4))
    late.bar(30, 10.9)
    expect(late.sent).toEqual([])
    expect(sayTrace(late.traces.at(-1)!)).toContain('too late: it enters until 11:40')
  })

  it('resting at the edge: the order waits two ticks over it, follows nothing that stands, and is taken back at noon', () => {
    const bench = benchOf('resting-at-the-edge')
    bench.before(3, FRIDAY)
    run(bench, [...GAP.slice(0, 4), 10.7, 10.7])
    // The range of half an hour reaches from 10.40 to 10.80: middle 10.60; 0.3 % of 50,000 over 0.22 a share.
    expect(told(bench)).toEqual(['Buy 681 Stop'])
    expect(bench.sent[0]).toMatchObject({ stopPx: 10.82, exits: { stop: { price: 10.6 } } })
    bench.bar(7, 10.75)
    expect([bench.held, bench.wanted.length]).toEqual([0, 1])
    // 12:00 ends the 30th bar.
    bench.bar(29, 10.7)
    expect(bench.wanted.at(-1)).toMatchObject({ is: 'cancel' })
    bench.bar(31, 10.9)
    expect(bench.held).toBe(0)
    expect(bench.state.entries.OSPRY).toBe(0)
  })

  it('resting at the edge: it is filled by the price that comes to it', () => {
    const bench = benchOf('resting-at-the-edge')
    bench.before(3, FRIDAY)
    run(bench, [...GAP.slice(0, 4), 10.7, 10.7])
    bench.tick(37, 10.85)
    expect(bench.held).toBe(681)
    expect(bench.exits.Stop).toBe(10.6)
    expect(bench.exits.Target).toBeCloseTo(10.85 * 1.018, 2)
  })

  it('out of yesterday’s range: the break of its edge either way, the stop in the middle of the first bar', () => {
    const bench = benchOf('out-of-yesterday')
    bench.before(3, FRIDAY)
    run(bench, [[10, 10.1, 9.9, 10], 10.1, 10.3])
    expect(told(bench)).toEqual(['Buy 582 Market'])
    expect(bench.exits).toEqual({ Stop: 10, Target: 10.61 })
    const down = benchOf('out-of-yesterday')
    down.before(3, FRIDAY)
    run(down, [[10, 10.1, 9.9, 10], 9.9, 9.7])
    expect(told(down)).toEqual(['SellShort 618 Market'])
    expect(down.exits).toEqual({ Stop: 10, Target: 9.41 })
  })

  it('yesterday as the stop: on a day on which it lies on the wrong side, 2 % holds', () => {
    const first: Prices[] = [10, 10.05, 10.1, 10.05, 10, 10]
    const bench = benchOf('yesterday-as-the-stop')
    bench.before(3, FRIDAY)
    run(bench, [...first, 10.3])
    expect(bench.exits.Stop).toBe(9.8)
    const gap = benchOf('yesterday-as-the-stop')
    gap.before(3, [[12, 12.2, 11.8, 12]])
    run(gap, [...first, 10.3])
    // 11.80 lies above 10.30: 2 % below the fill instead.
    expect(told(gap)).toEqual(['Buy 582 Market'])
    expect(gap.exits.Stop).toBe(10.09)
  })
})

describe('through the day', () => {
  /** Falls for an hour, so that the measure of nine bars lies below its middle. */
  const FALLS: Prices[] = [10.2, 10.18, 10.15, 10.12, 10.1, 10.07, 10.05, 10.02, 10, 9.97, 9.95, 9.93]

  it('through the middle: looked at once a minute on the bar that grows, stop and target in percent', () => {
    const bench = benchOf('through-the-middle')
    run(bench, FALLS)
    bench.tick(60.2, 10.4)
    bench.tick(60.7, 10.5)
    // The first of the two came within a minute of the bar; so did the second.
    expect(bench.sent).toEqual([])
    bench.tick(61.1, 10.4)
    expect(told(bench)).toEqual(['Buy 480 Market'])
    // 0.9 % below and 1.7 % above 10.40, on a tick.
    expect(bench.exits).toEqual({ Stop: 10.31, Target: 10.58 })
  })

  it('through the middle, in ticks: a limit one tick over the ask, stop and target in ticks', () => {
    const bench = benchOf('middle-in-ticks')
    run(bench, [...FALLS, 10.4])
    expect(bench.sent[0]).toMatchObject({ ordType: 'Limit', price: 10.41 })
    expect(bench.exits).toEqual({ Stop: 10.04, Target: 11.04 })
  })

  it('much is traded: sized by the distance of its stop, left by its rule', () => {
    const bench = benchOf('much-is-traded')
    // Ten sessions and weekends between, of 1,000 in each bar.
    for (let days = 15; days > 2; days--)
      if (![1, 2, 8, 9].includes(days)) bench.before(days, Array<Prices>(12).fill(10))
    run(bench, [10, 10, 10, 10, [10, 10.3, 10, 10.3, 5000]])
    // 9,000 against 5,000 by then. The average range is (13 x 0.20 + 0.30) / 14; 0.3 % of 50,000 over 1.5 of that.
    expect(told(bench)).toEqual(['Buy 482 Market'])
    expect(bench.exits).toEqual({ Stop: 9.99, Target: 10.92 })
    // Filled as the fifth bar ended: the sixth is its bar 0.
    run(bench, [10.02, 10.02, 10.02], 5)
    expect(bench.held).toBe(482)
    bench.bar(8, 10.02)
    expect(told(bench).at(-1)).toBe('Sell 482 Market')
    expect(bench.held).toBe(0)
  })
})

describe('inside a bar', () => {
  const QUIET: Prices[] = Array.from({ length: 8 }, () => [10, 10.1, 9.9, 10] as const)

  it('low so far: the stop stands at the low of the bar at the moment of the entry', () => {
    const bench = benchOf('low-so-far')
    run(bench, QUIET)
    bench.tick(40.5, 9.95)
    bench.tick(41, 10.2)
    expect(told(bench)).toEqual(['Buy 490 Market'])
    // The low of the bar so far is 9.95: 0.25 a share, and twice that above.
    expect(bench.exits).toEqual({ Stop: 9.95, Target: 10.7 })
    bench.tick(42, 10.1)
    bench.tick(43, 10.25)
    expect(bench.sent).toHaveLength(1)
  })

  it('low of the entry bar: an interim stop until it is complete, then its low; later the price of the fill', () => {
    const bench = benchOf('low-of-the-bar')
    run(bench, QUIET)
    bench.tick(41, 10.2)
    // 1.6 % below 10.20.
    expect(bench.exits.Stop).toBe(10.04)
    bench.tick(43, 10.12)
    bench.bar(8, [10, 10.25, 10.08, 10.2])
    expect(bench.exits.Stop).toBe(10.08)
    // A later bar with another low moves nothing.
    bench.bar(9, [10.2, 10.25, 10.15, 10.2])
    expect(bench.exits.Stop).toBe(10.08)
    // 1.1 % is 0.1122: at 10.32 it has gained that.
    bench.tick(51, 10.31)
    expect(bench.exits.Stop).toBe(10.08)
    bench.tick(52, 10.32)
    expect(bench.exits.Stop).toBe(10.2)
    bench.tick(53, 10.2)
    expect(bench.held).toBe(0)
  })

  it('twice as many upward: counted within the bar', () => {
    const bench = benchOf('twice-as-many-buyers')
    run(bench, [...QUIET, ...QUIET])
    bench.tick(16.2, 10.1, { uptrades: 14, downtrades: 6 })
    expect(bench.sent).toEqual([])
    bench.tick(16.4, 10.12, { uptrades: 6, downtrades: 3 })
    // 20 upward, 9 downward.
    expect(told(bench)).toEqual(['Buy 395 Market'])
    bench.tick(16.6, 10.12, { uptrades: 3, downtrades: 10 })
    expect(bench.sent).toHaveLength(1)
  })
})

describe('on a list', () => {
  const LEVEL: Prices[] = Array.from({ length: 20 }, (_, k) => 10 + (k % 2) / 10)

  it('one buys the low end; the other closes what is held at the high end, and the first says whose exit it was', () => {
    const low = benchOf('low-end')
    run(low, [...LEVEL, 9.6])
    expect(told(low)).toEqual(['Buy 520 Market'])
    const high = benchOf('high-end')
    run(high, LEVEL)
    high.byHand({ side: 'Buy', orderQty: 300 })
    expect(high.sent).toEqual([])
    high.bar(20, 10.5)
    expect(told(high)).toEqual(['Sell 300 Limit'])
    expect(high.sent[0].price).toBe(10.49)
    expect(high.held).toBe(0)
    // The order says which plan it is of.
    low.byHand({ side: 'Sell', orderQty: 520, origin: high.sent[0].origin })
    expect(low.notes).toEqual([{ symbol: 'OSPRY', why: 'let go', before: 520, left: 0, by: 'The high end' }])
    expect(low.state.held.OSPRY.quantity).toBe(0)
  })

  it('the state lasts: what kept it from an order may pass', () => {
    const bench = benchOf('high-end')
    run(bench, LEVEL)
    bench.byHand({ side: 'Buy', orderQty: 300 })
    // Widely quoted when it begins, and narrower a while later.
    bench.wide = 0.2
    bench.bar(20, 10.5)
    expect(sayTrace(bench.traces.at(-1)!)).toContain('widest spread')
    bench.wide = 0
    bench.tick(20 * 15 + 21, 10.5)
    expect(told(bench)).toEqual(['Sell 300 Limit'])
  })
})

describe('left running', () => {
  /** Two that move together, the second at twice the price of the first, and then the first falls behind. */
  const pair = (change: (plan: Plan) => void = () => undefined) => {
    const plan = Plan.parse(JSON.parse(readFileSync('plans/two-of-a-kind.json', 'utf8')))
    change(plan)
    const bench = new PlanBench(plan, true, ['OSPRY', 'GANET'])
    const both = (k: number, first: number, second: number) => {
      bench.bar(k, second, true, 'GANET')
      bench.bar(k, first)
    }
    // 26 bars of a quarter of an hour in a session; of the last three there are 64.
    for (let k = 0; k < 64; k++) {
      const days = [5, 4, 3][Math.floor(k / 26)]
      bench.before(days, [20 + (k % 4) / 5], 'GANET', k % 26)
      bench.before(days, [10 + (k % 4) / 10 + (k % 3) / 100], 'OSPRY', k % 26)
    }
    return { bench, both }
  }
  const sides = ({ sent }: PlanBench) => sent.map(({ side, symbol }) => `${side} ${symbol}`)

  it('two of a kind: both are sent together in their ratio, and left together', () => {
    const { bench, both } = pair()
    expect(bench.sent).toEqual([])
    both(0, 9.7, 20)
    expect(sides(bench)).toEqual(['Buy OSPRY', 'SellShort GANET'])
    const [first, second] = bench.sent
    expect(first.orderQty).toBe(Math.floor(4000 / 9.7))
    // By least squares half a share of the second moves as one of the first, a little less with the last bar.
    expect(second.orderQty! / first.orderQty!).toBeCloseTo(0.5, 1)
    expect(first.clOrdId).not.toBe(second.clOrdId)
    expect([bench.held, bench.heldOf('GANET')]).toEqual([first.orderQty, -second.orderQty!])
    expect(bench.state.entries).toEqual({ OSPRY: 1 })
    both(1, 10.1, 20.2)
    expect(sides(bench).slice(2)).toEqual(['Buy GANET', 'Sell OSPRY'])
    expect([bench.held, bench.heldOf('GANET')]).toEqual([0, 0])
  })

  it('one leg that is refused leaves nothing of the other', () => {
    const { bench, both } = pair()
    bench.refuses = 'GANET'
    both(0, 9.7, 20)
    expect(sides(bench)).toEqual(['Buy OSPRY', 'SellShort GANET', 'Sell OSPRY'])
    expect([bench.held, bench.heldOf('GANET')]).toEqual([0, 0])
  })

  it('a pair is left at a gain or a loss in percent of what both were worth', () => {
    const { bench, both } = pair(({ sides }) =>
      sides.forEach(({ then }) => {
        then.net = { gain: 1.5, loss: 50 }
        delete then.leaveIf
      }),
    )
    both(0, 9.7, 20)
    const [first, second] = bench.sent
    // Both are worth about 3,996 and 3,980: 9.80 is a gain of 0.5 % of that, and 10.05 of 1.8 %.
    const gained = (last: number) =>
      (100 * (last - 9.7) * first.orderQty!) / (9.7 * first.orderQty! + 20 * second.orderQty!)
    expect([gained(9.8) < 1.5, gained(10.05) > 1.5]).toEqual([true, true])
    both(1, 9.8, 20)
    expect(bench.sent).toHaveLength(2)
    both(2, 10.05, 20)
    expect([bench.held, bench.heldOf('GANET')]).toEqual([0, 0])
  })

  it('a pair is added to, both legs together, up to so much of the first', () => {
    const { bench, both } = pair(({ sides, never }) => {
      never.entriesPerSecurityAndDay = never.entriesPerDay = 9
      never.exposure = 90_000
      sides.forEach(({ do: deed, then }) => {
        if (!('open' in deed)) return
        deed.adds = { most: 5, after: 'Signal', stops: 'Own', upTo: { money: 6_000 } }
        delete then.leaveIf
      })
    })
    both(0, 9.7, 20)
    both(1, 10, 20)
    both(2, 9.5, 20)
    expect(sides(bench)).toEqual(['Buy OSPRY', 'SellShort GANET', 'Buy OSPRY', 'SellShort GANET'])
    const [first, , more, mate] = bench.sent
    // 6,000 less 412 at 9.50: 2,086, which are 219 shares.
    expect([first.orderQty, more.orderQty]).toEqual([412, 219])
    // The ratio is that of the moment, by least squares over bars of which the last moved much.
    expect(Math.abs(mate.orderQty! / more.orderQty! - 0.5)).toBeLessThan(0.1)
    expect(bench.held).toBe(631)
  })

  it('a leg that was refused is remembered for the session: the pair is not tried again', () => {
    const { bench, both } = pair()
    bench.refuses = 'GANET'
    both(0, 9.7, 20)
    both(1, 10.1, 20.2)
    both(2, 9.7, 20)
    expect(sides(bench)).toEqual(['Buy OSPRY', 'SellShort GANET', 'Sell OSPRY'])
    expect(bench.traces.map(sayTrace)).toContain(
      'OSPRY: no order. Do: refused today: of GANET, the other leg: the broker refused it. The pair is tried again in the next session',
    )
  })

  it('the other leg has its entries a day too: one that a hand has entered is not entered again', () => {
    const { bench, both } = pair(({ never }) => {
      never.entriesPerSecurityAndDay = 1
    })
    bench.bar(0, 10)
    bench.byHand({ symbol: 'GANET', side: 'SellShort', orderQty: 1 })
    both(1, 9.7, 20)
    expect(bench.sent).toEqual([])
    expect(bench.traces.map(sayTrace)).toContain(
      'OSPRY: no order. Never: entries of the security today: 2, at most 1',
    )
  })

  it('whichever bar of the two comes first, and after a restart, it does the same', () => {
    const { bench } = pair()
    bench.bar(0, 9.7)
    expect(bench.sent).toEqual([])
    bench.restart()
    bench.bar(0, 20, true, 'GANET')
    expect(sides(bench)).toEqual(['Buy OSPRY', 'SellShort GANET'])
    bench.restart()
    expect(bench.state.held.GANET.quantity).toBeLessThan(0)
    bench.bar(1, 20.2, true, 'GANET')
    bench.bar(1, 10.1)
    expect([bench.held, bench.heldOf('GANET')]).toEqual([0, 0])
  })
})

describe('at a line', () => {
  it('at the shelf: once, when the price comes through the level wherever it lies', () => {
    const at = (price: number) => {
      const plan = Plan.parse(JSON.parse(readFileSync('plans/at-the-shelf.json', 'utf8')))
      plan.drawings!.OSPRY = [{ ...plan.drawings!.OSPRY[0], price } as never]
      const bench = new PlanBench(plan)
      run(bench, [10, 10])
      for (const [i, last] of [10.1, 10.3, 10.1, 10.4].entries()) bench.tick(11 + i / 2, last)
      return bench
    }
    expect(told(at(10.25))).toEqual(['Buy 485 Market'])
    // A hundredth under the level, 10.1475, on a tick.
    expect(at(10.25).sent[0].exits).toMatchObject({ stop: { price: 10.15 } })
    expect(told(at(10.35))).toEqual(['Buy 480 Market'])
    expect(told(at(10.5))).toEqual([])
  })
})

describe('each morning', () => {
  it('what is bought is held three sessions, and closed at the time of the last', () => {
    const bench = benchOf('each-morning')
    bench.bar(0, 10)
    bench.bar(1, [10, 10.3, 10, 10.3])
    expect(told(bench)).toEqual(['Buy 388 Market'])
    const DAY = 96
    // 15:45 ends the 25th bar of a session.
    for (const day of [0, 1]) {
      bench.bar(day * DAY + 24, 10.3)
      expect(bench.held).toBe(388)
    }
    bench.bar(2 * DAY + 23, 10.3)
    expect(bench.held).toBe(388)
    bench.bar(2 * DAY + 24, 10.3)
    expect(bench.held).toBe(0)
  })
})
