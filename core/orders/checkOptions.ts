import { fromE4, toE4 } from '../market/money'
import { type Security } from '../market/security'
import { isOption, underlyingOf } from '../options/osi'
import { type OptionNeeds } from './orderFacts'
import { fails, type Finding, holds, money, price, unknown } from './findings'
import { isInAuction, type NewOrder } from './model'

/** Net prices of multi-leg orders move in steps of a cent (common practice of US options markets). */
export const NET_STEP = 0.01

/** Whether the account may hold what would be held after the order. */
export function checkLevel(symbol: string, needs: OptionNeeds): Finding {
  const { level, allowed } = needs
  if (!needs.opens || level <= allowed) return holds({ code: 'option-level', why: 'allowed', level, allowed })
  return fails({ code: 'option-level', why: 'not allowed', level, allowed, symbol })
}

/** Whether what is free reaches for an order with options in it. */
export function checkMoney(needs: OptionNeeds, currency: string): Finding {
  const neededE4 = needs.moneyE4 + needs.commissionE4
  if (neededE4 <= 0) return holds({ code: 'buying-power', why: 'brings' })
  const [value, limit] = [neededE4, Math.max(0, needs.freeE4)].map((e4) => money(fromE4(e4), currency))
  return neededE4 <= needs.freeE4
    ? holds({ code: 'buying-power', why: 'enough cash' }, value, limit)
    : fails({ code: 'buying-power', why: 'not enough cash' }, value, limit)
}

/** Contracts have no auction of their own. */
export function checkAuction({ symbol, timeInForce }: NewOrder, { option }: Security): Finding[] {
  return option && isInAuction(timeInForce) ? [fails({ code: 'legs', why: 'no auction', symbol })] : []
}

/** Whether the legs of a multi-leg order can be one. */
export function checkLegs({ symbol, legs = [] }: NewOrder): Finding {
  const other = legs.find((leg) => underlyingOf(leg.symbol) !== symbol)
  if (other) return fails({ code: 'legs', why: 'other underlying', symbol, leg: other.symbol })
  // A contract is about a hundred shares, by which net prices are reckoned.
  const stock = legs.find((leg) => !isOption(leg.symbol))
  if (stock && stock.legRatioQty % 100 !== 0)
    return fails({ code: 'legs', why: 'odd shares', symbol: stock.symbol, ratio: stock.legRatioQty })
  return holds({ code: 'legs', why: 'one underlying', symbol, count: legs.length })
}

/** Whether a net price is on its step. */
export function checkNet(order: NewOrder, currency: string): Finding {
  if (order.price === undefined) return holds({ code: 'tick', why: 'on the tick', prices: [] })
  const [askedE4, stepE4] = [toE4(order.price), toE4(NET_STEP)]
  if (askedE4 % stepE4 === 0 && Math.abs(order.price * 10_000 - askedE4) < 1e-4)
    return holds({ code: 'tick', why: 'on the tick', prices: [order.price], net: true })
  const down = fromE4(Math.floor((order.price * 10_000) / stepE4) * stepE4)
  const up = fromE4(toE4(down) + stepE4)
  return fails(
    { code: 'tick', why: 'off the tick', field: 'price', down, up },
    price(order.price, currency),
    price(NET_STEP, currency),
  )
}

/** Where nothing is known to reckon an order with. */
export const noNeeds = (): Finding => unknown({ code: 'buying-power', why: 'no price' })
