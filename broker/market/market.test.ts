import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { BRACKWATER, sessionsBetween } from '@/core/market/venue'
import { LISTING } from './listing'
import { Market } from './market'
import { Markets } from './markets'

const FIRST = '2024-09-03'
const market = new Market(BRACKWATER, LISTING, 'test', FIRST, '2026-06-30')
const sessions = sessionsBetween(BRACKWATER, FIRST, '2026-03-16')

describe('the listing', () => {
  it('has at least 150 stocks and funds in sectors, and one index', () => {
    const orderable = LISTING.filter((l) => l.orderable)
    expect(orderable.length).toBeGreaterThanOrEqual(150)
    expect(LISTING.filter((l) => l.kind === 'Index')).toHaveLength(1)
    expect(new Set(orderable.map((l) => l.sector)).size).toBeGreaterThanOrEqual(8)
    expect(new Set(LISTING.map((l) => l.symbol)).size).toBe(LISTING.length)
    expect(new Set(LISTING.map((l) => l.name)).size).toBe(LISTING.length)
  })

  it('no name that is somebody’s: no symbol has the form of a real fund, no company that of a known one', () => {
    const { listing } = new Markets('test', FIRST, '2026-06-30', 8_000)
    // Common practice: five letters that end in X are a fund of the real market.
    expect(listing.filter((l) => /X$/.test(l.symbol))).toEqual([])
    for (const fund of listing.filter((l) => l.kind === 'Fund')) expect(fund.symbol).toMatch(/F$/)
    const known =
      /\b(Delta|Ford|Crown|Heron|Pine|West|Woolmark|Reservoir|Crane|Cloud|Light|Networks|Maple|Pearl)\b/i
    expect(listing.filter((l) => known.test(l.name) || known.test(l.symbol)).map((l) => l.name)).toEqual([])
  })

  it('grown to 8,000 over its venues, no symbol and no name stands twice; an index has its members', () => {
    const { listing } = new Markets('test', FIRST, '2026-06-30', 8_000)
    expect(listing).toHaveLength(8_000)
    expect(new Set(listing.map((l) => l.symbol)).size).toBe(8_000)
    expect(new Set(listing.map((l) => l.name)).size).toBe(8_000)
    expect(listing.filter((l) => l.indices.includes('Brackwater Forty'))).toHaveLength(40)
    expect(
      listing.filter((l) => l.indices.includes('Skerry All-Share')).every((l) => l.venue === 'XSKR'),
    ).toBe(true)
  })
})

describe('bars', () => {
  it('minute bars of a day add up exactly to its daily bar', () => {
    for (const listed of LISTING.slice(0, 40)) {
      const daily = market.dailyOf(listed)
      for (const row of [0, 77, 201, sessions.length - 1]) {
        const m = market.minutesOf(listed, sessions[row])
        expect({
          open: m.open[0],
          high: Math.max(...m.high),
          low: Math.min(...m.low),
          close: m.close.at(-1),
          volume: m.volume.reduce((a, b) => a + b, 0),
        }).toEqual({
          open: daily.open[row],
          high: daily.high[row],
          low: daily.low[row],
          close: daily.close[row],
          volume: daily.volume[row],
        })
      }
    }
  })

  it('every bar is whole: low at the bottom, high on top, no volume below nought, prices on the tick', () => {
    for (const listed of LISTING) {
      const { open, high, low, close, volume } = market.dailyOf(listed)
      for (let i = 0; i < sessions.length; i++) {
        const ok =
          low[i] > 0 &&
          low[i] <= Math.min(open[i], close[i]) &&
          high[i] >= Math.max(open[i], close[i]) &&
          volume[i] >= 0 &&
          (low[i] < 10_000 || [open[i], high[i], low[i], close[i]].every((price) => price % 100 === 0))
        if (!ok) throw new Error(`${listed.symbol} on ${sessions[i].date} is broken`)
      }
    }
  })

  it('comes out the same from the same seed, and otherwise from another', () => {
    const again = new Market(BRACKWATER, LISTING, 'test', FIRST, '2026-06-30')
    const other = new Market(BRACKWATER, LISTING, 'other', FIRST, '2026-06-30')
    const closes = (m: Market) => [...m.dailyOf(LISTING[3]).close.slice(0, 60)]
    expect(closes(again)).toEqual(closes(market))
    expect(closes(other)).not.toEqual(closes(market))
  })

  it('growing the calendar changes nothing that was there', () => {
    const small = new Market(BRACKWATER, LISTING, 'test', FIRST, '2026-03-20')
    const before = [...small.dailyOf(LISTING[5]).close]
    small.reach(Date.parse('2026-12-01T00:00:00Z'))
    expect([...small.dailyOf(LISTING[5]).close.slice(0, before.length)]).toEqual(before)
  })

  it('has gaps, trends and quiet spells', () => {
    const facts = LISTING.filter((l) => l.orderable).map((listed) => {
      const { open, high, low, close } = market.dailyOf(listed)
      const gaps = sessions.filter((_, i) => i > 0 && (open[i] > high[i - 1] || open[i] < low[i - 1])).length
      const year = close[sessions.length - 1] / close[sessions.length - 250] - 1
      const range = (i: number) => (high[i] - low[i]) / close[i]
      const months = Array.from({ length: 12 }, (_, m) => {
        const from = sessions.length - 252 + m * 21
        return Array.from({ length: 21 }, (_, d) => range(from + d)).reduce((a, b) => a + b, 0) / 21
      })
      return { gaps, year, calm: Math.min(...months) / Math.max(...months) }
    })
    expect(facts.filter((f) => f.gaps > 5).length).toBeGreaterThan(facts.length / 2)
    expect(facts.some((f) => f.year > 0.3)).toBe(true)
    expect(facts.some((f) => f.year < -0.15)).toBe(true)
    expect(facts.filter((f) => f.calm < 0.6).length).toBeGreaterThan(facts.length / 3)
  })
})

describe('quotes', () => {
  it('the bid lies below the ask, the last trade at one of them, within the minute’s bar', () => {
    const session = sessions.at(-1)!
    for (const listed of LISTING.slice(0, 30)) {
      const minutes = market.minutesOf(listed, session)
      for (let second = 0; second < 600; second += 7) {
        const quote = market.quoteAt(listed, session.open + second * 1000)
        const minute = Math.floor(second / 60)
        const sound =
          quote.bid < quote.ask &&
          [quote.bid, quote.ask].includes(quote.last) &&
          quote.last <= minutes.high[minute] &&
          quote.last >= minutes.low[minute]
        if (!sound) throw new Error(`${listed.symbol}, second ${second}: ${JSON.stringify(quote)}`)
      }
    }
  })

  it('the seconds of a minute reach its high, its low and its close', () => {
    const session = sessions.at(-1)!
    const [listed] = LISTING
    const minutes = market.minutesOf(listed, session)
    for (const at of [0, 71, 200]) {
      const { bar } = market.minuteSoFar(listed, session, session.open + at * 60_000 + 59_000)
      expect(bar).toEqual({
        open: minutes.open[at],
        high: minutes.high[at],
        low: minutes.low[at],
        close: minutes.close[at],
        volume: minutes.volume[at],
      })
    }
  })
})

describe('what was traded between two moments', () => {
  const listed = LISTING[3]
  const session = sessions.at(-1)!
  const MINUTE = 60_000

  it('message after message, adds up to the minute bars', () => {
    fc.assert(
      fc.property(
        fc.nat(380),
        fc.integer({ min: 1, max: 9 }),
        fc.array(fc.integer({ min: 1, max: 200 }), { minLength: 1, maxLength: 20 }),
        (at, minutes, steps) => {
          const [start, end] = [session.open + at * MINUTE, session.open + (at + minutes) * MINUTE]
          const told = { high: -Infinity, low: Infinity, volume: 0, up: 0, down: 0 }
          let from = start - 1000
          for (let k = 0; from < end - 1000; k++) {
            const to = Math.min(end - 1000, from + 1000 * steps[k % steps.length])
            const since = market.tradedBetween(listed, from, to)!
            told.high = Math.max(told.high, since.high)
            told.low = Math.min(told.low, since.low)
            for (const name of ['volume', 'up', 'down'] as const) told[name] += since[name]
            from = to
          }
          const bars = market.minutesOf(listed, session)
          const whole = (column: Int32Array) => column.subarray(at, at + minutes)
          const trades = Array.from({ length: minutes }, (_, k) => market.tradesOf(listed, session, at + k))
          expect(told).toEqual({
            high: Math.max(...whole(bars.high)),
            low: Math.min(...whole(bars.low)),
            volume: whole(bars.volume).reduce((sum, one) => sum + one, 0),
            up: trades.reduce((sum, one) => sum + one.up, 0),
            down: trades.reduce((sum, one) => sum + one.down, 0),
          })
        },
      ),
      { numRuns: cases(30) },
    )
  })

  it('over a night is what the sessions on both sides have', () => {
    const before = sessions.at(-2)!
    const told = market.tradedBetween(listed, before.close - 61_000, session.open + 59_000)!
    const [evening, morning] = [market.minutesOf(listed, before), market.minutesOf(listed, session)]
    expect(told.volume).toBe(evening.volume.at(-1)! + morning.volume[0])
    expect(market.tradedBetween(listed, before.close, session.open - 1000)).toBeUndefined()
  })
})
