import { fromE4 } from '../market/money'
import { type Asked } from './asked'
import { shareOf } from './never'
import { figuresAt, type Shared } from './shared'
import { type Prepared } from './prepare'
import { type PlanState } from './state'
import { type Guardrail } from './verdicts'
import { boundOf, sumsOf, worthOf } from './worth'

/** What limits leave for one more order of a security, in money of the account, and the limit that leaves least. */
export interface Room {
  money: number
  by?: Guardrail
}

/**
 * Room for an order under the limits of Never and the account's buying power. `whole`: what the order and its mate come to
 * together for each unit of money in the order itself. `lent`: share of buying power that counts, since options lend nothing.
 */
export function roomFor(
  prepared: Prepared,
  state: PlanState,
  shared: Shared,
  { side, symbol, at }: Asked,
  { whole = 1, lent = 1, paid = 0 }: { whole?: number; lent?: number; paid?: number } = {},
): Room {
  const { never } = prepared.plan
  let room: Room = { money: Infinity }
  const leaves = (by: Guardrail, money: number) => {
    if (money < room.money) room = { money, by }
  }
  if (never.largestOrder !== undefined)
    leaves('size of one order', never.largestOrder / Math.max(1, whole - 1))
  if (never.exposurePerSecurity !== undefined)
    leaves('exposure in the security', never.exposurePerSecurity - boundOf(shared, symbol))
  if ((never.exposure ?? never.share) !== undefined) {
    const { exposure } = sumsOf(prepared, state, shared, at)
    if (never.exposure !== undefined) leaves('exposure of the plan', (never.exposure - exposure) / whole)
    const share = shareOf(never, shared, at)
    if (share !== undefined) leaves('share of the plan', (share - exposure) / whole)
  }
  const { do: deed } = prepared.sides[side].side
  const { upTo } = 'open' in deed ? (deed.adds ?? {}) : {}
  if (upTo) {
    const { quantity = 0 } = state.held[symbol] ?? {}
    const most = 'money' in upTo ? upTo.money : worthOf(shared, symbol, upTo.shares)
    leaves('most of the position', most - worthOf(shared, symbol, quantity))
  }
  const power = fromE4(figuresAt(shared, at).buyingPowerE4) - (never.freeBuyingPower ?? 0)
  // Buying power pays the commission too; `paid` is its share of the value bought.
  leaves('buying power left', (power * lent) / whole / (1 + paid))
  return room
}

/**
 * What limits leave of a size, in whole lots; undefined where they leave all of it, or less than the least, so that the limit
 * itself says no.
 */
export function capped(
  wanted: number,
  { money }: Room,
  each: number,
  lot: number,
  least: number,
): number | undefined {
  if (!(each * wanted > money)) return undefined
  const most = Math.floor(money / each / lot + 1e-9) * lot
  return most > 0 && most < wanted && most >= (wanted * least) / 100 ? most : undefined
}
