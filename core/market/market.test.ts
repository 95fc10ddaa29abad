import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { DateTime } from 'luxon'
import { barsOf, prices } from '@/tests/bars'
import { cases } from '@/tests/cases'
import { type Bars, completedBy, emptyBars } from './bars'
import { incrementAt, onTick, ticksBetween, toTick } from './increment'
import { decimal, dollars, fromE4, priceText, short, toE4 } from './money'
import { resample } from './resample'
import { parseTimeframe, timeframeText } from './timeframe'
import { BRACKWATER, sessionAtOrAfter, sessionOn, sessionsBetween, sessionState, VENUES } from './venue'

describe('sessions in America/Halifax', () => {
  // IANA time zone database: clocks went forward on 8 March 2026 at 02:00 (-04:00 to -03:00) and go back on
  // 1 November 2026 at 02:00.
  it.each([
    ['2026-03-06', '2026-03-06T13:30:00Z'],
    ['2026-03-09', '2026-03-09T12:30:00Z'],
    ['2026-10-30', '2026-10-30T12:30:00Z'],
    ['2026-11-02', '2026-11-02T13:30:00Z'],
  ])('%s opens at %s', (date, utc) => {
    expect(new Date(sessionOn(BRACKWATER, date)!.open).toISOString()).toBe(new Date(utc).toISOString())
  })

  it('opens and closes by the wall clock of any zone, whatever that does with its clocks', () => {
    // Clocks that stand still, go by half hours, pause their summer time for weeks (Casablanca, Cairo in 2010), skip a day (Apia in 2011).
    const zones = ['America/Halifax', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'Africa/Casablanca']
    const years = fc.integer({ min: 1995, max: 2045 })
    const at = (zone: string, date: string, clock: string) =>
      DateTime.fromISO(`${date}T${clock}`, { zone }).toMillis()
    const holds = (zone: string, year: number) => {
      for (const { date, open, close } of sessionsBetween(
        { ...BRACKWATER, zone },
        `${year}-01-01`,
        `${year}-12-31`,
      ))
        expect([date, open, close]).toEqual([
          date,
          at(zone, date, '09:30'),
          at(zone, date, date.endsWith('12-24') ? '13:00' : '16:00'),
        ])
    }
    fc.assert(fc.property(fc.constantFrom(...zones), years, holds), { numRuns: cases(12) })
    holds('Africa/Cairo', 2010)
    holds('Pacific/Apia', 2011)
  })

  it('is as long on every ordinary day, whatever the clocks do', () => {
    const sessions = sessionsBetween(BRACKWATER, '2026-01-01', '2026-12-31')
    const lengths = new Set(sessions.map((s) => (s.close - s.open) / 60_000))
    expect([...lengths].sort()).toEqual([210, 390])
    expect(sessions.filter((s) => s.close - s.open === 210 * 60_000).map((s) => s.date)).toEqual([
      '2026-12-24',
    ])
  })

  it('has no session on weekends and holidays', () => {
    expect(sessionOn(BRACKWATER, '2026-03-14')).toBeUndefined()
    expect(sessionOn(BRACKWATER, '2026-04-06')).toBeUndefined()
    expect(sessionOn(BRACKWATER, '2026-12-25')).toBeUndefined()
    expect(sessionOn(BRACKWATER, 'no date')).toBeUndefined()
  })

  it.each([
    ['2026-03-16T09:00', 'PreOpen', '2026-03-16'],
    ['2026-03-16T09:30', 'Open', '2026-03-16'],
    ['2026-03-16T15:59:59', 'Open', '2026-03-16'],
    ['2026-03-16T16:00', 'Closed', '2026-03-17'],
    ['2026-03-14T12:00', 'Closed', '2026-03-16'],
  ])('at %s it is %s, session %s', (local, state, date) => {
    const moment = DateTime.fromISO(local, { zone: BRACKWATER.zone }).toMillis()
    expect(sessionState(BRACKWATER, moment)).toMatchObject({ state, session: { date } })
    expect(sessionAtOrAfter(BRACKWATER, moment).date).toBe(date)
  })
})

describe('price increments (SEC rule 612: 0.01 from 1.00 up, 0.0001 below)', () => {
  const bands = BRACKWATER.increments

  it.each([
    [48.21, true],
    [48.215, false],
    [0.9999, true],
    [0.99995, false],
    [1.0001, false],
  ])('%d on the tick: %s', (price, on) => expect(onTick(bands, price)).toBe(on))

  it('moves to the next tick down or up, never away from one that is on it', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.001, max: 5000, noNaN: true }), (price) => {
        const [down, near, up] = (['down', 'nearest', 'up'] as const).map((way) => toTick(bands, price, way))
        for (const tick of [down, near, up]) expect(toTick(bands, tick, 'nearest')).toBe(tick)
        expect(down).toBeLessThanOrEqual(Math.max(price, incrementAt(bands, price)) + 1e-9)
        expect(up).toBeGreaterThanOrEqual(price - 1e-9)
        expect(up - down).toBeLessThanOrEqual(incrementAt(bands, price) + 1e-9)
      }),
    )
  })

  it('48.21 held as a double just below stays 48.21 rounded down', () => {
    expect(toTick(bands, 48.21, 'down')).toBe(48.21)
    expect(toTick(bands, 0.1 + 0.2, 'down')).toBe(0.3)
  })

  it('counts a distance in ticks', () => {
    expect(ticksBetween(bands, 48.21, 48.61)).toBe(40)
    expect(ticksBetween(bands, 0.5, 0.4975)).toBe(-25)
  })
})

describe('money', () => {
  it('goes to whole ten-thousandths and back without loss', () => {
    fc.assert(fc.property(fc.integer({ min: -9e14, max: 9e14 }), (e4) => expect(toE4(fromE4(e4))).toBe(e4)))
  })

  it('is never printed raw', () => {
    expect(dollars(8807.04)).toBe('$8,807.04')
    expect(dollars(-88.325)).toBe('−$88.33')
    expect(priceText(0.4567)).toBe('0.4567')
    expect(priceText(48.2)).toBe('48.20')
    expect(short(3_410_000)).toBe('3.41 M')
    expect(short(12_500)).toBe('12.5 k')
    expect([decimal(NaN), dollars(undefined), short(NaN)]).toEqual(['', '', ''])
  })
})

describe('timeframes', () => {
  it.each([
    ['15 min', '15 min'],
    ['1day', '1 day'],
    ['2 Hours', '2 hour'],
  ])('"%s" is %s', (text, canonical) => expect(timeframeText(parseTimeframe(text)!)).toBe(canonical))

  it.each(['0 min', 'x', '1.5 day', '15 sec', ''])('"%s" is none', (text) =>
    expect(parseTimeframe(text)).toBeUndefined(),
  )
})

describe('resampling', () => {
  /** Minute bars of two sessions in Halifax, the second one 17 minutes long so far. */
  function minutes(counts: readonly [string, number][]): Bars {
    const starts = counts.flatMap(([date, n]) =>
      Array.from({ length: n }, (_, i) => sessionOn(BRACKWATER, date)!.open + i * 60_000),
    )
    const bars = emptyBars(starts.length, { count: 1, unit: 'min' }, BRACKWATER.zone)
    for (const [i, start] of starts.entries()) {
      bars.time[i] = start
      bars.end[i] = start + 60_000
      bars.open[i] = bars.close[i] = 10 + (i % 7)
      bars.high[i] = bars.open[i] + 1
      bars.low[i] = bars.open[i] - 1
      bars.volume[i] = 100 + i
    }
    return bars
  }

  it('keeps first open, highest high, lowest low, last close and the sum of volume', () => {
    fc.assert(
      fc.property(prices(1, 60), fc.constantFrom('1 week', '1 month', '3 day'), (xs, text) => {
        const bars = barsOf(xs)
        const { bars: coarse, row } = resample(bars, parseTimeframe(text)!)
        for (let r = 0; r < coarse.time.length; r++) {
          const rows = xs.map((_, i) => i).filter((i) => row[i] === r)
          expect(coarse.open[r]).toBe(bars.open[rows[0]])
          expect(coarse.close[r]).toBe(bars.close[rows.at(-1)!])
          expect(coarse.high[r]).toBe(Math.max(...rows.map((i) => bars.high[i])))
          expect(coarse.low[r]).toBe(Math.min(...rows.map((i) => bars.low[i])))
          expect(coarse.volume[r]).toBe(rows.reduce((sum, i) => sum + bars.volume[i], 0))
        }
      }),
    )
  })

  it('aligns intraday bars to the session, not to the clock', () => {
    const two = minutes([
      ['2026-03-13', 390],
      ['2026-03-16', 390],
    ])
    const { bars } = resample(two, { count: 1, unit: 'hour' })
    const starts = Array.from(bars.time, (t) =>
      DateTime.fromMillis(t, { zone: BRACKWATER.zone }).toFormat('HH:mm'),
    )
    expect(starts.slice(7)).toEqual(['09:30', '10:30', '11:30', '12:30', '13:30', '14:30', '15:30'])
    expect(bars.end[13] - bars.time[13]).toBe(30 * 60_000)
  })

  it('leaves the bar that still grows open-ended, so that nothing takes it for complete', () => {
    const { bars } = resample(
      minutes([
        ['2026-03-13', 390],
        ['2026-03-16', 17],
      ]),
      { count: 15, unit: 'min' },
    )
    expect(bars.end.at(-1)).toBe(Infinity)
    expect(Number.isFinite(bars.end.at(-2))).toBe(true)
    const days = resample(
      minutes([
        ['2026-03-13', 390],
        ['2026-03-16', 17],
      ]),
      { count: 1, unit: 'day' },
    ).bars
    expect([Number.isFinite(days.end[0]), days.end[1]]).toEqual([true, Infinity])
  })

  it('weeks begin on Monday', () => {
    // 6 January 2025 was a Monday; daily bars here include weekends.
    const { row } = resample(barsOf(Array<number>(15).fill(5)), { count: 1, unit: 'week' })
    expect([...row]).toEqual([0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1, 1, 2])
  })

  it('refuses to make bars finer', () => {
    expect(() => resample(barsOf([1, 2]), { count: 15, unit: 'min' })).toThrow(RangeError)
  })
})

describe('completed bars', () => {
  it('leaves out the bar under way', () => {
    const bars = barsOf([1, 2, 3])
    expect(completedBy(bars, bars.end[2] - 1).close).toHaveLength(2)
    expect(completedBy(bars, bars.end[2])).toBe(bars)
  })
})

describe('the calendar of a venue, made a year at once', () => {
  it('has every session where the clock of the zone has it, on both sides of each change', () => {
    for (const venue of VENUES) {
      // One comparison for all: a mistake shows which.
      const told = sessionsBetween(venue, '2019-01-01', '2030-12-31').map(({ date, open, close }) => {
        const local = (moment: number) => DateTime.fromMillis(moment, { zone: venue.zone })
        const closes = local(close).toFormat('HH:mm')
        return {
          opens: local(open).toFormat('yyyy-MM-dd HH:mm'),
          wanted: `${date} ${venue.open}`,
          fine: closes === venue.close || closes === venue.earlyClose,
        }
      })
      expect(told.filter(({ opens, wanted, fine }) => opens !== wanted || !fine)).toEqual([])
      expect(told.length).toBeGreaterThan(2_900)
    }
  })
})
