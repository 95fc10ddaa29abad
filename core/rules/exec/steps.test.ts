import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { barsOf, gappyPrices } from '@/tests/bars'
import { condition, value } from '@/tests/rules'
import { type Bars, emptyBars, sliceBars } from '../../market/bars'
import { type Timeframe } from '../../market/timeframe'
import { BRACKWATER, sessionsBetween } from '../../market/venue'
import {
  barAt,
  barSource,
  checkMeasure,
  checkRule,
  checkTree,
  ColumnMachine,
  compile,
  type LiveBar,
  type Node,
  StepMachine,
  verdictOf,
} from '..'
import { type Snapshot } from './steps'

const DAILY: Timeframe = { count: 1, unit: 'day' }

/** The same bars with the last one still growing: at another price, open at its end. */
function growing(bars: Bars, close: number): Bars {
  const out = sliceBars(bars, 0, bars.time.length)
  const last = bars.time.length - 1
  for (const name of ['end', 'high', 'low', 'close'] as const) out[name] = out[name].slice()
  out.end[last] = Infinity
  out.close[last] = close
  out.high[last] = Math.max(out.high[last], close)
  out.low[last] = Math.min(out.low[last], close)
  return out
}

/** What the columns say at the last of some bars, with others of TWIN beside them. */
function atLast(tree: Node, bars: Bars, twin: Bars | undefined): number | string {
  const graph = compile([tree], bars.every)
  const machine = new ColumnMachine(graph)
  const other = twin && barSource(twin)
  const beside = (symbol: string) =>
    other && symbol === 'TWIN' ? { ...other, beside: () => other } : undefined
  machine.run(barSource(bars, [], { beside }))
  const [result] = graph.results
  const last = bars.time.length - 1
  return graph.values[result].holds === 'verdicts'
    ? verdictOf(machine.verdicts[result][last])
    : machine.numbers[result][last]
}

function expectSame(got: number | string, wanted: number | string, where: string): void {
  const alike =
    typeof got === 'number' && typeof wanted === 'number'
      ? Number.isNaN(wanted)
        ? Number.isNaN(got)
        : got + 0 === wanted + 0
      : got === wanted
  if (!alike) throw new Error(`${where}: ${got} where the columns say ${wanted}`)
}

/** Feeds bars one by one, each as a tick of the growing bar first, and compares with the columns each time. */
function follow(tree: Node, bars: Bars, twin?: Bars, from = 0, stop = bars.time.length >> 1): void {
  const yesNo = checkTree(tree, bars.every, 'yes/no').type !== undefined
  const started = () => StepMachine.of([tree], bars.every, { zone: bars.zone })
  let live = started()
  const told = () => (yesNo ? verdictOf(live.value(0)) : live.value(0))
  /** A tick, which must leave nothing behind. */
  const tryTick = (bar: LiveBar, beside?: string) => {
    const before = live.slots.slice()
    live.feed(bar, false, beside)
    const changed = live.slots.findIndex((x, i) => !Object.is(x, before[i]))
    if (changed >= 0) throw new Error(`A tick left ${live.slots[changed]} in slot ${changed}`)
  }
  let fed = 0
  for (let i = 0; i < bars.time.length; i++) {
    const sofar = sliceBars(bars, 0, i + 1)
    const beside = twin && sliceBars(twin, 0, [...twin.time].filter((t) => t <= bars.time[i]).length)
    const twinGrows = beside && beside.time.length > fed
    const off = ((i * 7) % 5) - 2
    const tick = growing(sofar, bars.close[i] + off)
    const twinTick = twinGrows ? growing(beside, beside.close[fed] - off) : beside
    if (i === stop) {
      // Saved, and put back into a machine that has seen nothing; then on as if nothing had been.
      const saved = JSON.parse(JSON.stringify(live.save())) as Snapshot
      const now = told()
      live = started()
      if (!live.restore(saved)) throw new Error('What was saved was not taken back')
      expectSame(told(), now, `put back before bar ${i}`)
    }
    if (twinGrows) tryTick(barAt(twinTick!, fed), 'TWIN')
    tryTick(barAt(tick, i))
    if (i >= from) expectSame(told(), atLast(tree, tick, twinTick), `tick of bar ${i}`)
    if (twinGrows) live.feed(barAt(beside, fed++), true, 'TWIN')
    live.feed(barAt(sofar, i), true)
    if (i >= from) expectSame(told(), atLast(tree, sofar, beside), `bar ${i}`)
  }
}

function rowsOf(bars: Bars, keep: (row: number) => boolean): Bars {
  const kept = Array.from(bars.time.keys()).filter(keep)
  const out = { ...bars }
  for (const name of ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const)
    out[name] = Float64Array.from(kept, (i) => bars[name][i])
  return out
}

/** Bars of weekdays: the first is a Monday. On weekends a week that was complete would go on. */
const weekdays = (closes: readonly number[]): Bars => rowsOf(barsOf(closes), (i) => i % 7 < 5)

/** TWIN moves the other way, and misses some days. */
const twinOf = (closes: readonly number[]): Bars =>
  rowsOf(barsOf(closes.map((x) => 30 - x)), (i) => i % 7 < 5 && i % 5 !== 3)

const alone = (text: string) => StepMachine.of([checkRule(text).tree!], DAILY, { zone: 'UTC' })

describe('rules followed bar by bar and tick by tick say what the columns say', () => {
  it('over random rules', () => {
    fc.assert(
      fc.property(condition, gappyPrices(26), fc.nat(25), (tree, closes, stop) => {
        fc.pre(checkTree(tree, DAILY, 'yes/no').type !== undefined)
        follow(tree, weekdays(closes), twinOf(closes), 0, stop)
      }),
      { numRuns: cases(125) },
    )
  })

  it('over random measures', () => {
    fc.assert(
      fc.property(value, gappyPrices(26), fc.nat(25), (tree, closes, stop) => {
        fc.pre(checkTree(tree, DAILY, 'number').type !== undefined)
        follow(tree, weekdays(closes), twinOf(closes), 0, stop)
      }),
      { numRuns: cases(125) },
    )
  })
})

/** Half-hour bars over some sessions, one of them an early close, with prices that wander. */
function halfHours(from: string, to: string, seed: number): Bars {
  const step = 30 * 60_000
  const starts = sessionsBetween(BRACKWATER, from, to).flatMap(({ open, close }) =>
    Array.from({ length: (close - open) / step }, (_, k) => open + k * step),
  )
  const bars = emptyBars(starts.length, { count: 30, unit: 'min' }, BRACKWATER.zone)
  for (const [i, time] of starts.entries()) {
    bars.time[i] = time
    bars.end[i] = time + step
    bars.open[i] = 20 + 4 * Math.sin((i - 1) / 3 + seed) + Math.cos(i * seed)
    bars.close[i] = 20 + 4 * Math.sin(i / 3 + seed) + Math.cos((i + 1) * seed)
    bars.high[i] = Math.max(bars.open[i], bars.close[i]) + 0.2
    bars.low[i] = Math.min(bars.open[i], bars.close[i]) - 0.2
    bars.volume[i] = 1_000 + ((i * 37) % 400)
  }
  return bars
}

describe('within the session', () => {
  const RULES = [
    'close > on(1 day, sma(close, 2))',
    'on(1 hour, close) crosses above on(2 hours, sma(close, 2))',
    'on(1 week, close > open)',
    'earlier(high, 1 day) < close',
    'close > opening(60 min).high and time between 10:30 and 15:00',
    'recently(close crosses above vwap, 3 bars)',
    'gap up or gap down',
    'close > prior.high',
    'first(close crosses above vwap)',
    'close changes sides of opening(90 min).middle',
    'high meets opening(30 min).high',
    'always(close > on(90 min, low), 2 bars)',
    'on(1 day, climbs(close, 2 bars))',
    'begins(close > vwapsince(close crosses above sma(close, 4)))',
    'barssince(close crosses below vwap) > 3',
  ]
  const MEASURES = [
    'on(1 day, rsi(2))',
    'earlier(close, 2 days)',
    'on(4 hours, volume)',
    'on(1 month, close)',
    'close - on(1 day, earlier(close, 1 bar))',
    'vwapsince("2026-03-10")',
    'pivots.r1',
  ]
  const EVERY: Timeframe = { count: 30, unit: 'min' }

  it.each([...RULES, ...MEASURES])('%s', (text) => {
    const checked = RULES.includes(text) ? checkRule(text, EVERY) : checkMeasure(text, EVERY)
    expect(checked.issues).toEqual([])
    // Clocks change in Halifax on Sunday 8 March; a month ends in the second stretch.
    // Of the first session nothing tells when it ends, so that its last short bar is known a bar late.
    follow(checked.tree!, halfHours('2026-03-04', '2026-03-11', 0.7), undefined, 17)
    follow(checked.tree!, halfHours('2026-03-27', '2026-04-02', 1.3), undefined, 17)
  })
})

describe('what was kept', () => {
  it('is taken back only by the graph that kept it', () => {
    const one = alone('close > sma(close, 3)')
    one.feed(barAt(barsOf([1, 2]), 0), true)
    const before = one.slots.slice()
    expect(one.restore(alone('close > sma(close, 4)').save())).toBe(false)
    expect(one.restore({ ...one.save(), slots: 'AAAA' })).toBe(false)
    expect(one.restore({ ...one.save(), slots: one.save().slots.replace(/^./, '!') })).toBe(false)
    expect(one.slots).toEqual(before)
  })
})

describe('lines that were drawn', () => {
  it('are followed bar by bar as they stand on the chart, wherever their ends lie', () => {
    const at = (bars: Bars, place: number) => bars.time[0] + place * (bars.time[1] - bars.time[0])
    fc.assert(
      fc.property(
        fc.integer({ min: -3, max: 14 }),
        fc.integer({ min: -3, max: 14 }),
        fc.nat(9),
        (a, b, stop) => {
          const bars = weekdays(Array.from({ length: 14 }, (_, i) => 10 + i))
          const from = { time: at(bars, a + 0.3), price: 9 }
          const to = { time: at(bars, b), price: 15 }
          const drawings = [{ id: 'a', kind: 'line', name: 'rise', from, to } as const]
          const graph = compile([checkMeasure('line("rise")').tree!], DAILY)
          const columns = new ColumnMachine(graph)
          let live = new StepMachine(graph, { zone: bars.zone, drawings })
          for (let i = 0; i < bars.time.length; i++) {
            columns.run(barSource(sliceBars(bars, 0, i + 1), [], { drawings }))
            if (i === stop) {
              const saved = live.save()
              live = new StepMachine(graph, { zone: bars.zone, drawings })
              live.restore(saved)
            }
            live.feed(barAt(growing(bars, 1), i), false)
            live.feed(barAt(bars, i), true)
            const wanted = columns.numbers[graph.results[0]][i]
            expectSame(live.value(0), wanted, `bar ${i}`)
          }
        },
      ),
    )
  })
})

describe('what cannot be followed', () => {
  const tree = (text: string, every = DAILY): Node => checkRule(text, every).tree!

  it('is refused, in words', () => {
    const minutes = { count: 30, unit: 'min' } as const
    expect(() =>
      StepMachine.of([tree('close > on(15 min, close)', minutes)], minutes, { zone: 'UTC' }),
    ).toThrow('follow the rule on finer bars')
  })

  it('a security that never came leaves unknown, and is named', () => {
    const live = StepMachine.of([tree('close > beside("TWIN", close)')], DAILY, { zone: 'UTC' })
    expect(live.besides).toEqual(['TWIN'])
    live.feed(barAt(barsOf([1, 2]), 0), true)
    expect(verdictOf(live.value(0))).toBe('unknown')
  })

  it('levels and figures are those that are told of', () => {
    const about = {
      zone: 'UTC',
      drawings: [{ id: 'a', kind: 'level', name: 'shelf', price: 1.5 } as const],
      reports: [{ known: 0, eps: 2 }],
    }
    const trees = [tree('close crosses above level("shelf")'), tree('earnings per share > 1')]
    const live = StepMachine.of(trees, DAILY, about)
    const bars = barsOf([1, 2])
    live.feed(barAt(bars, 0), true)
    live.feed(barAt(bars, 1), false)
    expect([verdictOf(live.value(0)), verdictOf(live.value(1))]).toEqual(['holds', 'holds'])
  })
})
