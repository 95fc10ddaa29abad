import { halfEven } from '../market/money'

/** Shares of one purchase, or of one short sale, that are still held. */
export interface Lot {
  /** Of the fill that opened it (execId). */
  id: string
  /** The order whose fill it was. */
  orderId: string
  /** Session date. */
  opened: string
  /** Negative when short. */
  quantity: number
  /** Paid or received a share, in whole ten-thousandths; after a split not always whole, so that the lot has cost what it had. */
  priceE4: number
  /** The group of the order. */
  group?: string
  /** What a unit of its currency was worth in the account's; 1 where left out. */
  rate?: number
}

/** What a trade did to lots. */
export interface Dealt {
  lots: Lot[]
  /** Shares that were closed. */
  closed: number
  /** Profit of what was closed, in e4. */
  realizedE4: number
  /** Part of it that a change of the rate has brought. */
  currencyE4: number
  /** The same by the group of the lots that were closed. */
  byGroup: Record<string, number>
}

/**
 * Lots after a trade: it closes those of the other side, the one that is named first, then those of its own group, then the oldest (FIFO; source:
 * IRS Publication 550, "Stocks and bonds", from memory), and opens one with what is left. `dealt` is the trade as a
 * lot, of a security of which one is worth `multiplier` times its price; the lots that are given stay as they are.
 */
export function dealLots(lots: readonly Lot[], dealt: Lot, multiplier = 1, named?: string): Dealt {
  let left = dealt.quantity
  let [realizedE4, currencyE4] = [0, 0]
  const after: Lot[] = []
  const closes = (lot: Lot) => Math.sign(lot.quantity) === -Math.sign(dealt.quantity)
  const byGroup: Record<string, number> = {}
  const rank = (lot: Lot) =>
    lot.id === named ? 0 : dealt.group !== undefined && lot.group === dealt.group ? 1 : 2
  const taken = new Map<Lot, number>()
  for (const lot of lots.filter(closes).sort((a, b) => rank(a) - rank(b))) {
    if (left === 0) break
    const part = Math.sign(lot.quantity) * Math.min(Math.abs(left), Math.abs(lot.quantity))
    taken.set(lot, part)
    const [rate, was] = [dealt.rate ?? 1, lot.rate ?? 1]
    const worth = part * multiplier
    const gainE4 = halfEven(worth * dealt.priceE4 * rate) - halfEven(worth * lot.priceE4 * was)
    currencyE4 += halfEven(worth * lot.priceE4 * (rate - was))
    realizedE4 += gainE4
    if (lot.group !== undefined) byGroup[lot.group] = (byGroup[lot.group] ?? 0) + gainE4
    left += part
  }
  for (const lot of lots) {
    const quantity = lot.quantity - (taken.get(lot) ?? 0)
    if (quantity !== 0) after.push(quantity === lot.quantity ? lot : { ...lot, quantity })
  }
  const closed = Math.abs(dealt.quantity - left)
  if (left === 0) return { lots: after, closed, realizedE4, currencyE4, byGroup }
  const last = after.at(-1)
  // Fills of one order at one price are one lot.
  if (
    last?.orderId === dealt.orderId &&
    last.priceE4 === dealt.priceE4 &&
    last.opened === dealt.opened &&
    last.rate === dealt.rate
  )
    after[after.length - 1] = { ...last, quantity: last.quantity + left }
  else after.push({ ...dealt, quantity: left })
  return { lots: after, closed, realizedE4, currencyE4, byGroup }
}

/** Lots after a split: of as many more shares, each at as much less; when they were opened stays. */
export const splitLots = (lots: readonly Lot[], ratio: number): Lot[] =>
  lots.map((lot) => ({ ...lot, quantity: lot.quantity * ratio, priceE4: lot.priceE4 / ratio }))
