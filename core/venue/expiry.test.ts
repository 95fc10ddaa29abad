import { cases } from '@/tests/cases'
import { expect, it } from '@jest/globals'
import fc from 'fast-check'
import { seatAt } from '@/tests/venue'
import { bookOf, emptyBook, sharesOf } from '../book/book'
import { optionMarginE4 } from '../book/needs'
import { standing } from '../book/value'
import { closeOut, endContracts, type Expiring } from './expiry'
import { fill } from './trade'
import { workingNow } from './seat'

const DATE = '2026-03-20'

const contract = fc.record({
  putOrCall: fc.constantFrom('C', 'P'),
  strike: fc.integer({ min: 6, max: 14 }),
  quantity: fc.integer({ min: -4, max: 4 }).filter((quantity) => quantity !== 0),
})

const account = fc.record({
  cash: fc.integer({ min: 0, max: 30_000 }),
  shares: fc.integer({ min: 0, max: 4 }).map((hundreds) => 100 * hundreds),
  rules: fc.constantFrom(
    { margin: false, short: false, optionLevel: 2 },
    { margin: true, short: false, optionLevel: 3 },
    { margin: true, short: true, optionLevel: 4 },
  ),
  contracts: fc.array(contract, { minLength: 1, maxLength: 4 }),
  price: fc.integer({ min: 500, max: 1_500 }),
  moves: fc.double({ min: -0.019, max: 0.019, noNaN: true }),
})

/** One of the two bought calls pays for the written one; there is no money for both, and the written one alone would be short. */
const ONE_TOO_MANY = {
  ...{ cash: 0, shares: 0, rules: { margin: false, short: false, optionLevel: 2 } as const },
  contracts: [
    { putOrCall: 'C' as const, strike: 6, quantity: 2 },
    { putOrCall: 'C' as const, strike: 7, quantity: -1 },
  ],
  ...{ price: 701, moves: 0 },
}

it('no account ends beyond its rules, whatever it holds; every contract is gone', () => {
  fc.assert(
    fc.property(account, ({ cash, shares, rules, contracts, price, moves }) => {
      const now = { price: 100 * price }
      const seat = { ...seatAt(now), tell: () => undefined }
      Object.assign(seat, { book: bookOf(emptyBook(cash * 10_000, { currency: 'USD', ...rules })) })
      const { book } = seat
      const hold = (symbol: string, quantity: number) => {
        const lot = { id: symbol, orderId: 'O0', opened: DATE, quantity, priceE4: 100_000 }
        book.holdings[symbol] = { symbol, quantity, costE4: 0, lots: [lot], realizedE4: {} }
      }
      if (shares > 0) hold('OSPRY', shares)
      for (const { putOrCall, strike, quantity } of contracts)
        hold(`OSPRY 260320${putOrCall}000${String(strike).padStart(2, '0')}000`, quantity)
      // A contract is worth what exercise brings: no time is left.
      const worth = (symbol: string) => {
        const at = Number(symbol.slice(-8)) * 10
        return symbol.length < 10 ? now.price : Math.max(0, (symbol[12] === 'C' ? 1 : -1) * (now.price - at))
      }
      const pricesOf = (symbol: string) => ({ bid: worth(symbol), ask: worth(symbol), last: worth(symbol) })
      seat.place = { ...seat.place, pricesOf }
      const about: Expiring = {
        date: DATE,
        isHere: () => true,
        borrowable: () => undefined,
        dividend: () => 0,
      }
      const freeBefore = standing(book, pricesOf, DATE).freeE4
      // Nobody comes to hold what is beyond the account already.
      fc.pre(freeBefore >= 0)
      for (const orderId of closeOut(seat, about, 0)) {
        const order = workingNow(seat, orderId)!
        fill(seat, orderId, [{ quantity: order.leavesQty, priceE4: worth(order.symbol) }], 0)
      }
      now.price = Math.round((now.price * (1 + moves)) / 100) * 100
      const freeThen = standing(book, pricesOf, DATE).freeE4
      endContracts(seat, about, 0)
      expect(
        Object.values(book.holdings).filter((one) => one.symbol !== 'OSPRY' && one.quantity !== 0),
      ).toEqual([])
      expect(optionMarginE4(book, pricesOf)).toBe(0)
      if (!rules.short) expect(sharesOf(book, 'OSPRY')).toBeGreaterThanOrEqual(0)
      // What was lacking before may be lacking still; nothing that ends makes it more.
      const { freeE4 } = standing(book, pricesOf, DATE)
      expect(freeE4).toBeGreaterThanOrEqual(Math.min(0, freeThen) - 1)
    }),
    { numRuns: cases(200), examples: [[ONE_TOO_MANY]] },
  )
})
