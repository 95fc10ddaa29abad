import { onTick, toTick, incrementAt } from '../market/increment'
import { fromE4, toE4 } from '../market/money'
import { type Security } from '../market/security'
import { type OrderFacts } from './orderFacts'
import { checkAuction, checkLegs, checkLevel, checkMoney, checkNet, noNeeds } from './checkOptions'
import { fails, type Finding, holds, money, price, shares, type SharesWhy, unknown } from './findings'
import { multiplierOf } from '../options/osi'
import { type Leg } from './legs'
import { directionOf, exitPrices, likelyPrice, trailedPrice } from './levels'
import { commissionPowerE4, openingQuantity } from './margin'
import { hasLimit, hasStop, isInAuction, type NewOrder } from './model'
import { partsOf, shareOut } from './exits'
import { priceQuestion } from './priceQuestion'

export type { OrderFacts } from './orderFacts'

/** Price that an order is reckoned with: where it would likely trade (see likelyPrice); undefined where none is known. */
export function reckonedPrice(
  order: Pick<NewOrder, 'side' | 'ordType' | 'price' | 'stopPx' | 'trail'>,
  facts: Pick<OrderFacts, 'bid' | 'ask' | 'last' | 'security'>,
): number | undefined {
  const market = (order.side === 'Buy' ? facts.ask : facts.bid) ?? facts.last
  const { side, ordType, price: limit, trail } = order
  const bands = facts.security?.increments
  const follows = trail && bands && facts.last !== undefined
  const stop = follows ? trailedPrice(trail, side, facts.last!, bands) : order.stopPx
  if ((hasLimit(ordType) && limit === undefined) || (hasStop(ordType) && stop === undefined)) return undefined
  if (market === undefined) return limit ?? stop
  return likelyPrice(side, limit ?? 0, stop ?? 0, market)
}

/** Every check of an order, each with its value and its limit; the broker and the dry run use the same. */
export function checkOrder(order: NewOrder, facts: OrderFacts): Finding[] {
  const { security } = facts
  if (order.legs) return checkWhole(order, order.legs, facts)
  if (!security) return [fails({ code: 'security', why: 'unlisted', symbol: order.symbol, near: facts.near })]
  return [
    checkId(order, facts),
    checkSecurity(security, facts.rate ?? 1),
    order.orderQty === 0
      ? checkCash(order, facts, reckonedPrice(order, facts) ?? 0)
      : checkQuantity(order.orderQty + (facts.filled ?? 0), security),
    checkTicks(order, security),
    ...questioned(order, facts),
    checkSession(order, facts),
    ...(facts.expiry ? [checkExpiry(order, facts.expiry.last)] : []),
    checkExitSides(order, facts),
    ...checkAuction(order, security),
    ...checkTrigger(order, facts),
    ...checkLocate(order, facts),
    checkShares(order, facts),
    ...(facts.needs ? [checkLevel(order.symbol, facts.needs)] : []),
    checkPower(order, facts),
    ...(facts.stoodDown
      ? [checkStanding(order.symbol, opens(order, facts.sharesHeld) > 0, facts.stoodDown)]
      : []),
    ...(facts.gates ?? []),
  ]
}

/** Every check of a multi-leg order: what concerns its legs once for each of them. */
function checkWhole(order: NewOrder, legs: readonly Leg[], facts: OrderFacts): Finding[] {
  const known = facts.legs ?? []
  const unlisted = legs.flatMap(({ symbol }, i) =>
    known[i]?.security
      ? []
      : [fails({ code: 'security', why: 'unlisted', symbol, near: known[i]?.near ?? [] })],
  )
  if (unlisted.length > 0) return unlisted
  const alone = legs.map(({ symbol, legSide, legRatioQty }) => ({
    ...order,
    ...{ symbol, side: legSide, orderQty: legRatioQty * order.orderQty },
  }))
  const opening = alone.some((leg, i) => opens(leg, known[i].sharesHeld) > 0)
  const { currency } = facts
  return [
    checkId(order, facts),
    ...known.map((leg) => checkSecurity(leg.security!, facts.rate ?? 1)),
    checkLegs(order),
    checkQuantity(order.orderQty + (facts.filled ?? 0), { lot: 1 }),
    checkNet(order, currency),
    ...questioned(order, facts),
    ...checkTrigger(order, facts),
    checkSession(order, facts),
    ...(facts.expiry ? [checkExpiry(order, facts.expiry.last)] : []),
    ...alone.flatMap((leg, i) => checkLocate(leg, { ...facts, ...known[i] })),
    ...alone.map((leg, i) => checkShares(leg, { ...facts, ...known[i] })),
    ...(facts.needs
      ? [checkLevel(order.symbol, facts.needs), checkMoney(facts.needs, currency)]
      : [noNeeds()]),
    ...(facts.stoodDown ? [checkStanding(order.symbol, opening, facts.stoodDown)] : []),
    ...(facts.gates ?? []),
  ]
}

/** A question about the price of an order; nothing where it is plain. */
function questioned(order: NewOrder, facts: OrderFacts): Finding[] {
  const question = priceQuestion(order, facts)
  return question ? [question] : []
}

function checkTrigger({ triggerClOrdId: clOrdId }: NewOrder, { trigger }: OrderFacts): Finding[] {
  if (clOrdId === undefined) return []
  const why = trigger ?? 'unknown'
  const finding = { code: 'trigger' as const, why, clOrdId }
  return [why === 'works' ? holds(finding) : fails(finding)]
}

/** Whether what would be sold short can be borrowed, with what is short already and would be. */
function checkLocate({ symbol, side, orderQty }: NewOrder, facts: OrderFacts): Finding[] {
  if (side !== 'SellShort' || facts.security!.option) return []
  const { borrowable, sharesHeld, offeredShort } = facts
  if (borrowable === undefined) return [holds({ code: 'locate', why: 'easy', symbol })]
  const most = Math.max(0, borrowable - Math.max(0, -sharesHeld) - offeredShort)
  const [value, limit] = [shares(orderQty), shares(most)]
  return [
    orderQty <= most
      ? holds({ code: 'locate', why: 'located', symbol }, value, limit)
      : fails({ code: 'locate', why: 'not to be had', symbol }, value, limit),
  ]
}

const checkId = ({ clOrdId }: NewOrder, { clOrdIdTaken }: OrderFacts): Finding =>
  clOrdIdTaken
    ? fails({ code: 'client-order-id', why: 'taken', clOrdId })
    : holds({ code: 'client-order-id', why: 'new', clOrdId })

/** Money: of options by what they need, of shares by what they cost, and by both where shares cover options. */
function checkPower(order: NewOrder, facts: OrderFacts): Finding {
  const { needs, security } = facts
  if (security!.option) return needs ? checkMoney(needs, facts.currency) : noNeeds()
  const short = needs && needs.moneyE4 + needs.commissionE4 > needs.freeE4
  return short && order.side === 'Sell' ? checkMoney(needs, facts.currency) : checkBuyingPower(order, facts)
}

function checkSecurity(security: Security, rate: number): Finding {
  const { symbol, name, venue, currency: traded } = security
  if (!security.orderable) return fails({ code: 'orderable', why: 'index', symbol })
  return holds({ code: 'security', why: 'listed', symbol, name, venue, traded, rate })
}

/** Of an order by money: whether that buys anything. */
function checkCash(
  { cashOrderQty }: NewOrder,
  { security, currency, rate = 1 }: OrderFacts,
  entry: number,
): Finding {
  const lotCost = entry * security!.lot * multiplierOf(security!.symbol) * rate
  return fails(
    { code: 'quantity', why: 'too little money', lot: security!.lot },
    money(cashOrderQty!, currency),
    money(fromE4(Math.ceil(toE4(lotCost))), currency),
  )
}

function checkQuantity(orderQty: number, { lot }: Pick<Security, 'lot'>): Finding {
  const [value, limit] = [shares(orderQty), shares(lot)]
  if (!Number.isInteger(orderQty))
    return fails({ code: 'quantity', why: 'not whole', use: Math.max(1, Math.floor(orderQty)) }, value, limit)
  const down = Math.max(lot, Math.floor(orderQty / lot) * lot)
  if (orderQty % lot !== 0) return fails({ code: 'quantity', why: 'off the lot', use: down }, value, limit)
  return holds({ code: 'quantity', why: 'whole lots', use: orderQty }, value, limit)
}

/** Absolute prices of an order and its exits, with their fields. */
function pricesOf({ price: limit, stopPx, exits }: NewOrder): { fields: string[]; prices: number[] } {
  const fields: string[] = []
  const prices: number[] = []
  const add = (field: string, asked: number | undefined) => {
    if (asked === undefined) return
    fields.push(field)
    prices.push(asked)
  }
  add('price', limit)
  add('stopPx', stopPx)
  const parts = exits ? partsOf(exits) : []
  for (const [i, { stop, target }] of parts.entries()) {
    const at = exits!.parts ? `exits.parts.${i}` : 'exits'
    if (stop && 'price' in stop) add(`${at}.stop.price`, stop.price)
    if (target && 'price' in target) add(`${at}.target.price`, target.price)
  }
  return { fields, prices }
}

function checkTicks(order: NewOrder, { increments, currency }: Security): Finding {
  const { fields, prices } = pricesOf(order)
  const at = prices.findIndex((asked) => !onTick(increments, asked))
  if (at < 0) return holds({ code: 'tick', why: 'on the tick', prices })
  const asked = prices[at]
  const [down, up] = [toTick(increments, asked, 'down'), toTick(increments, asked, 'up')]
  return fails(
    { code: 'tick', why: 'off the tick', field: fields[at], down, up },
    price(asked, currency),
    price(incrementAt(increments, asked), currency),
  )
}

function checkSession(order: NewOrder, { halted, session: { open, venue, opens } }: OrderFacts): Finding {
  if (open && halted) return holds({ code: 'market-open', why: 'halted', venue, opens })
  if (open) return holds({ code: 'market-open', why: 'open', venue, opens })
  const { ordType, timeInForce } = order
  const outlasts = timeInForce === 'GoodTillCancel' || timeInForce === 'GoodTillDate'
  if ((ordType !== 'Market' && outlasts) || isInAuction(timeInForce))
    return holds({ code: 'market-open', why: 'rests', venue, opens })
  return fails({ code: 'market-open', why: 'closed', venue, opens })
}

function checkExpiry({ expireDate }: NewOrder, last: string | undefined): Finding {
  if (last === undefined) return fails({ code: 'expiry', why: 'past', date: expireDate ?? '' })
  return holds({ code: 'expiry', why: 'ends', date: last })
}

function checkExitSides(order: NewOrder, facts: OrderFacts): Finding {
  if (!order.exits) return holds({ code: 'exit-side', why: 'no exits' })
  const entry = reckonedPrice(order, facts)
  if (entry === undefined) return unknown({ code: 'exit-side', why: 'no price' })
  const { increments, currency } = facts.security!
  const up = directionOf(order.side)
  const parts = partsOf(order.exits)
  const quantities = shareOut(parts, order.orderQty + (facts.filled ?? 0), facts.security!.lot)
  const levels = parts.flatMap((part, i) => {
    const quantity = quantities[i] * multiplierOf(order.symbol)
    const at = exitPrices(part, { side: order.side, reference: entry, bands: increments, quantity })
    return [['Stop', at.stop] as const, ['Target', at.target] as const]
  })
  const roles = new Set<'Stop' | 'Target'>()
  for (const [role, level] of levels) {
    if (level === undefined) continue
    roles.add(role)
    const wanted = role === 'Target' ? up : -up
    if (wanted * (level - entry) <= 0 || level <= 0)
      return fails(
        { code: 'exit-side', why: 'wrong side', role, side: wanted > 0 ? 'above' : 'below' },
        price(level, currency),
        price(entry, currency),
      )
  }
  return holds({ code: 'exit-side', why: 'right side', roles: [...roles] }, undefined, price(entry, currency))
}

function checkShares(order: NewOrder, facts: OrderFacts): Finding {
  const { sharesHeld: held, promised, offeredShort } = facts
  const { symbol, orderQty } = order
  const about = (verdict: 'holds' | 'fails', why: SharesWhy, most?: number, among = promised): Finding => ({
    code: 'shares-held',
    verdict,
    why,
    symbol,
    held,
    promised: among,
    value: shares(orderQty),
    limit: most === undefined ? undefined : shares(Math.max(0, most)),
  })
  if (order.lot !== undefined && !facts.lots.includes(order.lot)) return about('fails', 'no such lot', 0)
  if (order.side === 'Sell') {
    const free = Math.max(0, held) - promised
    if (orderQty <= free) return about('holds', 'free to sell', free)
    return about('fails', promised > 0 ? 'promised to sales' : 'too few held', free)
  }
  if (order.side === 'SellShort') {
    if (order.positionEffect === 'Close') return about('fails', 'nothing to close', 0)
    if (!facts.mayShort) return about('fails', 'sells nothing short', 0)
    if (held > 0) return about('fails', 'held long', 0)
    return promised > -held ? about('fails', 'crossed by purchases', 0) : about('holds', 'none long')
  }
  if (order.positionEffect === 'Close' && held >= 0) return about('fails', 'nothing to close', 0)
  if (held >= 0)
    return offeredShort > 0
      ? about('fails', 'crossed by short sales', 0, offeredShort)
      : about('holds', 'needs none')
  if (orderQty > -held - promised && promised > 0)
    return about('fails', 'promised to purchases', -held - promised)
  if (orderQty > -held) return about('fails', 'crosses to long', -held)
  return order.exits ? about('fails', 'closes with exits', -held) : about('holds', 'closes', -held)
}

function checkStanding(symbol: string, opening: boolean, from: 'account' | 'security'): Finding {
  const why = opening ? from : 'closes'
  return why === 'closes'
    ? holds({ code: 'standing-down', why, symbol })
    : fails({ code: 'standing-down', why, symbol })
}

/** Shares of an order that open or add to a position, beside what is held. */
export const opens = (order: Pick<NewOrder, 'side' | 'orderQty'>, held: number): number =>
  order.side === 'Sell' ? 0 : openingQuantity(held, directionOf(order.side) * order.orderQty)

/** What an order costs and holds, in e4, at the price that it is reckoned with. */
export function orderCost(
  order: NewOrder,
  facts: Pick<OrderFacts, 'bid' | 'ask' | 'last' | 'security' | 'sharesHeld' | 'rate'>,
) {
  const entry = reckonedPrice(order, facts)
  if (entry === undefined) return undefined
  const opening = opens(order, facts.sharesHeld)
  const one = toE4(entry) * multiplierOf(order.symbol) * (facts.rate ?? 1)
  return {
    entry,
    valueE4: Math.round(order.orderQty * one),
    openingValueE4: Math.round(opening * one),
  }
}

function checkBuyingPower(order: NewOrder, facts: OrderFacts): Finding {
  const cost = orderCost(order, facts)
  if (!cost) return unknown({ code: 'buying-power', why: 'no price' })
  const { entry, openingValueE4 } = cost
  const { lot } = facts.security!
  const { currency } = facts
  if (openingValueE4 === 0) return holds({ code: 'buying-power', why: 'closes' })
  const { symbol } = order
  const neededE4 = openingValueE4 + commissionPowerE4(symbol, order.orderQty, facts.share)
  const [value, limit] = [money(fromE4(neededE4), currency), money(fromE4(facts.buyingPowerE4), currency)]
  if (neededE4 <= facts.buyingPowerE4) return holds({ code: 'buying-power', why: 'enough' }, value, limit)
  const each = toE4(entry) * (facts.rate ?? 1) + commissionPowerE4(symbol, 1, facts.share)
  const most = Math.floor(facts.buyingPowerE4 / each / lot) * lot
  return fails({ code: 'buying-power', why: 'not enough', most }, value, limit)
}
