import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { type Bars, emptyBars, sliceBars } from '@/core/market/bars'
import { type Drawing } from '@/core/market/drawings'
import { onTick } from '@/core/market/increment'
import { BRACKWATER, SKERRY, sessionsBetween } from '@/core/market/venue'
import { barSource, checkRule } from '@/core/rules'
import { ruleColumn } from '@/core/scan/hits'
import { scan } from '@/core/scan/scan'
import { barsOf, prices } from '@/tests/bars'
import { type Asked, lookPath, readAsked } from './asked'
import { draggedTo, heldAt } from './dragging'
import { asFound, barNamed } from './found'
import { spread } from './lineNames'
import { holds, rowOnDate } from './marks'
import { rulerNames, rulerOf, thinnedNotches } from './ruler'

/** Minute bars of some sessions of a venue. */
function minutes(venue: typeof BRACKWATER, from: string, to: string, every: number): Bars {
  const rows = sessionsBetween(venue, from, to).flatMap((s) =>
    Array.from(
      { length: Math.floor((s.close - s.open) / 60_000 / every) },
      (_, k) => s.open + k * every * 60_000,
    ),
  )
  const bars = emptyBars(rows.length, { count: every, unit: 'min' }, venue.zone)
  rows.forEach((time, i) => {
    bars.time[i] = time
    bars.end[i] = time + every * 60_000
    const close = 20 + Math.sin(i / 7)
    for (const name of ['open', 'high', 'low', 'close'] as const) bars[name][i] = close
    bars.volume[i] = 100
  })
  return bars
}

function days(venue: typeof BRACKWATER, from: string, to: string): Bars {
  const sessions = sessionsBetween(venue, from, to)
  const bars = emptyBars(sessions.length, { count: 1, unit: 'day' }, venue.zone)
  sessions.forEach((s, i) => {
    bars.time[i] = s.open
    bars.end[i] = s.close
    bars.close[i] = 20
  })
  return bars
}

describe('the address of a chart', () => {
  it('carries rule, bars, adjustment, day and moment, and gives them back', () => {
    const asked: Asked = { rule: 'close > 5% & x', prices: 'as-traded', asOf: '2026-03-10', dataId: 'd 1' }
    for (const venue of [BRACKWATER, SKERRY]) {
      const bars = minutes(venue, '2026-03-05', '2026-03-10', 3)
      const found = { every: '3 min', zone: venue.zone, bar: bars.time[140], first: bars.time[0] }
      const path = lookPath('A B', asked, found)
      const back = readAsked(new URLSearchParams(path.split('?')[1]))
      expect(path.startsWith('/look/A%20B?')).toBe(true)
      expect(back).toMatchObject({ ...asked, every: '3 min' })
      expect(barNamed(bars, back.at)).toBe(140)
    }
  })
  it('of a daily bar it is a date, found again in whatever zone the bars are', () => {
    const bars = days(SKERRY, '2026-03-02', '2026-03-31')
    const path = lookPath(
      'X',
      {},
      { every: '1 day', zone: bars.zone, bar: bars.time[5], first: bars.time[0] },
    )
    expect(path).toContain('at=2026-03-09')
    expect(barNamed(bars, '2026-03-09')).toBe(5)
    expect(barNamed(barsOf([1, 2, 3]), '2025-01-07')).toBe(1)
    expect(barNamed(bars, '2031-01-01')).toBeUndefined()
  })
  it('what is none in it is left out', () => {
    expect(readAsked(new URLSearchParams('every=soon&prices=twice&at=x&as-of=never&rule=close'))).toEqual({
      rule: 'close',
    })
    expect(lookPath('X', { rule: 'x'.repeat(5_000) })).toBe('/look/X')
  })
})

describe('from a result to the chart', () => {
  it('the chart’s verdict is the row’s, also where an average began with its first bar, and as of a past day', () => {
    const rule = checkRule('close > ema(close, 9) and rsi(5) > 40').tree!
    fc.assert(
      fc.property(
        prices(40, 60),
        fc.integer({ min: 0, max: 20 }),
        fc.integer({ min: 20, max: 39 }),
        (closes, cut, day) => {
          const whole = barsOf(closes)
          // What the scan held: the last bars, up to a past day.
          const held = sliceBars(whole, cut, whole.time.length)
          const asOf = new Date(whole.time[day]).toISOString().slice(0, 10)
          const found = scan(
            { symbols: ['A'], bars: [held] },
            { rule, measures: [], every: whole.every },
            { by: asOf },
          )
          if (day <= cut) return
          // What the chart has: everything, and all that came after.
          const [row] = found.rows
          const first = new Date(held.time[0]).toISOString().slice(0, 10)
          const chart = asFound(whole, first)
          const { verdictAt } = ruleColumn(rule, barSource(chart))
          const at = barNamed(chart, asOf)!
          expect(verdictAt(at) === 'holds').toBe(row !== undefined)
          if (row) expect(chart.time[at]).toBe(row.bar)
        },
      ),
    )
  })
})

describe('the year rail', () => {
  const all = days(BRACKWATER, '2025-01-02', '2026-03-31')
  it('of minutes is measured in sessions, loaded or not', () => {
    const bars = minutes(BRACKWATER, '2026-03-09', '2026-03-13', 5)
    const ruler = rulerOf(bars, all)
    expect(ruler.units).toBe(all.time.length)
    for (const row of [0, 77, 78, 200, bars.time.length - 1]) {
      expect(ruler.rowAt(ruler.placeOf(row) + 1e-6)).toBe(row)
      expect(Math.abs(ruler.momentAt(ruler.placeOf(row)) - bars.time[row])).toBeLessThan(60_000)
    }
    expect(ruler.rowAt(10)).toBeUndefined()
  })
  it('of days is measured in bars, and named by its years or months, few enough to be read', () => {
    const ruler = rulerOf(all, undefined)
    expect([ruler.rowAt(12.7), ruler.units]).toEqual([12, all.time.length])
    expect(rulerNames(ruler, all.zone, 6)).toEqual([{ place: expect.any(Number), text: '2026' }])
    const names = rulerNames(ruler, all.zone, 20)
    expect(names[0]).toEqual({ place: expect.any(Number), text: 'Feb 2025' })
    expect(names.length).toBeLessThanOrEqual(20)
  })
  it('draws no more notches than can be told apart', () => {
    const notches = Array.from({ length: 5_000 }, (_, i) => ({ place: i / 4, kind: 'for' as const }))
    expect(thinnedNotches(notches, 5).length).toBe(250)
  })
})

describe('what is drawn, moved by dragging', () => {
  const level: Drawing = { id: 'l', kind: 'level', name: 'shelf', price: 12.5 }
  const zone: Drawing = { id: 'z', kind: 'zone', name: 'gap', upper: 14, lower: 13 }
  const line: Drawing = {
    id: 'r',
    kind: 'line',
    name: 'rise',
    from: { time: 2, price: 10 },
    to: { time: 8, price: 13 },
  }
  // One row is 10 pixels, one unit of price 20, downwards.
  const at = (row: number, price: number) => ({ x: 10 * row, y: 400 - 20 * price })
  const held = (drawings: Drawing[], row: number, price: number) =>
    heldAt(drawings, { row, price, ...at(row, price) }, at, (moment) => moment)

  it('is held where the mouse is near it, a line by an end or as a whole, a zone by an edge', () => {
    expect(held([level], 3, 12.6)?.part).toBe('whole')
    expect(held([level], 3, 13)).toBeUndefined()
    expect(held([zone], 3, 14.1)?.part).toBe('upper')
    expect(held([zone], 3, 12.9)?.part).toBe('lower')
    expect(held([line], 2, 10)?.part).toBe('from')
    expect(held([line], 8, 13)?.part).toBe('to')
    expect(held([line], 5, 11.5)?.part).toBe('whole')
    expect(held([line], 20, 19)?.part).toBe('whole')
    expect(held([level, { ...level, id: 'last' }], 3, 12.5)?.drawing.id).toBe('last')
  })

  it('stands on the price steps of its own security, wherever it is let go', () => {
    const drawings = fc.constantFrom(level, zone, line)
    const steps = fc.constantFrom(BRACKWATER.increments, SKERRY.increments)
    fc.assert(
      fc.property(
        drawings,
        steps,
        fc.double({ min: -9, max: 90, noNaN: true }),
        fc.integer({ min: -3, max: 9 }),
        (drawing, bands, by, rows) => {
          const part = drawing.kind === 'zone' ? 'upper' : 'whole'
          const moved = draggedTo(
            { drawing, part, row: 5, price: 11 },
            { row: 5 + rows, price: 11 + by },
            bands,
            (t, k) => t + k,
          )
          const written =
            moved.kind === 'level'
              ? [moved.price]
              : moved.kind === 'zone'
                ? [moved.upper, moved.lower].filter((p) => p !== 13)
                : [moved.from.price, moved.to.price]
          for (const price of written) expect(onTick(bands, price)).toBe(true)
          if (moved.kind === 'zone') expect(moved.upper).toBeGreaterThanOrEqual(moved.lower)
          if (moved.kind === 'line') expect([moved.from.time, moved.to.time]).toEqual([2 + rows, 8 + rows])
        },
      ),
    )
  })

  it('of a line held by one end the other stays', () => {
    const moved = draggedTo(
      { drawing: line, part: 'to', row: 8, price: 13 },
      { row: 6, price: 14.004 },
      BRACKWATER.increments,
      (t, k) => t + k,
    )
    expect(moved).toMatchObject({ from: line.kind === 'line' && line.from, to: { time: 6, price: 14 } })
  })
})

it('an ex-date lies on the bar of that date, in every zone and on bars of any length', () => {
  for (const venue of [BRACKWATER, SKERRY]) {
    const daily = days(venue, '2026-03-02', '2026-03-31')
    expect(rowOnDate(daily, '2026-03-10')).toBe(6)
    const fine = minutes(venue, '2026-03-09', '2026-03-11', 30)
    const row = rowOnDate(fine, '2026-03-10')!
    expect(new Date(fine.time[row]).toISOString().slice(0, 10)).toBe('2026-03-10')
    expect(new Date(fine.time[row - 1]).toISOString().slice(0, 10)).toBe('2026-03-09')
    expect(rowOnDate(fine, '2026-03-08')).toBeUndefined()
  }
})

it('a moment beyond the bars is not of them; the night after the last one is', () => {
  const fine = minutes(BRACKWATER, '2026-03-09', '2026-03-11', 30)
  const [first, last] = [fine.time[0], fine.end[fine.end.length - 1]]
  expect(
    [first - 1, first, last, last + 10 * 3_600_000, last + 48 * 3_600_000].map((t) => holds(fine, t)),
  ).toEqual([false, true, true, true, false])
})

it('names of lines never lie on one another, keep their order, and stay where there is room', () => {
  expect(spread([100, 104, 300], 14, 500)).toEqual([100, 114, 300])
  expect(spread([495, 490], 14, 500)).toEqual([500, 486])
  const heights = fc.array(fc.integer({ min: 0, max: 400 }), { minLength: 1, maxLength: 20 })
  fc.assert(
    fc.property(heights, (natural) => {
      const order = [...natural.keys()].sort((a, b) => natural[a] - natural[b])
      const placed = order.map((i) => spread(natural, 14, 400)[i])
      for (let i = 1; i < placed.length; i++) expect(placed[i] - placed[i - 1]).toBeGreaterThanOrEqual(14)
      expect(placed.at(-1)).toBeLessThanOrEqual(400)
    }),
  )
})
