import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from '@jest/globals'
import { aboveAverage } from '@/tests/aboveAverage'
import { barOf, OPEN, PlanBench } from '@/tests/planBench'
import { OSPRY } from '@/tests/venue'
import { emptyBook } from '../book/book'
import { type Bars, completedBy, emptyBars } from '../market/bars'
import { parseTimeframe, roughMinutes } from '../market/timeframe'
import { BRACKWATER, sessionsBetween } from '../market/venue'
import { USUAL_RULES } from '../orders/accountRules'
import { planIssues } from '../plans/check'
import { readBeside, unreadable, withBars } from '../plans/carriedBars'
import { differences, differenceText } from '../plans/difference'
import { Plan } from '../plans/document'
import { bound } from '../plans/inputs'
import { mostText } from '../plans/most'
import { barsOfOwn, carriedBars } from '../plans/ownBars'
import { barSource, checkMeasure, ColumnMachine, compile } from '../rules'
import { barAt } from '../rules/exec/liveBar'
import { beginningsOf, evidenceOf } from './evidence'
import { prepare, valueOf } from './prepare'
import { restored, saved } from './saved'
import { sharedOf } from './shared'
import { freshState } from './state'
import { step } from './step'

/** Bars of a name of the trader's own, up and down by rule: whole days, or minutes within sessions. */
function ownOf(every: string, from: string, to: string, of: (k: number) => number): Bars {
  const frame = parseTimeframe(every)!
  const sessions = sessionsBetween(BRACKWATER, from, to)
  const length = roughMinutes(frame) * 60_000
  const starts =
    frame.unit === 'day'
      ? sessions.map(({ date }) => Date.parse(`${date}T00:00:00Z`))
      : sessions.flatMap(({ open, close }) =>
          Array.from({ length: Math.floor((close - open) / length) }, (_, k) => open + k * length),
        )
  const bars = emptyBars(starts.length, frame, frame.unit === 'day' ? 'UTC' : BRACKWATER.zone)
  for (const [i, start] of starts.entries()) {
    bars.time[i] = start
    bars.end[i] = start + (frame.unit === 'day' ? 86_400_000 : length)
    for (const name of ['open', 'high', 'low', 'close'] as const) bars[name][i] = of(i)
    bars.volume[i] = 100 + i
  }
  return bars
}
const swing = (k: number): number => 20 + 5 * Math.sin(k / 2.7) + k / 50
const withMood = (plan: Plan, bars: Bars): Plan =>
  Plan.parse(JSON.parse(JSON.stringify({ ...plan, bars: { MOOD: carriedBars(bars, 5000) } })))

describe('bars that a plan carries', () => {
  it.each([
    ['1 day', 'beside("MOOD", on(1 day, sma(close, 3))) + close - earlier(close, 1 bar)'],
    ['1 day', 'close + beside("MOOD", on(1 week, earlier(close, 1 bar)))'],
    ['1 min', 'close - beside("MOOD", sma(close, 4))'],
    ['5 min', 'close - beside("MOOD", ema(close, 4)) + beside("MOOD", on(1 hour, earlier(high, 1 bar)))'],
    [
      '15 min',
      'close + beside("MOOD", on(15 min, close - earlier(close, 2 bars))) + beside("MOOD", on(1 hour, low))',
    ],
  ])('of %s are read by %s as they are over columns', (every, measure) => {
    const own = ownOf(every, '2026-04-13', '2026-05-05', swing)
    const plan = withMood(aboveAverage({ if: { rule: `${measure} > 0` } }), own)
    expect(planIssues(plan).filter(({ is }) => is === 'error')).toEqual([])
    const bars = ownOf('5 min', '2026-05-01', '2026-05-05', (k) => 40 + 3 * Math.cos(k / 5))
    const tree = checkMeasure(measure, bars.every).tree!
    const columns = new ColumnMachine(compile([tree], bars.every))
    // Columns of longer bars alone are told by the same rule text on those.
    const inColumns = (end: number) => {
      const beside = () => {
        const known = completedBy(own, end)
        return barSource(roughMinutes(own.every) > 5 ? { ...known, every: bars.every } : known, [known])
      }
      columns.run(barSource(completedBy(bars, end), [], { beside }))
      return columns.numbers[columns.graph.results[0]].at(-1)!
    }
    const listed = { OSPRY: { security: OSPRY, venue: BRACKWATER, rate: 1 } }
    const priced = Plan.parse({
      ...plan,
      sides: [
        { ...plan.sides[0], do: { ...plan.sides[0].do, price: { limit: measure, ticks: 0, percent: 0 } } },
      ],
    })
    let prepared = prepare(priced, listed)
    let state = freshState(priced)
    const shared = sharedOf(emptyBook(0, USUAL_RULES), listed, BRACKWATER)
    let known = 0
    for (let row = 0; row < bars.time.length; row++) {
      const bar = barAt(bars, row)
      step(prepared, state, shared, { is: 'bar', at: bar.end, symbol: 'OSPRY', every: '5 min', bar }, false)
      const wanted = inColumns(bar.end)
      const is = valueOf(prepared, 0, 'OSPRY', measure)
      expect(is === is ? is.toFixed(8) : 'unknown').toBe(wanted === wanted ? wanted.toFixed(8) : 'unknown')
      if (wanted === wanted) known++
      // Put by and taken up again it goes on where it was, and is fed nothing twice.
      if (row % 40 !== 20) continue
      const kept = JSON.parse(JSON.stringify(saved(state, prepared))) as ReturnType<typeof saved>
      prepared = prepare(priced, listed)
      state = restored(prepared, kept)
    }
    expect(known).toBeGreaterThan(150)
  })

  it('let it begin, and stand beside its clauses with the value of then', () => {
    // One bar of five minutes before the open, then up with the third bar of the session.
    const own = ownOf('5 min', '2026-05-04', '2026-05-04', (k) => (k < 2 ? 10 : 12))
    const plan = withMood(
      aboveAverage({ if: { rule: 'close > 1 and beside("MOOD", close) > 11' }, never: { barsBehind: 1 } }),
      own,
    )
    const bench = new PlanBench(plan)
    for (let k = 0; k < 4; k++) bench.bar(k, 10)
    expect(bench.sent.map(({ symbol, orderQty }) => `${orderQty} ${symbol}`)).toEqual(['100 OSPRY'])
    const bars = ownOf('5 min', '2026-05-04', '2026-05-04', () => 10)
    const { listed } = bench.shared
    const third = OPEN + 15 * 60_000
    expect(beginningsOf(plan, 0, { bars }, listed, 'OSPRY')).toEqual([third])
    const tried = (at: number) =>
      evidenceOf(plan, 0, 'OSPRY', {
        ...{ shared: bench.shared, reports: [], bars, at, quote: { at, bid: 10, ask: 10, last: 10 } },
      }).findings.find(({ clause }) => clause === 'If')!
    expect(tried(third - 60_000)).toMatchObject({ verdict: 'fails' })
    expect(tried(third)).toMatchObject({ verdict: 'holds' })
    expect(JSON.stringify(tried(third))).toContain('12')
  })

  it('that are too old for it lead to no order, and say so', () => {
    const own = ownOf('1 day', '2026-04-20', '2026-04-28', () => 12)
    const rule = 'close > sma(close, 3) and beside("MOOD", on(1 day, close)) > 11'
    const sent = (barsBehind?: number) => {
      const bench = new PlanBench(withMood(aboveAverage({ if: { rule }, never: { barsBehind } }), own))
      ;[10, 9.9, 9.8, 9.7, 10].forEach((close, k) => bench.bar(k, close))
      return bench
    }
    expect(sent().sent).toHaveLength(1)
    // Those of 29 and 30 April and of 1 May, by the close of the session before.
    const late = sent(2)
    expect(late.sent).toHaveLength(0)
    expect(JSON.stringify(late.traces.at(-1))).toContain(
      '"why":"own bars missing","verdict":"fails","value":{"amount":3,"unit":"count"}',
    )
    expect(sent(3).sent).toHaveLength(1)
  })
})

describe('what is carried', () => {
  const above = (rule: string) => aboveAverage({ if: { rule } })
  const daily = ownOf('1 day', '2026-01-05', '2026-05-29', swing)
  const minutes = ownOf('1 min', '2026-05-01', '2026-05-05', swing)

  it('is what is read, of the set that is fine enough, as long as it is asked for', () => {
    const plan = above('beside("MOOD", close) > 11 and beside("index", close) > 1')
    expect([...readBeside(plan.sides[0])]).toEqual([['MOOD', { count: 5, unit: 'min' }]])
    const own = new Map([
      ['MOOD', [daily, minutes]],
      ['OTHER', [daily]],
    ])
    const { bars } = withBars(plan, own)
    expect(Object.keys(bars!)).toEqual(['MOOD'])
    const carried = barsOfOwn(bars!.MOOD)
    expect(carried.every).toEqual({ count: 5, unit: 'min' })
    expect(carried.close.at(-1)).toBe(minutes.close.at(-1))
    const days = withBars(above('beside("MOOD", on(1 day, close)) > 11'), own).bars!.MOOD
    expect([days.every, days.time.at(-1)]).toEqual(['1 day', '2026-05-29'])
    expect(barsOfOwn(days)).toEqual(daily)
    // What came with a file holds where there is nothing of it here; what is read no more is left behind.
    const brought = withBars(plan, own)
    expect(withBars(brought, new Map()).bars).toEqual(bars)
    expect(withBars({ ...above('close > 1'), bars }, own).bars).toBeUndefined()
  })

  it('is named where nobody has it, where it is too long, and where it has grown', () => {
    const plan = above('beside("MOOD", close) > 11')
    const lists = (name: string) => name === 'OSPRY'
    expect(unreadable(plan, lists)).toEqual(['MOOD'])
    const long = withBars(plan, new Map([['MOOD', [daily]]]))
    expect(unreadable(long, lists)).toEqual([])
    expect(planIssues(long).find(({ is }) => is === 'error')?.text).toBe(
      '“beside("MOOD", close) > 11” asks for bars of 5 min of MOOD, and your own are of 1 day: write beside("MOOD", on(1 day, …)), or bring finer ones',
    )
    const found = {
      name: 'x',
      rule: 'beside("MOOD", close) > 1',
      every: '1 hour',
      in: 'All',
      again: 'Session',
    }
    const sought = {
      ...above('close > 1'),
      bars: long.bars,
      sides: [{ ...above('close > 1').sides[0], among: { found } }],
    } as Plan
    expect(planIssues(sought).find(({ clause }) => clause === 'Among')?.text).toContain(
      'asks for bars of 1 hour of MOOD',
    )
    const told = 'bars of 1 day, up to the close of Fri 29 May 2026'
    expect(mostText(long, String).at(-1)).toBe(`It reads MOOD from your own ${daily.time.length} ${told}.`)
    const grown = withBars(plan, new Map([['MOOD', [completedBy(daily, daily.end.at(-2)!)]]]))
    expect(differences(grown, long).map(differenceText)).toEqual([
      `Bars: “${daily.time.length - 1} bars of 1 day, up to the close of Thu 28 May 2026, of MOOD” is now “${daily.time.length} ${told}, of MOOD”`,
    ])
  })

  it('is asked of no worked example: whatever they read beside is a pair, or the broker’s', () => {
    for (const file of readdirSync('plans')) {
      const plan = bound(Plan.parse(JSON.parse(readFileSync(`plans/${file}`, 'utf8'))))
      expect([file, unreadable(plan, () => false)]).toEqual([file, []])
    }
  })

  const good = { every: '5 min', zone: 'UTC', time: ['2026-05-04T12:30:00Z', '2026-05-04T12:35:00Z'] }
  const prices = { open: [1, 2], high: [1, 2], low: [1, 2], close: [1, 2] }
  it.each([
    [{ every: '5 parsecs' }, 'bars.MOOD.every'],
    [{ zone: 'Nowhere/Land' }, 'bars.MOOD.zone'],
    [{ close: [1] }, 'bars.MOOD.close'],
    [{ volume: [1, -2] }, 'bars.MOOD.volume.1'],
    [{ time: ['2026-05-04T12:35:00Z', '2026-05-04T12:30:00Z'] }, 'bars.MOOD.time.1'],
    [{ time: ['2026-05-04', '2026-05-05'] }, 'bars.MOOD.time.0'],
    [{ time: ['2026-05-04T12:30:00', '2026-05-04T12:35:00'] }, 'bars.MOOD.time.0'],
    [{ every: '1 day', time: ['2026-05-04', '2026-05-05'], zone: 'Europe/Lisbon' }, 'bars.MOOD.zone'],
    [{ strange: 1 }, 'bars.MOOD'],
  ])('with %j is refused at its place', (part, place) => {
    const parsed = (bars: object) => Plan.safeParse({ ...above('close > 1'), bars: { MOOD: bars } })
    expect(parsed({ ...good, ...prices }).success).toBe(true)
    expect(parsed({ ...good, ...prices, ...part }).error?.issues[0].path.join('.')).toBe(place)
  })

  it('under a name in small letters is refused: rule text reads none', () => {
    const parsed = Plan.safeParse({ ...above('close > 1'), bars: { mood: { ...good, ...prices } } })
    expect(parsed.error?.issues[0].path.join('.')).toBe('bars.mood')
  })

  it('lasts over the change of clocks: a bar starts at the moment that it names', () => {
    const own = ownOf('15 min', '2026-03-06', '2026-03-09', swing)
    expect(barsOfOwn(carriedBars(own, 5000)!).time).toEqual(own.time)
    expect(barOf(0, 1).time).toBe(OPEN)
  })
})
