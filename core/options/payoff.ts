import { type Leg } from '../orders/legs'
import { directionOf } from '../orders/levels'
import { CONTRACT_MULTIPLIER, isOption, parseOsi } from './osi'

/** What one unit of several legs gains and loses at most, in money of the underlying; Infinity where nothing bounds it. */
export interface Bounds {
  gain: number
  loss: number
}

/**
 * Most gain and most loss of a unit of legs that was opened at a net price (above 0 paid, below received), held until its
 * contracts end: between strikes the payoff is a straight line, so that it is highest and lowest at one of them, at a price
 * of nought, or has no bound upward (common practice). Undefined where the contracts end on different days: then there is no
 * such line.
 */
export function boundsOf(legs: readonly Leg[], net: number): Bounds | undefined {
  const contracts = legs.flatMap(({ symbol }) => parseOsi(symbol) ?? [])
  if (new Set(contracts.map(({ maturityDate }) => maturityDate)).size !== 1 || Number.isNaN(net))
    return undefined
  const gains = [0, ...contracts.map(({ strikePrice }) => strikePrice)].map((price) =>
    gainAt(legs, net, price),
  )
  const slope = legs.reduce((sum, leg) => sum + slopeAbove(leg), 0)
  return {
    gain: slope > 0 ? Infinity : Math.max(0, ...gains),
    loss: slope < 0 ? Infinity : Math.max(0, ...gains.map((one) => -one)),
  }
}

/** What a unit has gained where the underlying ends at a price. */
function gainAt(legs: readonly Leg[], net: number, price: number): number {
  const worth = legs.reduce((sum, { symbol, legSide, legRatioQty }) => {
    const contract = isOption(symbol) ? parseOsi(symbol) : undefined
    const each = !contract
      ? price / CONTRACT_MULTIPLIER
      : Math.max(0, (contract.putOrCall === 'Call' ? 1 : -1) * (price - contract.strikePrice))
    return sum + directionOf(legSide) * legRatioQty * each
  }, 0)
  return CONTRACT_MULTIPLIER * (worth - net)
}

/** How the worth of a leg changes with the price above all strikes. */
function slopeAbove({ symbol, legSide, legRatioQty }: Leg): number {
  const contract = isOption(symbol) ? parseOsi(symbol) : undefined
  const each = !contract ? 1 / CONTRACT_MULTIPLIER : contract.putOrCall === 'Call' ? 1 : 0
  return directionOf(legSide) * legRatioQty * each
}

/** The day on which the first contract among some symbols ends; undefined where there is none. */
export const firstExpiry = (symbols: readonly string[]): string | undefined =>
  symbols
    .flatMap((symbol) => (isOption(symbol) ? (parseOsi(symbol)?.maturityDate ?? []) : []))
    .sort()
    .at(0)
