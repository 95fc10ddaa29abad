import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { toE4 } from '../market/money'
import { europeanValue, normal } from './blackScholes'
import { type OptionHolding, optionMargin } from './margin'
import { type Contract, osiOf, parseOsi, plainSymbol, underlyingOf } from './osi'

describe('option symbols', () => {
  // OCC, Option Symbology Initiative (2010): root in six places, yymmdd, C or P, strike in five and three digits.
  it('are those of OSI, 21 characters', () =>
    expect(
      osiOf({ underlyingSymbol: 'OSPRY', maturityDate: '2026-04-17', putOrCall: 'Call', strikePrice: 12.5 }),
    ).toBe('OSPRY 260417C00012500'))

  it('are read with or without blanks; what names no contract is none', () => {
    expect(plainSymbol('ospry260417c00012500')).toBe('OSPRY 260417C00012500')
    expect(underlyingOf('OSPRY 260417C00012500')).toBe('OSPRY')
    for (const wrong of ['OSPRY', 'OSPRY 260230C00012500', 'OSPRY 260417X00012500', 'OSPRY 260417C00000000'])
      expect(parseOsi(wrong)).toBeUndefined()
  })

  it('say the same both ways', () => {
    const contract: fc.Arbitrary<Contract> = fc.record({
      underlyingSymbol: fc.stringMatching(/^[A-Z]{1,6}$/),
      maturityDate: fc
        .date({ min: new Date('2010-01-01'), max: new Date('2099-12-31'), noInvalidDate: true })
        .map((day) => day.toISOString().slice(0, 10)),
      putOrCall: fc.constantFrom('Put' as const, 'Call' as const),
      strikePrice: fc.integer({ min: 1, max: 99_999_999 }).map((thousandths) => thousandths / 1000),
    })
    fc.assert(fc.property(contract, (one) => expect(parseOsi(osiOf(one))).toEqual(one)))
  })
})

describe('the value of a European option', () => {
  // Hull, Options, Futures and Other Derivatives, chapter on Black-Scholes-Merton (from memory).
  it('is that of the textbook', () => {
    const terms = { price: 42, strike: 40, rate: 0.1, volatility: 0.2, years: 0.5 }
    expect(europeanValue({ ...terms, call: true })).toBeCloseTo(4.76, 2)
    expect(europeanValue({ ...terms, call: false })).toBeCloseTo(0.81, 2)
  })

  it('keeps put-call parity', () => {
    const unit = fc.double({ min: 0.01, max: 1, noNaN: true })
    fc.assert(
      fc.property(unit, unit, unit, unit, (a, b, years, volatility) => {
        const terms = { price: 200 * a, strike: 200 * b, rate: 0.03, years, volatility }
        const gap = europeanValue({ ...terms, call: true }) - europeanValue({ ...terms, call: false })
        expect(gap).toBeCloseTo(terms.price - terms.strike * Math.exp(-0.03 * years), 8)
      }),
    )
  })

  // Standard normal table: 1.96 leaves 2.5 % above it.
  it('stands on the normal distribution', () => {
    expect(normal(1.959963984540054)).toBeCloseTo(0.975, 12)
    expect(normal(-8) / 6.22096057427178e-16).toBeCloseTo(1, 6)
  })
})

describe('margin of options', () => {
  // FINRA rule 4210(f)(2) and Regulation T (from memory); amounts in currency units.
  const hold = (putOrCall: 'Put' | 'Call', strike: number, quantity: number, value = 0): OptionHolding => ({
    ...{ putOrCall, quantity, strikeE4: toE4(strike), valueE4: toE4(value) },
    maturityDate: '2026-04-17',
  })
  const margin = (held: OptionHolding[], shares = 0, price = 100, cashSecured = false) => {
    const { heldE4, level } = optionMargin(held, { shares, underlyingE4: toE4(price), cashSecured })
    return [heldE4 / 10_000, level]
  }

  it('long contracts hold nothing beyond their price', () =>
    expect(margin([hold('Call', 100, 3)])).toEqual([0, 2]))

  it('a call that shares cover holds nothing; a put is secured by its strike', () => {
    expect(margin([hold('Call', 110, -1)], 100)).toEqual([0, 1])
    expect(margin([hold('Put', 90, -2)], 0, 100, true)).toEqual([18_000, 1])
  })

  it('an uncovered one holds its value and 20 % less what it is out of the money, at least 10 %', () => {
    expect(margin([hold('Call', 110, -1, 1.5)])).toEqual([150 + 100 * 10, 4])
    expect(margin([hold('Call', 130, -1, 0.2)])).toEqual([20 + 100 * 10, 4])
    expect(margin([hold('Put', 70, -1, 0.1)])).toEqual([10 + 100 * 7, 4])
  })

  it('a spread holds its largest loss: the difference of the strikes where it is against the holder', () => {
    expect(margin([hold('Put', 95, 1), hold('Put', 100, -1)])).toEqual([500, 3])
    expect(margin([hold('Put', 100, 1), hold('Put', 95, -1)])).toEqual([0, 3])
    expect(margin([hold('Call', 105, 2), hold('Call', 100, -2)])).toEqual([1000, 3])
  })

  it('of four legs only the dearer side is held', () =>
    expect(
      margin([hold('Put', 90, 1), hold('Put', 95, -1), hold('Call', 105, -1), hold('Call', 112, 1)]),
    ).toEqual([700, 3]))

  it('a short put and call hold the greater of the two and the value of the other', () =>
    expect(margin([hold('Put', 95, -1, 2), hold('Call', 105, -1, 3)])).toEqual([100 * 15 + 300 + 200, 4]))

  it('what lasts shorter covers nothing', () => {
    const soon = { ...hold('Call', 100, 1), maturityDate: '2026-03-20' }
    expect(margin([soon, hold('Call', 105, -1, 2)])[1]).toBe(4)
  })

  it('never holds less than defined-risk structures can lose at expiry', () => {
    const leg = fc.record({
      putOrCall: fc.constantFrom('Put' as const, 'Call' as const),
      strike: fc.integer({ min: 80, max: 120 }),
      quantity: fc.integer({ min: -3, max: 3 }),
    })
    fc.assert(
      fc.property(
        fc.uniqueArray(leg, { minLength: 1, maxLength: 4, selector: (l) => l.putOrCall + l.strike }),
        (legs) => {
          const held = legs.map(({ putOrCall, strike, quantity }) => hold(putOrCall, strike, quantity))
          const { heldE4, level } = optionMargin(held, {
            shares: 0,
            underlyingE4: toE4(100),
            cashSecured: true,
          })
          if (level === 4) return
          for (const at of [0, ...legs.map(({ strike }) => strike), 500]) {
            const loss = -legs.reduce(
              (sum, { putOrCall, strike, quantity }) =>
                sum + quantity * Math.max(0, putOrCall === 'Call' ? at - strike : strike - at),
              0,
            )
            expect(heldE4 / 10_000).toBeGreaterThanOrEqual(100 * loss - 1e-6)
          }
        },
      ),
    )
  })
})
