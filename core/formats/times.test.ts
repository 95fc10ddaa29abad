import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { DateTime } from 'luxon'
import { matchColumns } from './barColumns'
import { readBars } from './barsCsv'
import { readCsv } from './csv'
import { sayLine } from './say'

const read = (times: readonly string[], zone: string) => {
  const lines = times.map((time) => `${time},10,11,9,10,5`)
  const grid = readCsv(['time,open,high,low,close,volume', ...lines].join('\n'))
  return readBars(grid, matchColumns(grid.columns), 'TARN', zone)
}

const ZONES = [
  'America/Halifax',
  'Europe/Helsinki',
  'Asia/Tokyo',
  'Australia/Lord_Howe',
  'America/Sao_Paulo',
  'UTC',
]

describe('times of a file of bars', () => {
  it('are those of the IANA time zone database, also on days on which the clocks change', () => {
    // Days about changes in some of the zones, and any others.
    const days = fc.oneof(
      fc.constantFrom('2026-03-08', '2026-11-01', '2026-03-29', '2026-10-25', '2018-11-04', '2026-04-05'),
      fc.integer({ min: 0, max: 6000 }).map((k) => DateTime.utc(2012, 1, 1).plus({ days: k }).toISODate()!),
    )
    const clock = fc.tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 0, max: 59 }), fc.boolean())
    fc.assert(
      fc.property(
        fc.constantFrom(...ZONES),
        days,
        clock,
        fc.constantFrom(' ', 'T'),
        (zone, day, [h, m, s], gap) => {
          const two = (n: number) => String(n).padStart(2, '0')
          const text = `${day}${gap}${two(h)}:${two(m)}${s ? ':30' : ''}`
          const { securities } = read([text], zone)
          // At midnight it is a date, whatever the zone.
          const wanted = h + m === 0 && !s ? `${day}T00:00Z` : text.replace(' ', 'T')
          expect(securities[0].bars.time[0]).toBe(DateTime.fromISO(wanted, { zone }).toMillis())
        },
      ),
      { numRuns: cases(150) },
    )
  })

  it.each([
    ['2026-02-30 10:00', 'is not a date or time'],
    ['2026-03-09 24:30', 'is not a date or time'],
    ['2026-03-09 10:75', 'is not a date or time'],
    ['2026-13-09 10:00', 'is not a date or time'],
    ['yesterday 10:00', 'is not a date or time'],
  ])('%s is left out, the line named', (text, reason) => {
    const { bad, good } = read(['2026-03-09 10:00', text], 'UTC')
    expect(good).toBe(1)
    expect(bad.map(({ line, problem }) => `${line}: ${sayLine(problem)}`)).toEqual([`3: "${text}" ${reason}`])
  })

  it('unordered and doubled times are put in order, the first of each kept', () => {
    const times = ['2026-03-09 10:02', '2026-03-09 10:00', '2026-03-09 10:01', '2026-03-09 10:00']
    const { securities, bad } = read(times, 'UTC')
    const { time } = securities[0].bars
    expect([...time].map((t) => new Date(t).getUTCMinutes())).toEqual([0, 1, 2])
    expect(bad).toEqual([{ line: 5, problem: { code: 'same_time', line: 3 } }])
  })

  it('20,000 minutes are read whole; a wall clock that the zone skips in spring is the one an hour on', () => {
    const start = Date.UTC(2020, 1, 28)
    const times = Array.from({ length: 20_000 }, (_, i) =>
      new Date(start + i * 60_000).toISOString().slice(0, 16).replace('T', ' '),
    )
    const { good, bad, securities } = read(times, 'America/Halifax')
    const [{ bars }] = securities
    // IANA: on 8 March 2020 Halifax went from 02:00 to 03:00.
    expect([good, bad.length, bars.time.length]).toEqual([19_940, 60, 19_940])
    const skipped = times.findIndex((time) => time.endsWith('08 02:00'))
    expect(bad[0]).toEqual({ line: skipped + 62, problem: { code: 'same_time', line: skipped + 2 } })
    expect(bars.time.every((time, i) => i === 0 || time > bars.time[i - 1])).toBe(true)
    expect(bars.every).toEqual({ count: 1, unit: 'min' })
  })
})
