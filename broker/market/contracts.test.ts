import { describe, expect, it } from '@jest/globals'
import { incrementAt } from '@/core/market/increment'
import { sessionsBetween, BRACKWATER } from '@/core/market/venue'
import { type Listed } from './listing'
import { Markets } from './markets'

const markets = new Markets('test', '2025-06-02', '2026-12-31')
const market = markets.home
const NOW = Date.parse('2026-03-16T12:00:00-03:00')
const DAY = { count: 1, unit: 'day' } as const
const MINUTE = { count: 1, unit: 'min' } as const

const underlying = markets.find('OSPRY')!
/** One with few contracts. */
const small = markets.find('SCURV')!
const chain = market.chains.chainOf(underlying, NOW)
/** Contracts near the price and far from it, of near and far expiries. */
const some = chain.filter((_, i) => i % 37 === 0)

/** Seconds of a stretch at which a contract may have been told a price. */
const secondsOf = (from: number, to: number) =>
  Array.from({ length: (to - from) / 1000 }, (_, i) => from + 1000 * i)

describe('bars of an option contract', () => {
  it('hold nothing but what its own quotes were: minutes', () => {
    for (const contract of some.slice(0, 4)) {
      const bars = markets.bars(contract, MINUTE, NOW, { limit: 3, soFar: false })
      for (let i = 0; i < 3; i++) {
        const quotes = secondsOf(bars.time[i], bars.end[i]).map((at) => markets.quoteAt(contract, at))
        expect(bars.open[i]).toBe(quotes[0].last / 10_000)
        expect(bars.close[i]).toBe(quotes[59].last / 10_000)
        expect(bars.high[i]).toBe(Math.max(...quotes.map(({ last }) => last)) / 10_000)
        expect(bars.low[i]).toBe(Math.min(...quotes.map(({ last }) => last)) / 10_000)
      }
    }
  })

  it('days: the close is the last quote of the session, near what was bid and asked', () => {
    for (const contract of some) {
      const bars = markets.bars(contract, DAY, NOW, { limit: 3, soFar: true })
      bars.end.forEach((end, i) => {
        const quote = markets.quoteAt(contract, Math.min(end - 1000, NOW))
        expect(bars.close[i]).toBe(quote.last / 10_000)
        if (end < Infinity)
          expect(Math.abs(2 * quote.last - quote.bid - quote.ask)).toBeLessThanOrEqual(1_000)
      })
    }
  })

  it('minutes add up to the day, and so do the messages of its stream', () => {
    const [session] = sessionsBetween(BRACKWATER, '2026-03-13', '2026-03-13')
    for (const contract of some.slice(1, 3)) {
      const minutes = markets.bars(contract, MINUTE, session.close, { limit: 390, soFar: false })
      const day = markets.bars(contract, DAY, session.close, { limit: 1, soFar: false })
      expect([day.open[0], day.close[0]]).toEqual([minutes.open[0], minutes.close.at(-1)])
      expect([day.high[0], day.low[0]]).toEqual([Math.max(...minutes.high), Math.min(...minutes.low)])
      const volume = minutes.volume.reduce((sum, one) => sum + one, 0)
      expect(day.volume[0]).toBe(volume)
      let told = 0
      for (let at = session.open - 1000; at < session.close - 1000; at += 600_000) {
        const since = market.tradedBetween(contract, at, Math.min(session.close - 1000, at + 600_000))!
        told += since.volume
      }
      expect(told).toBe(volume)
    }
  })

  it('contracts that trade add up to the option volume of their underlying', () => {
    const [session] = sessionsBetween(BRACKWATER, '2026-03-13', '2026-03-13')
    const all = market.chains.chainOf(small, session.open)
    const sum = all.reduce((volume, contract) => {
      const day = markets.bars(contract, DAY, session.close, { limit: 1, soFar: false })
      return volume + day.volume[0]
    }, 0)
    const asked = { limit: 1, soFar: false, extras: ['optionvolume' as const] }
    expect(markets.bars(small, DAY, session.close, asked).optionvolume![0]).toBe(sum)
    expect(sum).toBeGreaterThan(0)
  })

  it('begin with its first session and end with its last', () => {
    const contract = chain.find(({ option }) => option!.maturityDate === '2026-04-10')!
    const { maturityDate } = contract.option!
    const bars = markets.bars(contract, DAY, Date.parse('2026-09-01T12:00:00Z'), { limit: 500, soFar: false })
    const first = bars.time[0]
    expect(market.isListed(contract, first)).toBe(true)
    expect(market.isListed(contract, first - 60_000 - 86_400_000 * 4)).toBe(false)
    expect(new Date(bars.end.at(-1)!).toISOString().slice(0, 10)).toBe(maturityDate)
  })
})

describe('quotes of an option contract', () => {
  const every = (check: (contract: Listed, quote: ReturnType<Markets['quoteAt']>, spot: number) => void) => {
    for (const symbol of ['OSPRY', 'HERRG', 'TERNW', 'WIDEF'])
      for (const at of [NOW, NOW + 3_457_000, NOW + 86_400_000]) {
        const of = markets.find(symbol)!
        const { bid, ask } = markets.quoteAt(of, at)
        for (const contract of market.chains.chainOf(of, at))
          check(contract, markets.quoteAt(contract, at), (bid + ask) / 2)
      }
  }

  it('stand on the steps of their prices: 0.05 from 3.00 up (common practice of US venues)', () => {
    every((_, { bid, ask, last }) => {
      for (const price of [bid, ask, last]) expect(price % (price >= 30_000 ? 500 : 100)).toBe(0)
      expect(ask).toBeGreaterThan(bid)
    })
  })

  it('have a middle at most a step below what exercise would bring', () => {
    every(({ option, increments }, { bid, ask }, spot) => {
      const worth = (option!.putOrCall === 'Call' ? 1 : -1) * (spot - option!.strikePrice * 10_000)
      const step = incrementAt(increments, Math.max(0, worth) / 10_000) * 10_000
      expect((bid + ask) / 2).toBeGreaterThanOrEqual(worth - step)
    })
  })
})
