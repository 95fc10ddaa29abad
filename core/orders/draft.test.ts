import { describe, expect, it } from '@jest/globals'
import { OSPRY } from '@/tests/venue'
import { draftOrder } from './draft'

describe('draft', () => {
  const about = {
    security: OSPRY,
    bid: 49.99,
    ask: 50,
    last: 50,
    equity: 50_000,
    buyingPower: 100_000,
    sharesHeld: 0,
  }
  const base = {
    clOrdId: 'd-1',
    symbol: 'OSPRY',
    side: 'Buy',
    ordType: 'Market',
    timeInForce: 'Day',
  } as const

  it('prices, sizes and reckons what is lost at the stop', () => {
    const drafted = draftOrder(
      {
        ...base,
        sizing: { by: 'risk', percentOfEquity: 0.8 },
        exits: { stop: { percent: 3 }, target: { percent: 7 } },
      },
      about,
    )
    expect(drafted).toMatchObject({
      order: { orderQty: 266 },
      cost: 13_300,
      commission: 1.33,
      loss: 399,
      gain: 931,
      buyingPowerAfter: 86_697.34,
      parts: [{ quantity: 266, stop: { price: 48.5, ticks: -150 }, target: { price: 53.5, ticks: 350 } }],
    })
  })

  it('of a position left in parts the risk is the sum of theirs', () => {
    const parts = [
      { share: 50, stop: { amount: 1 }, target: { amount: 2 } },
      { stop: { amount: 3 }, target: { amount: 6 } },
    ]
    const drafted = draftOrder(
      { ...base, sizing: { by: 'risk', percentOfEquity: 0.8 }, exits: { parts } },
      about,
    )
    // 400 at risk at 2.00 a share on the average, so 200 shares: 100 at 1.00 and 100 at 3.00.
    expect(drafted).toMatchObject({
      order: { orderQty: 200 },
      loss: 400,
      gain: 800,
      parts: [
        { quantity: 100, stop: { price: 49 }, target: { price: 52 } },
        { quantity: 100, stop: { price: 47 }, target: { price: 56 } },
      ],
    })
    const open = { ...base, sizing: { by: 'shares', shares: 10 } as const }
    const halfStopped = { parts: [parts[0], { target: { amount: 6 } }] }
    expect(draftOrder({ ...open, exits: halfStopped }, about)).toMatchObject({ loss: undefined, gain: 40 })
  })

  it('says why no order comes of it', () => {
    const sizing = { by: 'shares', shares: 1 } as const
    expect(draftOrder({ ...base, sizing }, { ...about, ask: undefined, last: undefined })).toEqual({
      why: 'No quote has come for it; the cost is not known.',
    })
    expect(draftOrder({ ...base, ordType: 'Limit', sizing }, about)).toEqual({ why: 'Give the limit price.' })
    const large = { by: 'shares', shares: 999_999_999_999 } as const
    expect(draftOrder({ ...base, sizing: large }, about)).toEqual({
      why: expect.stringMatching(
        /^One order is for at most [\d,]+ shares, and this asks for 999,999,999,999\./,
      ),
    })
  })
})
