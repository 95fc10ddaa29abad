import { afterAll, beforeAll, describe, expect, it } from '@jest/globals'
import { DateTime } from 'luxon'
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { readCsv } from '@/core/formats/csv'
import { BRACKWATER, sessionsBetween } from '@/core/market/venue'
import { tempDir } from '@/tests/broker'
import { heron } from '@/tests/command'

let dir: Awaited<ReturnType<typeof tempDir>>
const path = (name: string) => join(dir.path, name)

/** Five-minute bars over the week in which Halifax puts its clocks forward, each session climbing by a step a bar. */
function minutes(step: number): string {
  const rows = sessionsBetween(BRACKWATER, '2026-03-05', '2026-03-10').flatMap(({ open, close }) =>
    Array.from({ length: (close - open) / 300_000 }, (_, k) => {
      const at = DateTime.fromMillis(open + k * 300_000, { zone: BRACKWATER.zone })
      const price = 20 + step * k
      return `${at.toFormat('yyyy-MM-dd HH:mm')},${price},${price + 0.5},${price - 0.5},${price},100`
    }),
  )
  return ['time,open,high,low,close,volume', ...rows].join('\n')
}

beforeAll(async () => {
  dir = await tempDir()
  mkdirSync(path('bars'))
  writeFileSync(path('bars/CLIMB.csv'), minutes(0.1))
  writeFileSync(path('bars/SLIDE.csv'), minutes(-0.1))
  writeFileSync(path('list.csv'), 'symbol,why\nslide,fell\nNOSUCH,gone\n')
})
afterAll(() => dir.remove())

describe('minute bars on the command line', () => {
  const scan = (rule: string, ...more: string[]) =>
    heron('scan', '--rule', rule, '--bars', path('bars'), '--zone', 'America/Halifax', ...more)

  it('know the session, its opening range and the day before, across a clock change', async () => {
    const { out, err, code } = await scan(
      'close > opening(30 min).high and close > on(1 day, close) - 1 and time > 15:00',
      '--measure',
      'opening(30 min).high',
      '--measure',
      'prior.close',
    )
    expect([code, err]).toEqual([0, ''])
    const [row, ...none] = readCsv(out).rows
    expect(none).toEqual([])
    // Seventy-eight bars a session: 20, 20.1, … 27.7; the first six have their highs up to 21.
    expect(row.cells[0]).toBe('CLIMB')
    expect(row.cells.slice(2).map(Number)).toEqual([27.7, 21, 27.7])
  })

  it('are made into any length, aligned to the session', async () => {
    const { out } = await heron(
      ...['indicators', '--bars', path('bars/CLIMB.csv'), '--zone', 'America/Halifax'],
      ...['--expr', 'on(45 min, close)', '--expr', 'on(2 hours, open)'],
    )
    const rows = readCsv(out).rows
    const at = (time: string) =>
      rows
        .find((row) => row.cells[0].startsWith(time))!
        .cells.slice(1)
        .map(Number)
    // By 11:30 the 45-minute bars up to 11:00 and to 11:45 … of 09:30: the last complete ended at 11:00.
    expect(at('2026-03-09 11:25')[0]).toBeCloseTo(20 + 0.1 * 17, 9)
    expect(at('2026-03-09 11:25')[1]).toBeCloseTo(20, 9)
  })

  it('are looked at only among those of a list from a file', async () => {
    const { out, err } = await scan('close > 0', '--among', `@${path('list.csv')}`)
    expect(readCsv(out).rows.map((row) => row.cells[0])).toEqual(['SLIDE'])
    expect(err).toContain('NOSUCH')
  })

  it.each([
    ['close > on(7 moons, close)', 'moons'],
    ['close > opening(2000 min).high', '1,440'],
    ['close > earlier(close, 10000 bars)', '5,000'],
    ['time > 25:00', '25:00'],
    ['close > 5% and', ''],
  ])('%s is refused at its place', async (rule, place) => {
    const { code, err, out } = await scan(rule)
    expect([code, out]).toEqual([2, ''])
    expect(err).toContain(place)
    expect(err).toContain('^')
  })
})
