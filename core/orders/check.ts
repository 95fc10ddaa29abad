import { onTick, toTick, incrementAt } from '../market/increment'
import { dollars, fromE4, priceText, toE4 } from '../market/money'
import { type Security } from '../market/security'
import { exitPrice, directionOf, likelyPrice } from './levels'
import { initialMarginE4, openingQuantity } from './margin'
import { type Check, type CheckCode, type ExitLevel, type NewOrder } from './model'

/** What is known when an order is checked. Amounts in whole ten-thousandths. */
export interface OrderFacts {
  security: Security | undefined
  /** Symbols that look like the one that was asked for. */
  near: readonly string[]
  bid?: number
  ask?: number
  last?: number
  session: { open: boolean; venue: string; opens: string }
  /** Currency of the account; another cannot be ordered in. */
  currency: string
  clOrdIdTaken: boolean
  /** Shares held; negative when short. */
  sharesHeld: number
  /** Shares that working sell orders would close already; of a Buy or SellShort, those that working orders would buy. */
  promised: number
  /** Shares that working orders would sell short. */
  offeredShort: number
  buyingPowerE4: number
}

/** Price that an order is reckoned with: where it would likely trade (see likelyPrice); undefined where none is known. */
export function reckonedPrice(
  order: Pick<NewOrder, 'side' | 'ordType' | 'price' | 'stopPx'>,
  facts: Pick<OrderFacts, 'bid' | 'ask' | 'last'>,
): number | undefined {
  const market = (order.side === 'Buy' ? facts.ask : facts.bid) ?? facts.last
  if (order.ordType === 'Market') return market
  const typed = order.ordType === 'Limit' ? order.price : order.stopPx
  if (typed === undefined || market === undefined) return typed
  return likelyPrice(order.side, order.ordType, typed, market)
}

/** Every check of an order, each with its value and its limit; the broker and the dry run use the same. */
export function checkOrder(order: NewOrder, facts: OrderFacts): Check[] {
  const { security } = facts
  if (!security) {
    const near =
      facts.near.length > 0 ? ` Did you mean ${facts.near.join(' or ')}?` : ' Search for it by its name.'
    return [fails('security', `${order.symbol} is not listed on any venue here.`, near.trim())]
  }
  return [
    facts.clOrdIdTaken
      ? fails(
          'client-order-id',
          `The client order id ${order.clOrdId} stands for an earlier order.`,
          'Nothing was sent twice. Use a new id for a new order.',
        )
      : holds('client-order-id', `client order id ${order.clOrdId} is new`),
    checkSecurity(security, facts.currency),
    checkQuantity(order, security),
    checkTicks(order, security),
    checkSession(order, facts),
    checkExitSides(order, facts),
    checkShares(order, facts),
    checkBuyingPower(order, facts),
  ]
}

const holds = (code: CheckCode, sentence: string): Check => ({ code, verdict: 'holds', sentence })
const fails = (code: CheckCode, sentence: string, mend: string): Check => ({
  code,
  verdict: 'fails',
  sentence,
  mend,
})
const unknown = (code: CheckCode, sentence: string): Check => ({ code, verdict: 'unknown', sentence })

function checkSecurity(security: Security, currency: string): Check {
  if (!security.orderable)
    return fails(
      'orderable',
      `${security.symbol} is an index and cannot be ordered.`,
      'Order a security that is a member of it.',
    )
  if (security.currency !== currency)
    return fails(
      'orderable',
      `${security.symbol} is traded in ${security.currency} on ${security.venue}; this account holds ${currency} only.`,
      `Look at it as you like, and order securities that are traded in ${currency}.`,
    )
  return holds('security', `${security.symbol} is ${security.name}, listed on ${security.venue}`)
}

function checkQuantity(order: NewOrder, security: Security): Check {
  const { orderQty } = order
  if (!Number.isInteger(orderQty)) {
    return fails(
      'quantity',
      `The quantity ${orderQty} is not whole.`,
      `Use ${Math.max(1, Math.floor(orderQty))} or another whole number of shares.`,
    )
  }
  if (orderQty % security.lot !== 0) {
    const down = Math.max(security.lot, Math.floor(orderQty / security.lot) * security.lot)
    return fails(
      'quantity',
      `The quantity ${orderQty} is not a multiple of the lot of ${security.lot}.`,
      `Use ${down}.`,
    )
  }
  return holds('quantity', `${orderQty} is a whole number of lots of ${security.lot}`)
}

const priceOf = (level: ExitLevel | undefined): number | undefined =>
  level && 'price' in level ? level.price : undefined

function checkTicks(order: NewOrder, security: Security): Check {
  const bands = security.increments
  const given: [string, number | undefined][] = [
    ['price', order.price],
    ['stopPx', order.stopPx],
    ['exits.stop.price', priceOf(order.exits?.stop)],
    ['exits.target.price', priceOf(order.exits?.target)],
  ]
  for (const [field, price] of given) {
    if (price === undefined || onTick(bands, price)) continue
    const step = incrementAt(bands, price)
    const [down, up] = [toTick(bands, price, 'down'), toTick(bands, price, 'up')]
    return fails(
      'tick',
      `${field} ${price} is off the tick: prices here move in steps of ${step}.`,
      `Use ${priceText(down)} or ${priceText(up)}.`,
    )
  }
  const prices = given.filter(([, price]) => price !== undefined)
  return holds(
    'tick',
    prices.length === 0
      ? 'a Market order names no price'
      : `${prices.map(([, p]) => priceText(p)).join(', ')} on the tick`,
  )
}

function checkSession(order: NewOrder, facts: OrderFacts): Check {
  const { open, venue, opens } = facts.session
  if (open) return holds('market-open', `${venue} is open`)
  if (order.ordType !== 'Market' && order.timeInForce === 'GoodTillCancel') {
    return holds('market-open', `${venue} is closed; the order rests until ${opens}`)
  }
  return fails(
    'market-open',
    `${venue} is closed until ${opens}.`,
    'Wait for the open, or send a Limit or Stop order that is GoodTillCancel: it rests until then.',
  )
}

function checkExitSides(order: NewOrder, facts: OrderFacts): Check {
  const { exits } = order
  if (!exits) return holds('exit-side', 'no exits attached')
  const entry = reckonedPrice(order, facts)
  if (entry === undefined) return unknown('exit-side', 'no price is known to measure the exits from')
  const bands = facts.security!.increments
  const up = directionOf(order.side)
  for (const [role, level] of [
    ['Stop', exits.stop],
    ['Target', exits.target],
  ] as const) {
    if (!level) continue
    const price = exitPrice(level, role, order.side, entry, bands)
    const wanted = role === 'Target' ? up : -up
    if (wanted * (price - entry) <= 0) {
      const side = wanted > 0 ? 'above' : 'below'
      return fails(
        'exit-side',
        `The ${role.toLowerCase()} at ${priceText(price)} is not ${side} the entry at ${priceText(entry)}.`,
        `Set it ${side} ${priceText(entry)}.`,
      )
    }
  }
  const parts = [exits.stop && 'stop', exits.target && 'target'].filter(Boolean).join(' and ')
  return holds('exit-side', `${parts} on the right side of ${priceText(entry)}, held at the broker`)
}

function checkShares(order: NewOrder, facts: OrderFacts): Check {
  const { sharesHeld: held, promised } = facts
  const name = order.symbol
  if (order.side === 'Sell') {
    const free = Math.max(0, held) - promised
    if (order.orderQty <= free) return holds('shares-held', `${held} ${name} held, ${free} free to sell`)
    return promised > 0
      ? fails(
          'shares-held',
          `Of ${held} ${name} held, ${promised} are promised to working sell orders.`,
          'Cancel those first, or sell less.',
        )
      : fails(
          'shares-held',
          `${held > 0 ? held : 'No'} ${name} held; cannot sell ${order.orderQty}.`,
          held > 0 ? `Sell at most ${held}.` : 'To open a short position use SellShort.',
        )
  }
  if (order.side === 'SellShort') {
    if (held <= 0 && promised > -held)
      return fails(
        'shares-held',
        `Working orders buy ${promised} ${name}; what is sold short would be crossed by them.`,
        'Cancel those first.',
      )
    if (held <= 0) return holds('shares-held', `no long position in ${name} in the way`)
    return fails(
      'shares-held',
      `${held} ${name} are held long; a short sale would cross them.`,
      'Sell the long position first.',
    )
  }
  if (held >= 0) {
    if (facts.offeredShort === 0) return holds('shares-held', 'buying needs no shares')
    return fails(
      'shares-held',
      `A working order offers ${facts.offeredShort} ${name} short; what is bought would be crossed by it.`,
      'Cancel that order first.',
    )
  }
  if (order.orderQty > -held - promised && promised > 0)
    return fails(
      'shares-held',
      `Of ${-held} ${name} held short, ${promised} are promised to working buy orders.`,
      'Cancel those first, or buy less.',
    )
  if (order.orderQty > -held)
    return fails(
      'shares-held',
      `${-held} ${name} are held short; a Buy of ${order.orderQty} would cross to the long side.`,
      `Buy ${-held} to close the short position, and what is to be held long after that.`,
    )
  if (order.exits)
    return fails(
      'shares-held',
      `This Buy closes a short position in ${name}; a stop or target beside it would open one again.`,
      'Send it without stop and target.',
    )
  return holds('shares-held', `closes ${order.orderQty} of ${-held} ${name} held short`)
}

/** What an order costs and holds, in e4, at the price that it is reckoned with. */
export function orderCost(order: NewOrder, facts: Pick<OrderFacts, 'bid' | 'ask' | 'last' | 'sharesHeld'>) {
  const entry = reckonedPrice(order, facts)
  if (entry === undefined) return undefined
  const signed = directionOf(order.side) * order.orderQty
  const opening = order.side === 'Sell' ? 0 : openingQuantity(facts.sharesHeld, signed)
  return {
    entry,
    valueE4: Math.round(order.orderQty * toE4(entry)),
    openingValueE4: Math.round(opening * toE4(entry)),
  }
}

function checkBuyingPower(order: NewOrder, facts: OrderFacts): Check {
  const cost = orderCost(order, facts)
  if (!cost) return unknown('buying-power', 'no price is known to reckon the cost with')
  const { entry, openingValueE4 } = cost
  const power = dollars(fromE4(facts.buyingPowerE4))
  const value = dollars(fromE4(openingValueE4))
  if (openingValueE4 === 0) return holds('buying-power', 'closes a position: needs no buying power')
  if (openingValueE4 <= facts.buyingPowerE4)
    return holds('buying-power', `needs ${value} of ${power} buying power`)
  const lot = facts.security!.lot
  const most = Math.floor(facts.buyingPowerE4 / toE4(entry) / lot) * lot
  return fails(
    'buying-power',
    `Not enough buying power: the order needs ${value}, there are ${power}.`,
    most > 0 ? `Order at most ${most}.` : 'Cancel a working order or close a position first.',
  )
}

/** Margin that a working order keeps back, in e4. */
export const reservedForE4 = (openingValueE4: number): number => initialMarginE4(openingValueE4)
