import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { DateTime } from 'luxon'
import { readBars } from '../formats/barsCsv'
import { columnsOf, openBarsText } from '../formats/barFiles'
import { checkRule } from '../rules'
import { countHits } from '../scan/history'
import { finishScan, scan } from '../scan/scan'
import { emptyBars } from './bars'
import { localDayOf } from './localDays'
import { completedOn, dateIn, endOfDate, sayEnd, sayMoment, sayStart, stamper, stampOf } from './moments'
import { offsetAt } from './offsets'
import { sessionsBetween, VENUES } from './venue'

const ZONES = [
  ...['America/Los_Angeles', 'America/Halifax', 'America/St_Johns', 'America/Sao_Paulo', 'UTC'],
  ...['Europe/Helsinki', 'Asia/Kolkata', 'Asia/Tokyo', 'Australia/Lord_Howe', 'Pacific/Kiritimati'],
]
const zones = fc.constantFrom(...ZONES)
const DAILY = { count: 1, unit: 'day' } as const
const tree = checkRule('close > 10').tree!

/** Weekdays from a date on; most ranges hold a change of clocks. */
const weekdays = fc.integer({ min: 0, max: 5_000 }).map((from) =>
  Array.from({ length: 40 }, (_, k) => DateTime.utc(2014, 1, 1).plus({ days: from + k }))
    .filter((day) => day.weekday < 6)
    .map((day) => day.toISODate()!),
)

describe('a daily bar is a date, not an instant', () => {
  it('of an own file the dates that stand there are those of past hits, rows and runs, in every zone', () => {
    fc.assert(
      fc.property(zones, weekdays, (zone, dates) => {
        const lines = dates.map((date, i) => `${date},9,12,8,${i % 2 ? 11 : 9},5`)
        const file = openBarsText('A.csv', ['date,open,high,low,close,volume', ...lines].join('\n'))
        const [{ bars }] = readBars(file.grid, columnsOf(file), 'A', zone).securities
        expect(Array.from(bars.time, (t) => stampOf(bars.every, bars.zone, t))).toEqual(dates)
        const set = { symbols: ['A'], bars: [bars] }
        const { hits, every } = countHits(set, tree, [1])
        const told = hits.map((hit) => stampOf(every, hit.zone, hit.time))
        expect(told).toEqual(dates.filter((_, i) => i % 2))
        for (const hit of hits) expect(sayStart(every, hit.zone, hit.time)).not.toMatch(/^S(at|un)/)
        // As of a date the scan stands at that date's close.
        const asOf = dates[dates.length >> 1]
        const then = finishScan(
          scan(set, { rule: checkRule('close > 0').tree!, measures: [], every }, { by: asOf }),
        )
        expect(stampOf(every, then.rows[0].zone, then.rows[0].bar)).toBe(asOf)
        expect(sayEnd(every, then.zone, then.asOf)).toBe(
          `the close of ${DateTime.fromISO(asOf).setLocale('en').toFormat('ccc d LLL yyyy')}`,
        )
      }),
      { numRuns: cases(30) },
    )
  })

  it('of a venue it is the date of its session, whatever the zone of who looks', () => {
    for (const venue of VENUES) {
      const sessions = sessionsBetween(venue, '2026-02-20', '2026-04-10')
      const bars = emptyBars(sessions.length, DAILY, venue.zone)
      sessions.forEach((session, i) => {
        bars.time[i] = session.open
        bars.end[i] = session.close
      })
      expect(Array.from(bars.time, (t) => stampOf(DAILY, venue.zone, t))).toEqual(sessions.map((s) => s.date))
      for (const [i, { date }] of sessions.entries()) expect(completedOn(bars, date).time.length).toBe(i + 1)
    }
  })
})

describe('moments in a zone', () => {
  const moments = fc
    .integer({ min: Date.UTC(2014, 0, 1), max: Date.UTC(2030, 0, 1) })
    .map((t) => t - (t % 60_000))

  it('stamps of many bars are those of luxon asked for each, over changes of clocks', () => {
    fc.assert(
      fc.property(zones, moments, fc.constantFrom(60_000, 1_020_000, 3_600_000), (zone, from, step) => {
        for (const every of [DAILY, { count: 1, unit: 'min' } as const]) {
          const stamp = stamper(every, zone)
          for (let k = 0; k < 60; k++)
            expect(stamp(from + k * step)).toBe(stampOf(every, zone, from + k * step))
        }
      }),
      { numRuns: cases(30) },
    )
  })

  it('offset, local day and words are those of luxon asked for each moment, wherever and whenever clocks change', () => {
    // Zones that change their clocks more than twice a year, or at other times than most (IANA time zone database).
    const odd = ['Africa/Casablanca', 'Africa/Cairo', 'Antarctica/Casey', 'Asia/Gaza', 'Asia/Pyongyang']
    const anytime = fc.integer({ min: Date.UTC(1985, 0, 1), max: Date.UTC(2037, 0, 1) })
    const steps = fc.constantFrom(60_000, 3_600_000, 40_000_000)
    fc.assert(
      fc.property(fc.constantFrom(...ZONES, ...odd), anytime, steps, (zone, from, step) => {
        for (let k = 0; k < 40; k++) {
          const moment = from + k * step
          const asked = DateTime.fromMillis(moment, { zone, locale: 'en' })
          expect(offsetAt(zone, moment)).toBe(asked.offset)
          expect(sayMoment(moment, zone)).toBe(asked.toFormat('ccc d LLL yyyy, HH:mm'))
          const { start, end, year, month } = localDayOf(moment, zone)
          expect([start, year, month]).toEqual([asked.startOf('day').toMillis(), asked.year, asked.month])
          expect(end).toBe(asked.startOf('day').plus({ days: 1 }).toMillis())
        }
      }),
    )
  })

  it('every date ends where the next begins, also where a day has 23 or 25 hours', () => {
    fc.assert(
      fc.property(zones, moments, (zone, moment) => {
        const end = endOfDate(dateIn(moment, zone), zone)
        expect(moment).toBeLessThan(end)
        expect(dateIn(end - 1, zone)).toBe(dateIn(moment, zone))
        expect(dateIn(end, zone) > dateIn(moment, zone)).toBe(true)
      }),
    )
  })

  it('a stamp with its offset is the moment again', () => {
    fc.assert(
      fc.property(zones, moments, (zone, moment) => {
        expect(Date.parse(stampOf({ count: 5, unit: 'min' }, zone, moment))).toBe(moment)
      }),
    )
  })
})
