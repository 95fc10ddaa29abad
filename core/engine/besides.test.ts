import { expect, it } from '@jest/globals'
import { OSPRY } from '@/tests/venue'
import { type Bars, completedBy, emptyBars } from '../market/bars'
import { BRACKWATER, sessionsBetween, SKERRY, type Venue } from '../market/venue'
import { PLAN_FORM, Plan } from '../plans/document'
import { barSource, checkMeasure, ColumnMachine, compile } from '../rules'
import { barAt } from '../rules/exec/liveBar'
import { emptyBook } from '../book/book'
import { USUAL_RULES } from '../orders/accountRules'
import { Beside } from './evidence'
import { sharedOf } from './shared'
import { keyOf, prepare, valueOf } from './prepare'
import { freshState } from './state'
import { step } from './step'

const DAILY = { count: 1, unit: 'day' } as const

/** Sessions of a venue over some months as daily bars, up and down by rule. */
function daysOf(venue: Venue, swing: number): Bars {
  const sessions = sessionsBetween(venue, '2026-01-05', '2026-05-29')
  const bars = emptyBars(sessions.length, DAILY, venue.zone)
  sessions.forEach(({ open, close }, i) => {
    const price = 50 + swing * Math.sin(i / 3) + i / 10
    bars.time[i] = open
    bars.end[i] = close
    for (const name of ['open', 'high', 'low', 'close'] as const) bars[name][i] = price
    bars.volume[i] = 1000
  })
  return bars
}

const measure = 'close - beside("NORTH", close) + beside("NORTH", on(1 week, earlier(close, 1 bar)))'

it.each([
  ['Brackwater', BRACKWATER, SKERRY],
  ['Skerry', SKERRY, BRACKWATER],
])(
  'beside a security of %s one of another zone is read as of what was over by then, days off included',
  (_name, own, other) => {
    const plan = Plan.parse({
      ...{ form: PLAN_FORM, formVersion: 1, id: 'far', name: 'Far', version: 1, when: {} },
      sides: [
        {
          ...{ among: { list: ['OSPRY'] }, if: { rule: `${measure} > 0`, every: '1 day' }, provided: [] },
          do: { open: 'Long', price: { limit: measure, ticks: 0, percent: 0 }, size: { shares: 1 } },
          then: { exits: { stop: { percent: 5 } } },
        },
      ],
      never: {},
    })
    const listed = {
      OSPRY: { security: OSPRY, venue: own, rate: 1 },
      NORTH: { security: { ...OSPRY, symbol: 'NORTH' }, venue: other, rate: 1 },
    }
    const [bars, north] = [daysOf(own, 4), daysOf(other, 7)]
    const tree = checkMeasure(measure, DAILY).tree!
    const columns = new ColumnMachine(compile([tree], DAILY))
    /** The same over columns, of what was over by then. */
    const inColumns = (end: number) => {
      columns.run(barSource(completedBy(bars, end), [], { beside: () => barSource(completedBy(north, end)) }))
      return columns.numbers[columns.graph.results[0]].at(-1)!
    }
    const wanted: number[] = []
    const prepared = prepare(plan, listed)
    const [state, shared] = [freshState(plan), sharedOf(emptyBook(0, USUAL_RULES), listed, own)]
    const followed: number[] = []
    const beside = new Beside([{ of: 'NORTH', bars: north }])
    for (let row = 0; row < bars.time.length; row++) {
      const bar = barAt(bars, row)
      const feed = (symbol: string, one = bar) =>
        step(prepared, state, shared, { is: 'bar', at: one.end, symbol, every: '1 day', bar: one }, false)
      for (const { bar: its } of beside.upTo(bar.end)) feed('NORTH', its)
      feed('OSPRY')
      // It is asked at once: what is over elsewhere ends at another hour, and is not waited for.
      expect(state.watched[keyOf(0, 'OSPRY')].lastEnd).toBe(bar.end)
      wanted.push(inColumns(bar.end))
      followed.push(valueOf(prepared, 0, 'OSPRY', measure))
    }
    const rounded = (values: Iterable<number>) => Array.from(values, (value) => Number(value.toFixed(9)))
    expect(rounded(followed)).toEqual(rounded(wanted))
    expect(wanted.filter((value) => Number.isFinite(value)).length).toBeGreaterThan(80)
  },
)
