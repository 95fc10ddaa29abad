import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { toE4 } from '../market/money'
import { meetBar } from './bars'
import { workingNow } from './seat'
import { seatAt, send, trades } from '@/tests/venue'
import { meetSecond } from './trade'

const CENT = 100

const bar = (open: number, high: number, low: number, close: number, volume = 1e6) => ({
  ...{ open: toE4(open), high: toE4(high), low: toE4(low), close: toE4(close), volume },
})
const TERMS = { slipE4: 0, share: 1 }
describe('a whole bar', () => {
  it('a gap through a stop leaves at the open, not at the level', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, { exits: { stop: { percent: 4 } } })
    meetBar(seat, 'OSPRY', bar(50, 50.2, 49.9, 50), 0, TERMS)
    meetBar(seat, 'OSPRY', bar(46.5, 47, 46, 46.8), 0, TERMS)
    expect(trades(seat)).toEqual([
      ['Buy', 'Market', 100, 50],
      ['Sell', 'Stop', 100, 46.5],
    ])
  })

  it('a Limit that the open is better than trades at the open; one that is only touched waits', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, { ordType: 'Limit', price: 50.5 })
    send(seat, { ordType: 'Limit', price: 49.5 })
    meetBar(seat, 'OSPRY', bar(50, 50.2, 49.5, 50), 0, TERMS)
    expect(trades(seat)).toEqual([['Buy', 'Limit', 100, 50]])
    meetBar(seat, 'OSPRY', bar(50, 50.2, 49.49, 50), 0, TERMS)
    expect(trades(seat)[1]).toEqual(['Buy', 'Limit', 100, 49.5])
  })

  it('of stop and target in one bar, the one on the way to the nearer extreme comes first', () => {
    for (const [low, wanted] of [
      [48.4, 'Stop'],
      [46, 'Limit'],
    ] as const) {
      const seat = seatAt({ price: 500_000 })
      send(seat, { exits: { stop: { price: 48.5 }, target: { price: 52 } } })
      meetBar(seat, 'OSPRY', bar(50, 52.5, low, 50), 0, TERMS)
      expect(trades(seat).map(([, type]) => type)).toEqual(['Market', wanted])
    }
  })

  it('exits work from the fill of their entry on, within the same bar', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, { ordType: 'Stop', stopPx: 51, exits: { stop: { percent: 2 }, target: { percent: 1 } } })
    // Down first, which is no matter yet; then up through entry and target.
    meetBar(seat, 'OSPRY', bar(50, 52, 49, 51), 0, TERMS)
    expect(trades(seat)).toEqual([
      ['Buy', 'Stop', 100, 51],
      ['Sell', 'Limit', 100, 51.51],
    ])
  })

  it('gives no more than its share of the volume, and the rest to the next bar; the market costs half a spread', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, { orderQty: 250 })
    const terms = { slipE4: 2 * CENT, share: 0.1 }
    meetBar(seat, 'OSPRY', bar(50, 50, 50, 50, 1000), 0, terms)
    meetBar(seat, 'OSPRY', bar(51, 51, 51, 51, 5000), 0, terms)
    expect(trades(seat)).toEqual([
      ['Buy', 'Market', 100, 50.02],
      ['Buy', 'Market', 150, 51.02],
    ])
  })

  it('a stop that is reached when the volume is used up is set off, and leaves with the next bar', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, { exits: { stop: { price: 49 } } })
    const terms = { slipE4: 0, share: 0.1 }
    meetBar(seat, 'OSPRY', bar(50, 51, 48, 50, 1000), 0, terms)
    expect(seat.book.orders.O2).toMatchObject({ ordStatus: 'New', triggered: true })
    meetBar(seat, 'OSPRY', bar(50, 51, 49.5, 50, 1000), 0, terms)
    expect(trades(seat)[1]).toEqual(['Sell', 'Stop', 100, 50])
  })

  it('a bar of unknown volume sets no bound', () => {
    const seat = seatAt({ price: 500_000 })
    send(seat, {})
    meetBar(seat, 'OSPRY', bar(50, 50, 50, 50, NaN), 0, { slipE4: 0, share: 0.1 })
    expect(trades(seat)).toEqual([['Buy', 'Market', 100, 50]])
  })

  it('opens no more than there is margin for', () => {
    const seat = seatAt({ price: 500_000 }, 2_500)
    send(seat, { orderQty: 150 })
    meetBar(seat, 'OSPRY', bar(50, 50, 50, 50), 0, TERMS)
    // Of 100 shares the margin takes all there is, and leaves nothing for the commission.
    expect(trades(seat)).toEqual([['Buy', 'Market', 99, 50]])
    expect(seat.told.at(-1)).toMatchObject({ execType: 'Canceled', leavesQty: 0 })
  })
})

describe('a whole bar against the seconds that it is made of', () => {
  /** Prices tick by tick from one to the next. */
  const steps = (corners: readonly number[]): number[] => {
    const out = [corners[0]]
    for (const to of corners.slice(1))
      while (out.at(-1) !== to) out.push(out.at(-1)! + Math.sign(to - out.at(-1)!))
    return out
  }

  /** Levels are odd cents and corners even ones, so that no Limit is only touched by the bar. */
  const odd = fc.integer({ min: -20, max: 20 }).map((n) => 5001 + 2 * n)
  interface Wish {
    ordType: string
    level: number
    away: number
    stop?: number
    target?: number
  }
  const wish: fc.Arbitrary<Wish> = fc.record({
    ordType: fc.constantFrom('Market', 'Limit', 'Stop', 'StopLimit'),
    /** Of a StopLimit: how far its limit lies from its trigger. */
    away: fc.integer({ min: -6, max: 6 }),
    level: odd,
    stop: fc.option(fc.integer({ min: 1, max: 30 }), { nil: undefined }),
    target: fc.option(fc.integer({ min: 1, max: 30 }), { nil: undefined }),
  })

  /** Exits in even ticks, of an odd entry odd again. */
  const orderOf = ({ ordType, level, away, stop, target }: Wish) => ({
    ordType,
    ...(ordType === 'Limit' ? { price: level / 100 } : {}),
    ...(ordType === 'Stop' || ordType === 'StopLimit' ? { stopPx: level / 100 } : {}),
    ...(ordType === 'StopLimit' ? { price: (level + 2 * away) / 100 } : {}),
    ...(stop || target
      ? {
          exits: {
            ...(stop ? { stop: { ticks: 2 * stop } } : {}),
            ...(target ? { target: { ticks: 2 * target } } : {}),
          },
        }
      : {}),
  })

  it('fills the same orders at the same prices', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('Buy', 'SellShort'),
        fc.array(wish, { minLength: 1, maxLength: 3 }),
        fc.integer({ min: 0, max: 15 }),
        fc.integer({ min: 0, max: 15 }),
        fc.nat({ max: 100 }),
        (side, wishes, up, down, where) => {
          const [open, high, low] = [5000, 5000 + 2 * up, 5000 - 2 * down]
          const close = low + 2 * Math.round(((high - low) * where) / 200)
          const corners = high - open < open - low ? [open, high, low, close] : [open, low, high, close]
          const now = { price: open * CENT }
          const whole = seatAt(now)
          for (const part of wishes) send(whole, { ...orderOf(part), side })
          const e4 = (cents: number) => cents * CENT
          const shape = { open: e4(open), high: e4(high), low: e4(low), close: e4(close), volume: 1e6 }
          meetBar(whole, 'OSPRY', shape, 0, TERMS)

          const seconds = seatAt(now)
          for (const part of wishes) send(seconds, { ...orderOf(part), side })
          for (const price of steps(corners)) {
            now.price = e4(price)
            const shown = {
              ...{ bid: now.price, ask: now.price, last: now.price },
              ...{ bidSize: 1e6, askSize: 1e6 },
            }
            for (const orderId of Object.keys(seconds.book.orders)) {
              const order = seconds.book.orders[orderId] && workingNow(seconds, orderId)
              if (order && !order.pending) meetSecond(seconds, order, shown, 0, 0)
            }
          }
          const sorted = (all: unknown[][]) => all.map(String).sort()
          // An entry at the open is at an even price, and so are its exits, which a bar may only touch.
          const touches = seconds.told
            .filter((r) => r.execType === 'Trade' && r.ordType.endsWith('Limit'))
            .some((r) => [high, low, close].includes(Math.round(r.lastPx! * 100)))
          if (!touches) expect(sorted(trades(whole))).toEqual(sorted(trades(seconds)))
        },
      ),
      { numRuns: cases(100) },
    )
  })
})
