import { expect, it } from '@jest/globals'
import fc from 'fast-check'
import { type Order } from '../orders/model'
import { indexOrder } from './indexing'
import { promisedIn, reservedIn } from './sums'
import { type WorkingBook } from './working'

/** Orders of one security that come, change and end. */
const step = fc.record({
  number: fc.integer({ min: 1, max: 12 }),
  side: fc.constantFrom('Buy' as const, 'Sell' as const, 'SellShort' as const),
  ordType: fc.constantFrom('Market' as const, 'Limit' as const, 'Stop' as const),
  level: fc.integer({ min: 90, max: 110 }),
  leavesQty: fc.integer({ min: 1, max: 9 }),
  role: fc.constantFrom('Entry' as const, 'Entry' as const, 'Stop' as const, 'Target' as const),
  ordStatus: fc.constantFrom('New' as const, 'New' as const, 'PendingNew' as const, 'Canceled' as const),
})

it('sums that are kept and carried on are those of the same list added up afresh', () => {
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40 }), fc.integer({ min: -20, max: 20 }), (steps, held) => {
      const index: WorkingBook = {}
      const prices = { bid: 990_000, ask: 1_010_000, last: 1_000_000 }
      for (const [k, { number, level, role, ...rest }] of steps.entries()) {
        const parentOrderId = role === 'Entry' ? undefined : 'O1'
        const levels = { price: level, stopPx: level }
        const orderId = `O${number}`
        indexOrder(index, { ...rest, ...levels, orderId, role, parentOrderId, symbol: 'OSPRY' } as Order)
        const kept = index.OSPRY
        if (!kept) continue
        // Another list of the same orders, of which nothing is kept.
        const afresh = kept.map((one) => ({ ...one }))
        if (k % 3 > 0) expect(promisedIn(kept)).toEqual(promisedIn(afresh))
        const share = k % 2 === 0 ? 0.5 : 1
        expect(reservedIn(kept, held, prices, share)).toBe(reservedIn(afresh, held, prices, share))
        expect(kept.map((one) => one.number)).toEqual(kept.map((one) => one.number).toSorted((a, b) => a - b))
      }
    }),
  )
})
