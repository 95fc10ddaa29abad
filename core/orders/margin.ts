import { isOption } from '../options/osi'

/**
 * Margin of stock positions, in whole ten-thousandths (e4). Source: Federal Reserve Regulation T: 50 % of the
 * market value initially, for long stock, and 50 % beyond the proceeds for short stock.
 */
export const INITIAL_SHARE = 0.5

/** Paid to the broker for each share traded, in e4 (half a cent), and for each option contract (65 cents). */
const COMMISSION_E4 = { share: 50, contract: 6_500 }

/** Commission of a trade, in e4. */
export const commissionE4 = (symbol: string, quantity: number): number =>
  quantity * (isOption(symbol) ? COMMISSION_E4.contract : COMMISSION_E4.share)

/** Commission in terms of buying power: free money is `share` of buying power. In e4. */
export const commissionPowerE4 = (symbol: string, quantity: number, share = INITIAL_SHARE): number =>
  Math.ceil(commissionE4(symbol, quantity) / share)

/** Share of its value that a position holds: half with margin; all of it in a cash account, which borrows nothing. */
export const initialShare = ({ margin }: { margin: boolean }): number => (margin ? INITIAL_SHARE : 1)

/** Margin that a position or order of this value holds, rounded up to a whole e4. */
export const initialMarginE4 = (valueE4: number, share = INITIAL_SHARE): number =>
  Math.ceil(Math.abs(valueE4) * share)

/** Value of stock that may still be bought: what is free of the equity, over the initial share. */
export const buyingPowerE4 = (
  equityE4: number,
  marginE4: number,
  reservedE4: number,
  share = INITIAL_SHARE,
): number => Math.max(0, Math.floor((equityE4 - marginE4 - reservedE4) / share))

/** Part of an order that opens or adds to a position, the rest closing what is held the other way. */
export function openingQuantity(held: number, signedQty: number): number {
  if (held === 0 || Math.sign(held) === Math.sign(signedQty)) return Math.abs(signedQty)
  return Math.max(0, Math.abs(signedQty) - Math.abs(held))
}
