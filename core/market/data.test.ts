import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { DateTime } from 'luxon'
import { barsOf, column, gappyPrices } from '@/tests/bars'
import { adjusted } from './adjust'
import { emptyBars } from './bars'
import { appendBars, makeTable, openTable, ownMemory } from './barTable'
import { calendarOf, columnOf } from './columns'
import { distance, sayDistance } from './dividers'
import { BRACKWATER } from './venue'
import { drawnColumn, placeOf } from './drawings'
import { figureColumn, type Report } from './figures'
import { toTick } from './increment'
import { resample } from './resample'
import { thinned, thinnedColumn } from './thin'
import { sessionOn, sessionsBetween, SKERRY, venueOf, VENUES } from './venue'

const COLUMNS = ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const

describe('venues in different zones (IANA time zone database)', () => {
  // 2026: Halifax puts its clocks forward on 8 March, Helsinki on 29 March; back on 1 November and 25 October.
  it.each([
    ['XBKW', '2026-03-06', '2026-03-06T13:30:00Z'],
    ['XBKW', '2026-03-09', '2026-03-09T12:30:00Z'],
    ['XSKR', '2026-03-27', '2026-03-27T08:00:00Z'],
    ['XSKR', '2026-03-30', '2026-03-30T07:00:00Z'],
    ['XSKR', '2026-10-26', '2026-10-26T08:00:00Z'],
    ['XBKW', '2026-11-02', '2026-11-02T13:30:00Z'],
  ])('%s opens on %s at %s', (mic, date, utc) => {
    expect(new Date(sessionOn(venueOf(mic)!, date)!.open).toISOString()).toBe(new Date(utc).toISOString())
  })

  it('each has holidays, early closes, price steps by band and a lot of its own', () => {
    expect(sessionOn(SKERRY, '2026-06-26')).toBeUndefined()
    expect(SKERRY.holidays(2026).get('2026-06-26')).toBe('Midsummer Eve')
    const early = sessionOn(SKERRY, '2026-04-30')!
    expect(DateTime.fromMillis(early.close, { zone: SKERRY.zone }).toFormat('HH:mm')).toBe('14:00')
    expect([1.2341, 12.341, 123.41].map((p) => toTick(SKERRY.increments, p, 'down'))).toEqual([
      1.234, 12.34, 123.4,
    ])
    expect(new Set(VENUES.map((v) => v.currency)).size).toBe(VENUES.length)
  })

  it('a year has as many sessions as weekdays that are no holidays', () => {
    for (const venue of VENUES) {
      let expected = 0
      for (let day = DateTime.utc(2026, 1, 1); day.year === 2026; day = day.plus({ days: 1 }))
        if (day.weekday < 6 && !venue.holidays(2026).has(day.toISODate()!)) expected++
      expect(sessionsBetween(venue, '2026-01-01', '2026-12-31')).toHaveLength(expected)
    }
  })
})

describe('the calendar columns of bars', () => {
  it('tell session, begin and end of each bar in the zone of the bars, over a clock change', () => {
    const bars = emptyBars(4, { count: 30, unit: 'min' }, 'America/Halifax')
    const at = (iso: string) => DateTime.fromISO(iso, { zone: 'America/Halifax' }).toMillis()
    bars.time.set([
      at('2026-03-06T09:30'),
      at('2026-03-06T15:30'),
      at('2026-03-09T09:30'),
      at('2026-03-09T10:00'),
    ])
    bars.end.set(bars.time.map((t) => t + 1_800_000))
    bars.end[3] = Infinity
    const { session, began, clock } = calendarOf(bars)
    expect([...session]).toEqual([session[0], session[0], session[0] + 3, session[0] + 3])
    expect([...began]).toEqual([570, 930, 570, 600])
    // A bar that still grows is told by its begin.
    expect([...clock]).toEqual([600, 960, 600, 600])
    expect(columnOf(bars, 'uptrades')[0]).toBeNaN()
  })
})

describe('splits and dividends', () => {
  const raw = barsOf([100, 102, 51, 52, 50], [10, 10, 20, 20, 20])
  const date = (row: number) => new Date(raw.time[row]).toISOString().slice(0, 10)
  const split = { kind: 'Split', exDate: date(2), ratio: 2 } as const
  const dividend = { kind: 'Dividend', exDate: date(4), amount: 2.6 } as const

  it('as traded nothing is touched; over a split prices halve and volume doubles before it', () => {
    expect(adjusted(raw, [split, dividend], 'as-traded')).toBe(raw)
    const made = adjusted(raw, [split, dividend], 'over-splits')
    expect([...made.close]).toEqual([50, 51, 51, 52, 50])
    expect([...made.volume]).toEqual([20, 20, 20, 20, 20])
  })

  it('over a dividend, prices before it are taken times 1 - amount / close before', () => {
    const made = adjusted(raw, [split, dividend], 'over-splits-and-dividends')
    expect(made.close[3]).toBeCloseTo(52 * (1 - 2.6 / 52), 12)
    expect(made.close[0]).toBeCloseTo(50 * (1 - 2.6 / 52), 12)
    expect(made.close[4]).toBe(50)
  })

  it('an action outside the bars changes nothing', () => {
    const far = { kind: 'Split', exDate: '2031-01-01', ratio: 3 } as const
    expect([...adjusted(raw, [far], 'over-splits').close]).toEqual([...raw.close])
  })
})

describe('tables of bars', () => {
  it('hold what they were given in one buffer, calendars once, extra columns where there are some', () => {
    fc.assert(
      fc.property(gappyPrices(20), gappyPrices(20), (a, b) => {
        const [one, two] = [barsOf(a), { ...barsOf(b), optionvolume: column(b) }]
        const table = makeTable({ symbols: ['A', 'B'], bars: [one, two] }, { asOf: '' }, ownMemory)
        expect(table.calendars.length).toBe(a.length === b.length ? 1 : 2)
        const { bars } = openTable(table)
        for (const name of COLUMNS) {
          expect([...bars[0][name]]).toEqual([...one[name]])
          expect([...bars[1][name]]).toEqual([...two[name]])
        }
        expect([...bars[1].optionvolume!]).toEqual(b)
        expect(bars[0].optionvolume!.every(Number.isNaN)).toBe(true)
      }),
    )
  })

  it('bars that come later are added; one that still grew is replaced', () => {
    const all = barsOf([1, 2, 3, 4, 5])
    const part = (from: number, to: number) => {
      const out = { ...all }
      for (const name of COLUMNS) out[name] = all[name].slice(from, to)
      return out
    }
    for (let cut = 0; cut <= 5; cut++)
      for (let from = 0; from <= cut; from++)
        expect([...appendBars(part(0, cut), part(from, 5)).close]).toEqual([1, 2, 3, 4, 5])
    const growing = part(0, 3)
    growing.end[2] = Infinity
    growing.close[2] = 99
    expect([...appendBars(growing, part(2, 5)).close]).toEqual([1, 2, 3, 4, 5])
    expect([...appendBars(growing, part(0, 2)).close]).toEqual([1, 2])
  })
})

describe('bars drawn as fewer', () => {
  it('keep first open, extremes, last close and all volume: as the coarser bars of the same rows', () => {
    fc.assert(
      fc.property(gappyPrices(60), fc.integer({ min: 1, max: 20 }), (xs, most) => {
        fc.pre(xs.length > 0)
        const bars = barsOf(xs)
        const view = thinned(bars, 0, xs.length, most)
        expect(view.bars.time.length).toBeLessThanOrEqual(most)
        let total = 0
        view.bars.close.forEach((close, k) => {
          const rows = [...xs.keys()].slice(k * view.step, (k + 1) * view.step)
          const known = (of: Float64Array) => rows.map((r) => of[r]).filter((x) => !Number.isNaN(x))
          expect(view.bars.open[k]).toEqual(bars.open[rows[0]])
          expect(close).toEqual(bars.close[rows.at(-1)!])
          if (known(bars.high).length > 0) expect(view.bars.high[k]).toBe(Math.max(...known(bars.high)))
          if (known(bars.low).length > 0) expect(view.bars.low[k]).toBe(Math.min(...known(bars.low)))
          total += view.bars.volume[k]
        })
        expect(total).toBeCloseTo(
          bars.volume.reduce((a, b) => a + b, 0),
          6,
        )
        expect(thinnedColumn(bars.close, view).length).toBe(view.bars.close.length)
      }),
    )
  })
})

describe('drawings', () => {
  const time = column([10, 20, 30, 50, 60])
  it('a level is the same everywhere, a zone has two edges, a line is straight over the bars', () => {
    const out = new Float64Array(5)
    drawnColumn({ id: 'l', kind: 'level', name: 'shelf', price: 7 }, time, undefined, out)
    expect([...out]).toEqual([7, 7, 7, 7, 7])
    drawnColumn({ id: 'z', kind: 'zone', name: 'z', upper: 9, lower: 8 }, time, 'lower', out)
    expect(out[0]).toBe(8)
    // From bar 1 at 4 to bar 3 at 8: two a bar, whatever the clock says between.
    const line = {
      id: 'n',
      kind: 'line',
      name: 'n',
      from: { time: 20, price: 4 },
      to: { time: 50, price: 8 },
    } as const
    drawnColumn(line, time, undefined, out)
    expect([...out]).toEqual([2, 4, 6, 8, 10])
  })
  it('a moment beyond the bars lies as far as the usual distance says', () => {
    expect([placeOf(10, time), placeOf(40, time), placeOf(80, time), placeOf(0, time)]).toEqual([
      0, 2.5, 6, -1,
    ])
  })
})

describe('dividers', () => {
  const bars = barsOf(Array.from({ length: 30 }, (_, i) => 10 + i / 10))
  it('say money, percent, average ranges and bars between two places, whichever was marked first', () => {
    const [a, b] = [
      { row: 20, price: 12 },
      { row: 25, price: 12.6 },
    ]
    const told = distance(bars, b, a)
    expect(told).toMatchObject({ bars: 5, sessions: 5 })
    expect(told.percent).toBeCloseTo(5, 10)
    // Each bar reaches one unit about its open and close, 2.1 in all (by hand).
    expect(told.ranges).toBeCloseTo(0.6 / 2.1, 2)
    expect(sayDistance(bars, a, b, BRACKWATER.increments)).toBe(
      'From 12.00 to 12.60: up 0.60 (+5.00 %, 60 ticks, 0.3 average ranges), in 5 bars.',
    )
    // A venue with steps of half a cent from 2 on.
    expect(sayDistance(bars, a, b, SKERRY.increments)).toContain('120 ticks')
  })
})

describe('company figures', () => {
  const bars = barsOf([10, 11, 12, 13])
  const { session } = calendarOf(bars)
  const day = (row: number) => new Date(bars.time[row]).toISOString().slice(0, 10)
  const reports: Report[] = [
    { known: bars.end[0], sharesOutstanding: 100, nextEarnings: day(2), confirmed: false },
    { known: bars.end[1], confirmed: true, eps: 2 },
  ]
  const of = (name: Parameters<typeof figureColumn>[0]) => {
    const out = new Float64Array(4)
    figureColumn(name, reports, { ...bars, session }, out)
    return [...out]
  }
  it('count from the moment at which they are known, and a date that is past is unknown', () => {
    expect(of('shares outstanding')).toEqual([100, 100, 100, 100])
    expect(of('market value')).toEqual([1000, 1100, 1200, 1300])
    expect(of('earnings per share')).toEqual([NaN, 2, 2, 2])
    expect(of('days to earnings')).toEqual([2, 1, 0, NaN])
    expect(of('earnings confirmed')).toEqual([0, 1, 1, NaN])
    expect(of('float')).toEqual([NaN, NaN, NaN, NaN])
  })
})

describe('bars of any whole number of minutes, hours, days, weeks and months', () => {
  it('counts of trades add up like volume', () => {
    const bars = {
      ...barsOf(Array.from({ length: 14 }, (_, i) => 10 + i)),
      uptrades: new Float64Array(14).fill(3),
    }
    const { bars: weeks } = resample(bars, { count: 1, unit: 'week' })
    expect(weeks.uptrades!.reduce((a, b) => a + b, 0)).toBe(42)
  })
})
