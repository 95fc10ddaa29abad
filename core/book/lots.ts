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
  /** Paid or received a share, in whole ten-thousandths. */
  priceE4: number
}

/** What a trade did to lots. */
export interface Dealt {
  lots: Lot[]
  /** Shares that were closed. */
  closed: number
  /** Profit of what was closed, in e4. */
  realizedE4: number
}

/**
 * Lots after a trade: it closes those of the other side, the one that is named first and then the oldest (FIFO; source:
 * IRS Publication 550, "Stocks and bonds", from memory), and opens one with what is left. `dealt` is the trade as a
 * lot, of a security of which one is worth `multiplier` times its price; the lots that are given stay as they are.
 */
export function dealLots(lots: readonly Lot[], dealt: Lot, multiplier = 1, named?: string): Dealt {
  let left = dealt.quantity
  let realizedE4 = 0
  const after: Lot[] = []
  const closes = (lot: Lot) => Math.sign(lot.quantity) === -Math.sign(dealt.quantity)
  const first = lots.find((lot) => lot.id === named && closes(lot))
  const taken = new Map<Lot, number>()
  for (const lot of first ? [first, ...lots.filter((one) => one !== first)] : lots) {
    if (left === 0 || !closes(lot)) continue
    const part = Math.sign(lot.quantity) * Math.min(Math.abs(left), Math.abs(lot.quantity))
    taken.set(lot, part)
    realizedE4 += part * (dealt.priceE4 - lot.priceE4) * multiplier
    left += part
  }
  for (const lot of lots) {
    const quantity = lot.quantity - (taken.get(lot) ?? 0)
    if (quantity !== 0) after.push(quantity === lot.quantity ? lot : { ...lot, quantity })
  }
  const closed = Math.abs(dealt.quantity - left)
  if (left === 0) return { lots: after, closed, realizedE4 }
  const last = after.at(-1)
  // Fills of one order at one price are one lot.
  if (last?.orderId === dealt.orderId && last.priceE4 === dealt.priceE4 && last.opened === dealt.opened)
    after[after.length - 1] = { ...last, quantity: last.quantity + left }
  else after.push({ ...dealt, quantity: left })
  return { lots: after, closed, realizedE4 }
}
