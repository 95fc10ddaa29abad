import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { DateTime } from 'luxon'
import { type Bars, emptyBars, sliceBars } from './bars'
import { resample } from './resample'
import { parseTimeframe, type Timeframe } from './timeframe'
import { BRACKWATER, sessionsBetween, SKERRY, type Venue } from './venue'

const made = new Map<string, Bars>()

/** Bars of so many minutes over the sessions of a venue between two dates, with prices that tell them apart. */
function sessionBars(venue: Venue, from: string, to: string, minutes: number): Bars {
  const name = [venue.mic, from, to, minutes].join()
  const known = made.get(name)
  if (known) return known
  const step = minutes * 60_000
  const starts = sessionsBetween(venue, from, to).flatMap(({ open, close }) =>
    Array.from({ length: Math.ceil((close - open) / step) }, (_, k) => ({
      time: open + k * step,
      end: Math.min(close, open + (k + 1) * step),
    })),
  )
  const bars = emptyBars(starts.length, { count: minutes, unit: 'min' }, venue.zone)
  for (const [i, { time, end }] of starts.entries()) {
    bars.time[i] = time
    bars.end[i] = end
    bars.open[i] = 100 + Math.sin(i)
    bars.close[i] = 100 + Math.sin(i + 1)
    bars.high[i] = Math.max(bars.open[i], bars.close[i]) + (i % 3)
    bars.low[i] = Math.min(bars.open[i], bars.close[i]) - (i % 5)
    bars.volume[i] = 10 + (i % 17)
  }
  made.set(name, bars)
  return bars
}

/** Into which coarse bar a moment falls, said in words by the calendar of Luxon (which reads the IANA data). */
function nameOf(moment: number, sessionOpen: number, zone: string, { count, unit }: Timeframe): string {
  const local = DateTime.fromMillis(moment, { zone })
  const day = local.toISODate()!
  if (unit === 'min') return `${day} ${Math.floor((moment - sessionOpen) / (count * 60_000))}`
  if (unit === 'hour') return `${day} ${Math.floor((moment - sessionOpen) / (count * 3_600_000))}`
  if (unit === 'day') return day
  return unit === 'week' ? `${local.weekYear} ${local.weekNumber}` : `${local.year} ${local.month}`
}

/** The coarse bars, gathered in the plainest way. */
function gathered(bars: Bars, opens: readonly number[], every: Timeframe) {
  const groups = new Map<string, number[]>()
  for (let i = 0; i < bars.time.length; i++) {
    const open = opens.findLast((moment) => moment <= bars.time[i])!
    const name = nameOf(bars.time[i], open, bars.zone, every)
    groups.set(name, [...(groups.get(name) ?? []), i])
  }
  return [...groups.values()].map((rows) => ({
    time: bars.time[rows[0]],
    open: bars.open[rows[0]],
    high: Math.max(...rows.map((i) => bars.high[i])),
    low: Math.min(...rows.map((i) => bars.low[i])),
    close: bars.close[rows.at(-1)!],
    volume: rows.reduce((sum, i) => sum + bars.volume[i], 0),
    end: bars.end[rows.at(-1)!],
  }))
}

/** Weeks in which clocks change in Halifax (8 March, 1 November 2026) and in Helsinki (29 March, 25 October 2026). */
const STRETCHES = [
  ['2026-03-02', '2026-03-13'],
  ['2026-03-23', '2026-04-10'],
  ['2026-10-19', '2026-11-06'],
  ['2026-12-21', '2027-01-08'],
] as const

describe('bars of any length over the sessions of either venue', () => {
  const frames = fc.oneof(
    fc.integer({ min: 2, max: 26 }).map((k) => `${15 * k} min`),
    fc.integer({ min: 1, max: 7 }).map((count) => `${count} hour`),
    fc.constantFrom('1 day', '1 week', '1 month'),
  )

  it('are what the plainest way of gathering gives, over clock changes and early closes', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(BRACKWATER, SKERRY),
        fc.constantFrom(...STRETCHES),
        frames,
        (venue, [from, to], text) => {
          const every = parseTimeframe(text)!
          const bars = sessionBars(venue, from, to, 15)
          const opens = sessionsBetween(venue, from, to).map((session) => session.open)
          const wanted = gathered(bars, opens, every)
          const got = resample(bars, every).bars
          expect(got.time).toHaveLength(wanted.length)
          for (const name of ['time', 'open', 'high', 'low', 'close', 'volume'] as const)
            expect([...got[name]]).toEqual(wanted.map((bar) => bar[name]))
          // The last may still grow; every other is complete with its last part.
          expect([...got.end].slice(0, -1)).toEqual(wanted.map((bar) => bar.end).slice(0, -1))
        },
      ),
      { numRuns: cases(40) },
    )
  })

  it('several days or weeks together lose no bar, no share and keep their order', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(BRACKWATER, SKERRY),
        fc.integer({ min: 2, max: 9 }),
        fc.constantFrom('day', 'week', 'month'),
        (venue, count, unit) => {
          const bars = resample(sessionBars(venue, '2026-01-02', '2026-12-30', 195), {
            count: 1,
            unit: 'day',
          }).bars
          const got = resample(bars, { count, unit: unit as 'day' }).bars
          const sum = (column: Float64Array) => column.reduce((a, b) => a + b, 0)
          expect(sum(got.volume)).toBe(sum(bars.volume))
          expect(Math.max(...got.high)).toBe(Math.max(...bars.high))
          for (let r = 1; r < got.time.length; r++) {
            expect(got.time[r]).toBeGreaterThan(got.time[r - 1])
            expect(got.time[r]).toBeGreaterThanOrEqual(got.end[r - 1])
          }
        },
      ),
      { numRuns: cases(20) },
    )
  })

  it('what is complete does not change when more comes', () => {
    fc.assert(
      fc.property(frames, fc.integer({ min: 30, max: 200 }), (text, n) => {
        const every = parseTimeframe(text)!
        const all = sessionBars(BRACKWATER, '2026-03-02', '2026-03-20', 15)
        const early = resample(sliceBars(all, 0, Math.min(n, all.time.length)), every).bars
        const late = resample(all, every).bars
        for (let r = 0; r < early.time.length - 1; r++)
          expect([early.time[r], early.close[r], early.volume[r], early.end[r]]).toEqual([
            late.time[r],
            late.close[r],
            late.volume[r],
            late.end[r],
          ])
      }),
      { numRuns: cases(30) },
    )
  })
})

describe('sessions against the IANA time zone database', () => {
  it.each([
    [BRACKWATER, '2026-03-06', '-04:00'],
    [BRACKWATER, '2026-03-09', '-03:00'],
    [BRACKWATER, '2026-10-30', '-03:00'],
    [BRACKWATER, '2026-11-02', '-04:00'],
    [SKERRY, '2026-03-27', '+02:00'],
    [SKERRY, '2026-03-30', '+03:00'],
    [SKERRY, '2026-10-23', '+03:00'],
    [SKERRY, '2026-10-26', '+02:00'],
  ])('%s on %s stands at %s', (venue, date, offset) => {
    const [session] = sessionsBetween(venue, date, date)
    const open = DateTime.fromMillis(session.open, { zone: venue.zone })
    expect(open.toFormat('yyyy-MM-dd ZZ')).toBe(`${date} ${offset}`)
    const [hour, minute] = [open.hour, open.minute]
    const usual = sessionsBetween(venue, '2026-06-01', '2026-06-01')[0]
    const summer = DateTime.fromMillis(usual.open, { zone: venue.zone })
    expect([hour, minute]).toEqual([summer.hour, summer.minute])
  })

  it('both venues are open together for some hours, which the clock changes of March shift by one', () => {
    const overlap = (date: string) => {
      const [home] = sessionsBetween(BRACKWATER, date, date)
      const [north] = sessionsBetween(SKERRY, date, date)
      return (Math.min(home.close, north.close) - Math.max(home.open, north.open)) / 3_600_000
    }
    // Between 8 and 29 March Halifax has summer time and Helsinki has not.
    expect(overlap('2026-03-16') - overlap('2026-03-04')).toBe(1)
    expect(overlap('2026-04-15')).toBe(overlap('2026-03-04'))
  })
})
