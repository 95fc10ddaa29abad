import { type IncrementBand, incrementAt, ticksBetween, toTick } from '../market/increment'
import { type ExitLevel, type Side } from './model'

/** A level as people read it: price, and its distance from the reference in percent and ticks. */
export interface Level {
  price: number
  /** Signed: above the reference is positive. */
  percent: number
  ticks: number
}

/** +1 for a side that gains when the price rises, -1 for one that gains when it falls. */
export const directionOf = (side: Side): 1 | -1 => (side === 'Buy' ? 1 : -1)

/** Side of the order that closes what this side opened. */
export const closingSide = (side: Side): Side => (side === 'Buy' ? 'Sell' : 'Buy')

/** All three readings of a price against a reference. */
export function levelAt(bands: readonly IncrementBand[], reference: number, price: number): Level {
  return {
    price,
    percent: 100 * (price / reference - 1),
    ticks: Math.round(ticksBetween(bands, reference, price)),
  }
}

/**
 * Price of an exit, on a tick. Distances are measured from `reference` (the average price of the fill): the
 * stop on the losing side of the entry, the target on the winning side. Halves of a tick go up.
 */
export function exitPrice(
  level: ExitLevel,
  role: 'Stop' | 'Target',
  entrySide: Side,
  reference: number,
  bands: readonly IncrementBand[],
): number {
  if ('price' in level) return level.price
  const away = directionOf(entrySide) * (role === 'Target' ? 1 : -1)
  if ('percent' in level) return toTick(bands, reference * (1 + (away * level.percent) / 100))
  const from = toTick(bands, reference)
  return toTick(bands, from + away * level.ticks * incrementAt(bands, from))
}

/**
 * Where an order would likely trade: at the market; a Stop not before its trigger is reached, and a Limit never at a worse price
 * than its own. A typed price alone says nothing: a short sale at 0.01 would sell at the bid. `limit`, `stop` (0 where
 * it has none) and `market` (the ask of a Buy, the bid of a sale) in the same unit, whichever it is.
 */
export function likelyPrice(side: Side, limit: number, stop: number, market: number): number {
  const buying = side === 'Buy'
  let likely = market
  if (stop > 0) likely = buying ? Math.max(stop, likely) : Math.min(stop, likely)
  if (limit > 0) likely = buying ? Math.min(limit, likely) : Math.max(limit, likely)
  return likely
}
