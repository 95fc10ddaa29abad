import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { BRACKWATER } from '../market/venue'
import { checkOrder, type OrderFacts } from './check'
import { draftOrder } from './draft'
import { refusal } from './findings'
import { closingSide, directionOf, exitPrices, levelAt, trailedPrice } from './levels'
import { buyingPowerE4, initialMarginE4, openingQuantity } from './margin'
import { newOrder, OSPRY } from '@/tests/venue'
import { ExecType, type NewOrder, OrdStatus } from './model'
import { type Side } from './legs'
import { type ExitLevel, Exits } from './exits'
import { sayFinding } from './say'
import { sizeOrder } from './size'
import { mayFollow } from './states'

const bands = BRACKWATER.increments

/** The price of one exit of a position of 100. */
const exitAt = (level: ExitLevel, role: 'Stop' | 'Target', side: Side, reference: number) =>
  exitPrices({ [role.toLowerCase()]: level }, { side, reference, quantity: 100, bands })[
    role === 'Stop' ? 'stop' : 'target'
  ]
const facts: OrderFacts = {
  security: OSPRY,
  near: [],
  bid: 49.99,
  ask: 50,
  last: 50,
  session: { open: true, venue: 'Brackwater Exchange', opens: 'Tuesday 09:30' },
  currency: 'USD',
  clOrdIdTaken: false,
  sharesHeld: 0,
  mayShort: true,
  lots: [],
  promised: 0,
  offeredShort: 0,
  buyingPowerE4: 1_000_000_000,
}
const order = (part: Record<string, unknown> = {}): NewOrder =>
  newOrder({ clOrdId: 'a-1', symbol: 'OSPRY', side: 'Buy', orderQty: 100, ordType: 'Market', ...part })
const failing = (part: Record<string, unknown>, change: Partial<OrderFacts> = {}) =>
  checkOrder(order(part), { ...facts, ...change })
    .filter((finding) => finding.verdict === 'fails')
    .map(sayFinding)
    .map((check) => `${check.code}: ${check.sentence} ${check.mend}`)

describe('size (common practice: equity x risk share / distance to stop)', () => {
  // Worked by hand: 50,000 x 0.8 % = 400; stop 3 % below 50 is 48.50, 1.50 away; 400 / 1.50 = 266.67.
  it('0.8 % of 50,000 at a stop 3 % below 50 is 266 shares', () => {
    const sizing = { by: 'risk', percentOfEquity: 0.8 } as const
    expect(sizeOrder(sizing, { equity: 50_000, entry: 50, stop: 48.5, lot: 1 })).toEqual({ quantity: 266 })
    expect(sizeOrder(sizing, { equity: 50_000, entry: 50, stop: 48.5, lot: 100 })).toEqual({ quantity: 200 })
  })

  it('an amount of money buys whole lots of it, converted where the security has another currency', () => {
    const sizing = { by: 'money', money: 1000 } as const
    expect(sizeOrder(sizing, { equity: 0, entry: 33, lot: 1 })).toEqual({ quantity: 30 })
    const draft = {
      ...{
        clOrdId: 'a',
        symbol: 'OSPRY',
        side: 'Buy' as const,
        sizing,
        ordType: 'Limit' as const,
        price: 33,
      },
      timeInForce: 'Day',
    } as const
    const known = { security: facts.security!, equity: 50_000, buyingPower: 100_000, sharesHeld: 0, last: 33 }
    // 1,000 are 909.09 at 1.10: 27 at 33, which cost 980.10.
    expect(draftOrder(draft, { ...known, rate: 1.1 })).toMatchObject({ order: { orderQty: 27 }, cost: 980.1 })
  })

  it('never risks more than asked, and one lot more would', () => {
    const cents = (min: number, max: number) => fc.integer({ min, max }).map((c) => c / 100)
    fc.assert(
      fc.property(
        fc.record({
          equity: cents(100_000, 100_000_000),
          entry: cents(100, 90_000),
          percent: fc.integer({ min: 1, max: 500 }).map((p) => p / 100),
          gap: fc.integer({ min: 1, max: 90 }),
          lot: fc.constantFrom(1, 10, 100),
        }),
        ({ equity, entry, percent, gap, lot }) => {
          const stop = Math.round(entry * (100 - gap)) / 100
          fc.pre(stop < entry)
          const sized = sizeOrder({ by: 'risk', percentOfEquity: percent }, { equity, entry, stop, lot })
          const budget = (equity * percent) / 100
          const risk = (shares: number) => shares * (entry - stop)
          const quantity = sized.quantity ?? 0
          expect(quantity % lot).toBe(0)
          expect(risk(quantity)).toBeLessThanOrEqual(budget + 1e-6 * budget)
          expect(risk(quantity + lot)).toBeGreaterThan(budget - 1e-6 * budget)
        },
      ),
    )
  })

  it.each([
    [{ by: 'shares', shares: 250 }, { quantity: 250 }],
    [{ by: 'equity', percentOfEquity: 10 }, { quantity: 100 }],
    [{ by: 'risk', percentOfEquity: 0.0001 }, { why: expect.stringContaining('less than one share') }],
  ] as const)('%j', (sizing, wanted) =>
    expect(sizeOrder(sizing, { equity: 50_000, entry: 50, stop: 48.5, lot: 1 })).toMatchObject(wanted),
  )

  it('says what is missing', () => {
    const risk = { by: 'risk', percentOfEquity: 1 } as const
    expect(sizeOrder(risk, { equity: 50_000, entry: 50, lot: 1 })).toMatchObject({
      why: expect.stringContaining('needs a stop'),
    })
    expect(sizeOrder(risk, { equity: 0, entry: 50, stop: 49, lot: 1 })).toMatchObject({
      why: expect.stringContaining('no equity'),
    })
    expect(sizeOrder(risk, { equity: 9, entry: 50, stop: 50, lot: 1 })).toMatchObject({
      why: expect.stringContaining('Move the stop'),
    })
  })
})

describe('exits: price, percent and ticks', () => {
  it.each([
    ['Buy', 'Stop', { percent: 3 }, 48.21, 46.76],
    ['Buy', 'Target', { percent: 7 }, 48.21, 51.58],
    ['SellShort', 'Stop', { percent: 3 }, 48.21, 49.66],
    ['SellShort', 'Target', { ticks: 40 }, 48.21, 47.81],
    ['Buy', 'Stop', { ticks: 40 }, 48.21, 47.81],
    ['Buy', 'Stop', { price: 47.8 }, 48.21, 47.8],
    ['Buy', 'Stop', { percent: 2 }, 1.01, 0.9898],
  ] as const)('%s %s %j from %d is %d', (side, role, level, from, wanted) =>
    expect(exitAt(level, role, side, from)).toBeCloseTo(wanted, 10),
  )

  it.each([
    ['Buy', 'Stop', { amount: 0.75 }, 20, 19.25],
    ['SellShort', 'Target', { amount: 0.75 }, 20, 19.25],
    ['Buy', 'Stop', { total: 150 }, 20, 18.5],
    ['SellShort', 'Stop', { total: 150 }, 20, 21.5],
    ['Buy', 'Stop', { trail: { percent: 5 } }, 20.01, 19],
    ['SellShort', 'Stop', { trail: { amount: 0.333 } }, 20, 20.34],
  ] as const)('in money, or trailing: %s %s %j from %d is %d', (side, role, level, from, wanted) =>
    expect(exitAt(level, role, side, from)).toBeCloseTo(wanted, 10),
  )

  it('a target in multiples of the risk is measured by its stop', () => {
    const prices = (stop: ExitLevel, side: Side = 'Buy') =>
      exitPrices({ stop, target: { risk: 2.5 } }, { side, reference: 40, quantity: 100, bands })
    expect(prices({ percent: 2 })).toEqual({ stop: 39.2, target: 42 })
    expect(prices({ price: 41 }, 'SellShort')).toEqual({ stop: 41, target: 37.5 })
    for (const exits of [
      { target: { risk: 2 } },
      { stop: { risk: 2 } },
      { target: { trail: { percent: 1 } } },
      {},
    ])
      expect(Exits.safeParse(exits).success).toBe(false)
  })

  it('a trailing stop keeps its distance at least, on a tick', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<Side>('Buy', 'Sell'),
        fc.integer({ min: 200, max: 50_000 }).map((c) => c / 100),
        fc.integer({ min: 1, max: 300 }).map((c) => c / 100),
        (side, price, amount) => {
          const at = trailedPrice({ amount }, side, price + amount, bands)
          const away = directionOf(side) * (at - (price + amount))
          expect(away).toBeGreaterThan(amount - 1e-9)
          expect(away).toBeLessThan(amount + 0.0100001)
        },
      ),
    )
  })

  it('lie on the right side of the entry, and all three readings say the same', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<Side>('Buy', 'SellShort'),
        fc.constantFrom('Stop' as const, 'Target' as const),
        fc.integer({ min: 200, max: 50_000 }).map((c) => c / 100),
        fc.oneof(
          fc.record({ percent: fc.integer({ min: 1, max: 40 }) }),
          fc.record({ ticks: fc.integer({ min: 1, max: 90 }) }),
        ),
        (side, role, entry, level) => {
          const price = exitAt(level, role, side, entry)!
          const away = directionOf(side) * (role === 'Target' ? 1 : -1)
          expect(Math.sign(price - entry)).toBe(away)
          const reading = levelAt(bands, entry, price)
          if ('ticks' in level) expect(Math.abs(reading.ticks)).toBe(level.ticks)
          else expect(Math.abs(Math.abs(reading.percent) - level.percent)).toBeLessThan(0.6)
        },
      ),
    )
    expect(closingSide('Buy')).toBe('Sell')
    expect(closingSide('SellShort')).toBe('Buy')
  })
})

describe('margin (Federal Reserve Regulation T, 50 % initially)', () => {
  it('50,000 of cash buys stock worth 100,000', () =>
    expect(buyingPowerE4(500_000_000, 0, 0)).toBe(1_000_000_000))
  it('stock worth 20,000 holds 10,000 and leaves 80,000 of buying power', () => {
    const marginE4 = initialMarginE4(200_000_000)
    expect(marginE4).toBe(100_000_000)
    expect(buyingPowerE4(500_000_000, marginE4, 0)).toBe(800_000_000)
  })
  it('only the part beyond what is held the other way opens a position', () => {
    expect(openingQuantity(100, -150)).toBe(50)
    expect(openingQuantity(-100, 60)).toBe(0)
    expect(openingQuantity(0, -5)).toBe(5)
    expect(openingQuantity(10, 5)).toBe(5)
  })
})

describe('checks', () => {
  it('all hold for a plain order, each with its values', () => {
    const checks = checkOrder(order({ exits: { stop: { percent: 3 }, target: { percent: 7 } } }), facts)
    expect(checks.map((c) => c.verdict)).toEqual(Array<string>(8).fill('holds'))
    expect(sayFinding(checks.at(-1)!).sentence).toBe('needs $5,001.00 of $100,000.00 buying power')
  })

  it.each([
    [{ orderQty: 10.5 }, {}, 'quantity: The quantity 10.5 is not whole. Use 10 or another whole number'],
    [
      { ordType: 'Limit', price: 48.215 },
      {},
      'tick: price 48.215 is off the tick: prices here move in steps of 0.01. Use 48.21 or 48.22.',
    ],
    [{ exits: { stop: { price: 47.805 } } }, {}, 'tick: exits.stop.price 47.805'],
    [
      { exits: { stop: { price: 51 } } },
      {},
      'exit-side: The stop at 51.00 is not below the entry at 50.00. Set it below 50.00.',
    ],
    [
      { orderQty: 3000 },
      {},
      'buying-power: Not enough buying power: the order needs $150,030.00, there are $100,000.00. Order at most 1999.',
    ],
    [
      {},
      { clOrdIdTaken: true },
      'client-order-id: The client order id a-1 stands for an earlier order. Nothing was sent twice.',
    ],
    [
      {},
      { security: undefined, near: ['OSPRY'] },
      'security: OSPRY is not listed on any venue here. Did you mean OSPRY?',
    ],
    [
      { side: 'Sell' },
      {},
      'shares-held: No OSPRY held; cannot sell 100. To open a short position use SellShort.',
    ],
    [{ side: 'Sell' }, { sharesHeld: 100, promised: 60 }, 'shares-held: Of 100 OSPRY held, 60 are promised'],
    [
      { side: 'SellShort' },
      { mayShort: false },
      'shares-held: This account may not sell short, and no OSPRY are held',
    ],
    [{ side: 'SellShort' }, { sharesHeld: 5 }, 'shares-held: 5 OSPRY are held long'],
    [{}, { sharesHeld: -60 }, 'shares-held: 60 OSPRY are held short; a Buy of 100 would cross'],
    [{}, { sharesHeld: -150, promised: 60 }, 'shares-held: Of 150 OSPRY held short, 60 are promised'],
    [{}, { offeredShort: 10 }, 'shares-held: A working order offers 10 OSPRY short'],
    [
      { side: 'SellShort', orderQty: 3000, ordType: 'Limit', price: 0.01 },
      {},
      'buying-power: Not enough buying power: the order needs $1',
    ],
    [
      {},
      { session: { ...facts.session, open: false } },
      'market-open: Brackwater Exchange is closed until Tuesday 09:30.',
    ],
  ])('%j with %j', (part, change, wanted) => expect(failing(part, change)[0]).toContain(wanted))

  it('what a check found has its figure and its limit, with their units', () => {
    const found = (part: Record<string, unknown>, change: Partial<OrderFacts> = {}) => {
      const { code, value, limit } = refusal(checkOrder(order(part), { ...facts, ...change }))!
      return [code, value, limit]
    }
    expect(found({ orderQty: 3000 })).toEqual([
      'buying-power',
      { amount: 150_030, unit: 'money', currency: 'USD' },
      { amount: 100_000, unit: 'money', currency: 'USD' },
    ])
    expect(found({ side: 'Sell', orderQty: 80 }, { sharesHeld: 100, promised: 30 })).toEqual([
      'shares-held',
      { amount: 80, unit: 'shares' },
      { amount: 70, unit: 'shares' },
    ])
    expect(found({ ordType: 'Limit', price: 50.005 })).toEqual([
      'tick',
      { amount: 50.005, unit: 'price', currency: 'USD' },
      { amount: 0.01, unit: 'price', currency: 'USD' },
    ])
    expect(found({ exits: { stop: { price: 51 } } })).toEqual([
      'exit-side',
      { amount: 51, unit: 'price', currency: 'USD' },
      { amount: 50, unit: 'price', currency: 'USD' },
    ])
  })

  it('a Limit order that is GoodTillCancel may rest overnight', () => {
    const resting = { ordType: 'Limit', price: 48, timeInForce: 'GoodTillCancel' }
    expect(failing(resting, { session: { ...facts.session, open: false } })).toEqual([])
  })

  it('the schema wants the price that the type needs, and no other field', () => {
    expect(() => order({ ordType: 'Limit' })).toThrow('a Limit order needs price')
    expect(() => order({ price: 5 })).toThrow('a Market order takes no price')
    expect(() => order({ qty: 5 })).toThrow()
    expect(() => order({ exits: {} })).toThrow('give a stop, a target or both')
    expect(() => order({ clOrdId: 'no spaces please' })).toThrow('use 1 to 64 letters')
  })
})

describe('order states (FIX 4.4 order state change matrices; from memory)', () => {
  it('nothing follows a state that ends an order', () => {
    for (const end of ['Filled', 'Canceled', 'Rejected', 'Expired'] as const)
      for (const execType of ExecType.options)
        for (const to of OrdStatus.options) expect(mayFollow(end, execType, to)).toBe(false)
  })
  it.each([
    [undefined, 'New', 'New', true],
    ['New', 'Trade', 'PartiallyFilled', true],
    ['PartiallyFilled', 'Trade', 'Filled', true],
    ['PartiallyFilled', 'Canceled', 'Canceled', true],
    ['New', 'Rejected', 'Rejected', false],
    ['PartiallyFilled', 'New', 'New', false],
    [undefined, 'Trade', 'Filled', false],
  ] as const)('from %s by %s to %s: %s', (from, by, to, may) => expect(mayFollow(from, by, to)).toBe(may))
})
