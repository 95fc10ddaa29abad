import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { toE4 } from '../market/money'
import { mayTouch, setsOff, type Shown, sweep } from './match'

describe('what an order takes from the book', () => {
  const quote = (part: Partial<Shown> = {}): Shown => ({
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
    limitE4: toE4(price ?? 0),
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
            {
              ...{ side, leavesQty },
              limitE4: toE4(price ?? 0),
            },
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
      setsOff({ side: 'Sell', stopE4: 480_000 }, 480_000),
      setsOff({ side: 'Sell', stopE4: 480_000 }, 480_100),
    ]).toEqual([true, false])
    expect([
      setsOff({ side: 'Buy', stopE4: 480_000 }, 480_000),
      setsOff({ side: 'Buy', stopE4: 480_000 }, 479_900),
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
            limitE4: limit * 100,
            stopE4: 0,
            triggered: false,
            atOnce: 'no' as const,
            trail: undefined,
            auction: 'no' as const,
          }
          const couldTrade = side === 'Buy' ? limit * 100 >= bar.low : limit * 100 <= bar.high
          if (couldTrade) expect(mayTouch(order, bar)).toBe(true)
        },
      ),
    )
  })
})
