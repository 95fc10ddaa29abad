import { describe, expect, it } from '@jest/globals'
import { type NewOrder } from './model'
import { priceQuestion } from './priceQuestion'
import { sayFinding } from './say'

const shares = (part: Partial<NewOrder>): NewOrder => ({
  ...{ clOrdId: 'a', symbol: 'OSPRY', side: 'Buy', orderQty: 10, ordType: 'Limit', timeInForce: 'Day' },
  ...part,
})
const QUOTE = { bid: 80.9, ask: 81, currency: 'USD' }
const said = (order: NewOrder, known: Parameters<typeof priceQuestion>[1] = QUOTE): string | undefined => {
  const question = priceQuestion(order, known)
  return question && sayFinding(question).sentence
}

describe('a limit price', () => {
  it('far through the market is questioned, on either side', () => {
    expect(said(shares({ price: 200 }))).toBe('The limit of 200.00 lies 146.9 % beyond the ask of 81.00.')
    expect(said(shares({ side: 'Sell', price: 40 }))).toBe(
      'The limit of 40.00 lies 50.6 % beyond the bid of 80.90.',
    )
    // 81 * 1.05 = 85.05
    expect([said(shares({ price: 85.05 })), said(shares({ price: 40 }))]).toEqual([undefined, undefined])
    expect(said(shares({ ordType: 'Market' }))).toBeUndefined()
    // That of a stop limit lies beside its stop, wherever the market is.
    const stop = (price: number) => said(shares({ ordType: 'StopLimit', stopPx: 100, price }))
    expect(stop(105)).toBeUndefined()
    expect(stop(200)).toBe('The limit of 200.00 lies 100.0 % beyond the stop of 100.00.')
    expect(said(shares({ price: 200 }), { currency: 'USD' })).toBeUndefined()
  })
})

describe('a net price', () => {
  // A put spread that is written: 2.60 to 2.70 against 1.50 to 1.60; natural -1.00, middle -1.10.
  const legs = [
    { symbol: 'OSPRY 260417P00080000', legSide: 'SellShort' as const, legRatioQty: 1 },
    { symbol: 'OSPRY 260417P00075000', legSide: 'Buy' as const, legRatioQty: 1 },
  ]
  const known = {
    currency: 'USD',
    legs: [
      { bid: 2.6, ask: 2.7 },
      { bid: 1.5, ask: 1.6 },
    ],
  }
  const net = (price: number) => said(shares({ legs, price }), known)

  it('that is even where the legs bring a credit is questioned', () => {
    expect(net(0)).toBe(
      'An even net price gives their credit away. These legs bring 1.00 at the quotes and bring 1.10 at the middle.',
    )
    expect(net(0.3)).toContain('A net price of 0.30 paid gives their credit away.')
  })

  it('far from middle and natural is questioned to both sides', () => {
    // A quarter of 1.10 is 0.275: from -1.375 to -0.725 nothing is asked.
    expect([-1.37, -1.1, -1, -0.73].map(net)).toEqual([undefined, undefined, undefined, undefined])
    expect(net(-0.72)).toContain('A net price of 0.72 received is worse than the quotes.')
    expect(net(-1.38)).toContain('lies far from the market and will hardly trade.')
  })
})
