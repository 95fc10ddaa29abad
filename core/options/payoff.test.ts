import { expect, it } from '@jest/globals'
import fc from 'fast-check'
import { type Leg } from '../orders/legs'
import { osiOf } from './osi'
import { boundsOf, firstExpiry } from './payoff'

const contract = (putOrCall: 'Put' | 'Call', strikePrice: number, maturityDate = '2026-06-19') =>
  osiOf({ underlyingSymbol: 'OSPRY', maturityDate, putOrCall, strikePrice })
const leg = (legSide: Leg['legSide'], symbol: string, legRatioQty = 1): Leg => ({
  symbol,
  legSide,
  legRatioQty,
})

// Sources: Options Industry Council, strategy pages (optionseducation.org): what each can gain and lose at most.
it.each([
  // Short condor of iron: the credit; the width less the credit.
  [
    [
      leg('Buy', contract('Put', 10)),
      leg('SellShort', contract('Put', 12)),
      leg('SellShort', contract('Call', 15)),
      leg('Buy', contract('Call', 17)),
    ],
    -0.8,
    { gain: 80, loss: 120 },
  ],
  // Bull call spread: the width less the debit; the debit.
  [[leg('Buy', contract('Call', 12)), leg('SellShort', contract('Call', 15))], 1.2, { gain: 180, loss: 120 }],
  // Long straddle: no bound; both premiums.
  [[leg('Buy', contract('Call', 12)), leg('Buy', contract('Put', 12))], 1.5, { gain: Infinity, loss: 150 }],
  // Covered call: the strike and the premium less the price of the shares; that less the premium.
  [[leg('Buy', 'OSPRY', 100), leg('SellShort', contract('Call', 13))], 11.4, { gain: 160, loss: 1140 }],
  // Short strangle: the credit; no bound.
  [
    [leg('SellShort', contract('Call', 15)), leg('SellShort', contract('Put', 10))],
    -0.6,
    { gain: 60, loss: Infinity },
  ],
])('the bounds of known shapes', (legs, net, bounds) => {
  const found = boundsOf(legs, net)!
  expect(found.gain).toBeCloseTo(bounds.gain, 6)
  expect(found.loss).toBeCloseTo(bounds.loss, 6)
})

it('contracts that end on different days have no such bounds; the first of them counts', () => {
  const legs = [contract('Call', 12), contract('Call', 12, '2026-07-17')]
  expect(boundsOf([leg('SellShort', legs[0]), leg('Buy', legs[1])], 0.4)).toBeUndefined()
  expect(firstExpiry(legs)).toBe('2026-06-19')
  expect(firstExpiry(['OSPRY'])).toBeUndefined()
})

it('no price at which the contracts end gains or loses more', () => {
  const anyLeg = fc.record({
    side: fc.constantFrom<Leg['legSide']>('Buy', 'SellShort'),
    type: fc.constantFrom<'Put' | 'Call'>('Put', 'Call'),
    strike: fc.integer({ min: 5, max: 30 }),
    ratio: fc.integer({ min: 1, max: 3 }),
  })
  fc.assert(
    fc.property(
      fc.uniqueArray(anyLeg, { minLength: 2, maxLength: 4, selector: ({ type, strike }) => type + strike }),
      fc.integer({ min: -300, max: 300 }),
      fc.integer({ min: 0, max: 6000 }),
      (legs, cents, endCents) => {
        const end = endCents / 100
        const made = legs.map(({ side, type, strike, ratio }) => leg(side, contract(type, strike), ratio))
        const { gain, loss } = boundsOf(made, cents / 100)!
        const worth = legs.reduce((sum, { side, type, strike, ratio }) => {
          const each = Math.max(0, type === 'Call' ? end - strike : strike - end)
          return sum + (side === 'Buy' ? 1 : -1) * ratio * each
        }, 0)
        const gained = 100 * worth - cents
        return gained <= gain + 1e-6 && -gained <= loss + 1e-6
      },
    ),
  )
})
