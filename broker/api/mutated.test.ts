import { cases } from '@/tests/cases'
import { expect, it } from '@jest/globals'
import fc from 'fast-check'
import { Statement } from '@/core/book/statement'
import { fromE4 } from '@/core/market/money'
import { isWorking, type Order } from '@/core/orders/model'
import { type Desk, deskFor, Wall } from '@/tests/broker'

/** Requests that are sent; more where a longer run is wanted. */
const COUNT = cases(700)

const wall = new Wall()
let desk: Desk
deskFor(wall, (made) => (desk = made))

const odd = fc.oneof(
  fc.constantFrom(null, true, '', 'NaN', '1e309', '-1', '\u0000', '💥', '../..', '__proto__', [], {}, [null]),
  fc.double(),
  fc.integer(),
  fc.string({ maxLength: 40 }),
  fc.constantFrom(0, -0, 1e308, 5e-324, Number.MAX_SAFE_INTEGER, 0.1 + 0.2, -1.005),
)

const id = fc.constantFrom('m-1', 'm-2', 'm-3', 'm-1/stop', 'm-2/leg1', 'm-3.4')
const right = fc.constantFrom('GANET 260417C00210000', 'GANET 260417P00200000', 'GANET 260320C00205000')
const order: fc.Arbitrary<Record<string, unknown>> = fc.oneof(
  fc.record({
    clOrdId: id,
    symbol: fc.constantFrom('OSPRY', 'GANET', 'SUVAN', 'BWALL', 'NOSUCH', 'GANET 260417C00210000'),
    side: fc.constantFrom('Buy', 'Sell', 'SellShort'),
    orderQty: fc.constantFrom(1, 10, 100, 5_000, 1e7),
    ordType: fc.constantFrom('Market', 'Limit', 'Stop', 'StopLimit', 'TrailingStop'),
    price: fc.option(fc.constantFrom(0.01, 11.5, 12.5, 210, 999_999), { nil: undefined }),
    stopPx: fc.option(fc.constantFrom(0.01, 11.5, 12.5, 210), { nil: undefined }),
    timeInForce: fc.constantFrom('Day', 'GoodTillCancel', 'ImmediateOrCancel', 'FillOrKill', 'AtTheClose'),
    exits: fc.option(
      fc.constantFrom({ stop: { percent: 3 } }, { target: { ticks: 5 }, stop: { price: 11 } }),
      {
        nil: undefined,
      },
    ),
    group: fc.option(fc.constant('g'), { nil: undefined }),
    clOrdLinkId: fc.option(fc.constant('l'), { nil: undefined }),
    triggerClOrdId: fc.option(id, { nil: undefined }),
  }),
  fc.record({
    clOrdId: id,
    symbol: fc.constant('GANET'),
    side: fc.constant('Buy'),
    orderQty: fc.constantFrom(1, 3),
    ordType: fc.constantFrom('Market', 'Limit'),
    price: fc.option(fc.constantFrom(-3, 0, 2.5), { nil: undefined }),
    legs: fc.array(
      fc.record({
        symbol: right,
        legSide: fc.constantFrom('Buy', 'Sell', 'SellShort'),
        legRatioQty: fc.constantFrom(1, 2),
      }),
      { minLength: 1, maxLength: 5 },
    ),
  }),
)

/** A body with some of its fields changed, taken away, or others put in. */
const mutated = fc
  .tuple(order, fc.array(fc.tuple(fc.string({ maxLength: 12 }), odd), { maxLength: 2 }), fc.nat(30), odd)
  .map(([body, more, at, value]) => {
    const out: Record<string, unknown> = { ...body, ...Object.fromEntries(more) }
    const keys = Object.keys(body)
    if (at < keys.length) out[keys[at]] = value
    if (at > 20) delete out[keys[at % keys.length]]
    return out
  })

const request = fc.oneof(
  { weight: 5, arbitrary: order.map((body) => ['POST', '/orders', body] as const) },
  { weight: 4, arbitrary: mutated.map((body) => ['POST', '/orders', body] as const) },
  { weight: 2, arbitrary: mutated.map((body) => ['POST', '/orders/check', body] as const) },
  {
    weight: 1,
    arbitrary: id.map((one) => ['DELETE', `/orders/${encodeURIComponent(one)}`, undefined] as const),
  },
  {
    weight: 2,
    arbitrary: fc
      .tuple(id, id, odd)
      .map(
        ([one, next, price]) =>
          ['PATCH', `/orders/${encodeURIComponent(one)}`, { clOrdId: next, price }] as const,
      ),
  },
  {
    weight: 1,
    arbitrary: fc
      .tuple(
        fc.constantFrom('/gates', '/stand-down', '/market-time', '/halts', '/groups/g/close', '/keys'),
        mutated,
      )
      .map(([path, body]) => ['POST', path, body] as const),
  },
  {
    weight: 1,
    arbitrary: fc
      .tuple(
        fc.constantFrom('/orders', '/executions', '/statement', '/options', '/securities/OSPRY/ticks'),
        fc.string({ maxLength: 30 }),
        odd,
      )
      .map(
        ([path, name, value]) =>
          [
            'GET',
            `${path}?${new URLSearchParams({ [name || 'x']: String(value) }).toString()}`,
            undefined,
          ] as const,
      ),
  },
)

it('whatever is asked, nothing fails inside, and the account stays whole', async () => {
  let n = 0
  for (const [method, path, body] of fc.sample(request, {
    numRuns: COUNT,
    seed: Number(process.env.HERON_SEED_MUTATED ?? 7),
  })) {
    const answer = await desk.call(method, `/paper${path}`, body)
    const text = await answer.text()
    if (answer.status >= 500) throw new Error(`${method} ${path} ${JSON.stringify(body)}: ${text}`)
    if (++n % 20 === 0) await desk.run(wall, 2)
    // What stands down, or is halted, would hide what comes after it.
    if (n % 50 === 0) {
      await desk.call('DELETE', '/paper/stand-down')
      await desk.call('DELETE', '/paper/halts/OSPRY')
    }
  }
  const { main } = desk.world
  const statement = new Statement(main.opened.cash, main.book.bookings, {})
  for (let seq = 1; seq <= main.reports.length; seq++) statement.take(main.reports.get(seq))
  statement.bookUpTo(Infinity)
  expect(statement.lines.at(-1)?.cash ?? main.opened.cash).toBe(fromE4(main.book.cashE4))
  const seen = new Set<string>()
  for (let number = 1; number <= main.book.count; number++) {
    const one: Order = main.orderNumbered(number)!
    if (isWorking(one.ordStatus))
      expect([one.clOrdId, one.cumQty + one.leavesQty]).toEqual([one.clOrdId, one.orderQty])
    else if (one.ordStatus !== 'Filled') expect([one.clOrdId, one.leavesQty]).toEqual([one.clOrdId, 0])
    if (one.ordStatus !== 'Rejected') {
      expect(seen.has(one.clOrdId)).toBe(false)
      seen.add(one.clOrdId)
    }
  }
})
