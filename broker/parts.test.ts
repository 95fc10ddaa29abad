import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { join } from 'node:path'
import { BRACKWATER } from '@/core/market/venue'
import { toE4 } from '@/core/market/money'
import { Wall, tempDir } from '@/tests/broker'
import { Clock, rateForSession } from './clock'
import { atOnce } from './gently'
import { mayTouch, setsOff, sweep } from './exchange/sweep'
import { makeKey, secretFits, Tokens } from './keys'
import { History } from './market/history'
import { LISTING } from './market/listing'
import { Market, type Quote } from './market/market'

const market = new Market(BRACKWATER, LISTING, 'test', '2026-01-12', '2026-12-31')
const at = (text: string) => Date.parse(`${text}-03:00`)

describe('the clock', () => {
  const clock = (wall: Wall, part = {}) =>
    new Clock({ at: at('2026-03-16T10:42:00'), rate: 1, running: true, ...part }, market, wall.now)

  it('runs with the wall, faster or slower, and stands while paused', () => {
    const wall = new Wall()
    const one = clock(wall)
    wall.pass(90)
    expect(one.now()).toBe(at('2026-03-16T10:43:30'))
    one.set({ rate: 10 })
    wall.pass(6)
    expect(one.now()).toBe(at('2026-03-16T10:44:30'))
    one.set({ running: false })
    wall.pass(600)
    expect(one.now()).toBe(at('2026-03-16T10:44:30'))
  })

  it('never goes back, also where the wall does', () => {
    const wall = new Wall()
    const one = clock(wall)
    wall.pass(-3600)
    expect(one.now()).toBe(at('2026-03-16T10:42:00'))
    expect(() => one.moveTo(at('2026-03-16T10:41:59'))).toThrow('forward only')
  })

  it('passes over closed hours only while it runs faster than life', () => {
    const wall = new Wall()
    expect(clock(wall, { at: at('2026-03-16T16:00:01') }).skipsTo()).toBeUndefined()
    expect(clock(wall, { at: at('2026-03-16T16:00:01'), rate: 60 }).skipsTo()).toBe(at('2026-03-17T09:29:30'))
    expect(clock(wall, { rate: 60 }).skipsTo()).toBeUndefined()
  })

  it('a session of 6.5 hours in 25 seconds is 936 times life', () =>
    expect(rateForSession(6.5 * 3_600_000, 25)).toBe(936))
})

describe('keys and tokens', () => {
  it('keep nothing that the secret could be read from', async () => {
    const { key, secret } = await makeKey({
      environment: 'paper',
      account: 'A',
      scopes: ['see-market'],
      name: 'x',
    })
    expect(JSON.stringify(key)).not.toContain(secret)
    expect([await secretFits(key, secret), await secretFits(key, `${secret}x`)]).toEqual([true, false])
    expect(key.keyId).toMatch(/^paper-[0-9a-f]{12}$/)
  })

  it('tokens outlive a restart, end on time, and cannot be changed', async () => {
    const dir = await tempDir()
    const wall = new Wall()
    const path = join(dir.path, 'token.key')
    const bearer = { keyId: 'k', environment: 'paper', account: 'A', scopes: ['see-market'] } as const
    const token = await (
      await Tokens.open(path, 900, wall.now)
    ).issue({ ...bearer, scopes: [...bearer.scopes] })
    const again = await Tokens.open(path, 900, wall.now)
    expect(await again.read(token)).toEqual(bearer)
    const [head, body, sign] = token.split('.')
    const more = Buffer.from(
      JSON.stringify({ ...JSON.parse(Buffer.from(body, 'base64url').toString()), scope: 'send-orders' }),
    ).toString('base64url')
    expect(await again.read(`${head}.${more}.${sign}`)).toBe('unknown')
    // "alg": "none" is the classic forgery (RFC 8725, 2.1).
    const none = Buffer.from('{"alg":"none"}').toString('base64url')
    expect(await again.read(`${none}.${body}.`)).toBe('unknown')
    wall.pass(901)
    expect(await again.read(token)).toBe('expired')
    await dir.remove()
  })
})

describe('what an order takes from the book', () => {
  const quote = (part: Partial<Quote> = {}): Quote => ({
    symbol: 'OSPRY',
    at: 0,
    bid: 499_900,
    bidSize: 300,
    ask: 500_000,
    askSize: 200,
    last: 500_000,
    ...part,
  })
  const buy = (leavesQty: number, price?: number) => ({
    side: 'Buy' as const,
    leavesQty,
    ordType: price ? ('Limit' as const) : ('Market' as const),
    price,
  })

  it('the displayed size first, then each step beyond it, five levels deep', () => {
    expect(sweep(buy(700), quote(), 100)).toEqual([
      { quantity: 200, priceE4: 500_000 },
      { quantity: 300, priceE4: 500_100 },
      { quantity: 200, priceE4: 500_200 },
    ])
    expect(sweep(buy(1e6), quote(), 100)).toHaveLength(5)
  })

  it('what was taken in the same second is gone', () =>
    expect(sweep(buy(150), quote(), 100, 200)).toEqual([{ quantity: 150, priceE4: 500_100 }]))

  it('never more than is left, never past the limit, prices from better to worse', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('Buy' as const, 'Sell' as const),
        fc.integer({ min: 1, max: 3000 }),
        fc.option(
          fc.integer({ min: 4950, max: 5050 }).map((c) => c / 100),
          { nil: undefined },
        ),
        fc.integer({ min: 0, max: 900 }),
        (side, leavesQty, price, taken) => {
          const fills = sweep(
            { side, leavesQty, ordType: price === undefined ? 'Market' : 'Limit', price },
            quote(),
            100,
            taken,
          )
          expect(fills.reduce((sum, f) => sum + f.quantity, 0)).toBeLessThanOrEqual(leavesQty)
          const sign = side === 'Buy' ? 1 : -1
          fills.forEach((f, i) => {
            expect(f.quantity).toBeGreaterThan(0)
            if (price !== undefined) expect(sign * (f.priceE4 - toE4(price))).toBeLessThanOrEqual(0)
            if (i > 0) expect(sign * (f.priceE4 - fills[i - 1].priceE4)).toBeGreaterThan(0)
          })
        },
      ),
    )
  })

  it('a stop is set off by a trade at its level or beyond', () => {
    expect([
      setsOff({ side: 'Sell', stopPx: 48 }, 480_000),
      setsOff({ side: 'Sell', stopPx: 48 }, 480_100),
    ]).toEqual([true, false])
    expect([
      setsOff({ side: 'Buy', stopPx: 48 }, 480_000),
      setsOff({ side: 'Buy', stopPx: 48 }, 479_900),
    ]).toEqual([true, false])
  })

  it('a minute in which an order could trade is never passed over', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('Buy' as const, 'Sell' as const),
        fc.integer({ min: 4000, max: 6000 }),
        fc.integer({ min: 4500, max: 5500 }),
        fc.integer({ min: 0, max: 80 }),
        (side, limit, low, range) => {
          const bar = { low: low * 100, high: (low + range) * 100 }
          const order = {
            side,
            ordType: 'Limit' as const,
            price: limit / 100,
            stopPx: undefined,
            triggered: undefined,
          }
          const couldTrade = side === 'Buy' ? limit * 100 >= bar.low : limit * 100 <= bar.high
          if (couldTrade) expect(mayTouch(order, bar)).toBe(true)
        },
      ),
    )
  })
})

describe('history as of a moment', () => {
  const history = new History(market)
  const now = at('2026-03-16T10:42:30')
  const ask = { limit: 5000, soFar: false }
  const bars = (text: string, soFar = false, moment = now) => {
    const [count, unit] = text.split(' ')
    const every = { count: Number(count), unit: unit as 'min' }
    return atOnce(history.bars(LISTING[0], every, moment, { ...ask, soFar })).bars
  }

  it('nothing that has not happened: the bar under way only where it is asked for, and then so far', () => {
    expect(bars('1 min').end.at(-1)).toBe(at('2026-03-16T10:42:00'))
    expect(bars('1 min', true).time.at(-1)).toBe(at('2026-03-16T10:42:00'))
    expect(bars('1 day').end.at(-1)).toBe(at('2026-03-13T16:00:00'))
    const day = bars('1 day', true)
    const minutes = bars('1 min', true)
    const today = [...minutes.time.keys()].filter((i) => minutes.time[i] >= at('2026-03-16T09:30:00'))
    expect(day.close.at(-1)).toBe(minutes.close.at(-1))
    expect(day.high.at(-1)).toBe(Math.max(...today.map((i) => minutes.high[i])))
    expect(day.volume.at(-1)).toBe(today.reduce((sum, i) => sum + minutes.volume[i], 0))
  })

  it('weeks add up from days, quarter hours from minutes', () => {
    const [days, weeks] = [bars('1 day'), bars('1 week')]
    const inWeek = [...days.time.keys()].filter(
      (i) => days.time[i] >= weeks.time.at(-1)! && days.end[i] <= weeks.end.at(-1)!,
    )
    expect(weeks.volume.at(-1)).toBe(inWeek.reduce((sum, i) => sum + days.volume[i], 0))
    expect(weeks.close.at(-1)).toBe(days.close.at(-1))
    const [minutes, quarters] = [bars('1 min'), bars('15 min')]
    const last = quarters.time.length - 1
    const inside = [...minutes.time.keys()].filter(
      (i) => minutes.time[i] >= quarters.time[last] && minutes.end[i] <= quarters.end[last],
    )
    expect(inside).toHaveLength(15)
    expect(quarters.high[last]).toBe(Math.max(...inside.map((i) => minutes.high[i])))
  })

  it('a bar once complete never changes', () => {
    const early = bars('15 min', false, at('2026-03-16T11:00:00'))
    const late = bars('15 min', false, at('2026-03-16T15:00:00'))
    const n = early.time.length
    const shift = [...late.time].indexOf(early.time[0])
    for (const name of ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const)
      expect([...late[name].slice(shift, shift + n)]).toEqual([...early[name]])
  })
})
