import { type IncrementBand, incrementAt, ticksBetween, toTick } from '../market/increment'
import { type Side } from './legs'
import { type ExitLevel, type Exits, type StopLimitBy, type Trail } from './exits'

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

/** What the prices of exits are reckoned from. */
export interface ExitTerms {
  side: Side
  /** The average price of the fill, or where it is likely. */
  reference: number
  /** Shares of the whole position, or of the part of it that they are for. */
  quantity: number
  bands: readonly IncrementBand[]
}

/**
 * Prices of exits, on ticks; undefined where there is none. Distances are measured from the reference: the stop on the
 * losing side of the entry, the target on the winning side. Halves of a tick go up.
 */
export function exitPrices(
  { stop, target }: Pick<Exits, 'stop' | 'target'>,
  terms: ExitTerms,
): { stop?: number; target?: number } {
  const stopAt = stop && exitPrice(stop, 'Stop', terms, undefined)
  return { stop: stopAt, target: target && exitPrice(target, 'Target', terms, stopAt) }
}

function exitPrice(
  level: ExitLevel,
  role: 'Stop' | 'Target',
  { side, reference, quantity, bands }: ExitTerms,
  stopAt: number | undefined,
): number {
  if ('price' in level) return level.price
  const way = directionOf(side) * (role === 'Target' ? 1 : -1)
  const away = (distance: number) => toTick(bands, reference + way * distance)
  if ('percent' in level) return toTick(bands, reference * (1 + (way * level.percent) / 100))
  if ('amount' in level) return away(level.amount)
  if ('total' in level) return away(level.total / quantity)
  if ('risk' in level) return away(level.risk * Math.abs(reference - (stopAt ?? reference)))
  if ('trail' in level) return trailedPrice(level.trail, closingSide(side), reference, bands)
  const from = toTick(bands, reference)
  return toTick(bands, from + way * level.ticks * incrementAt(bands, from))
}

/** The limit that a stop of a side becomes: so far beyond it, on a tick that is not nearer; never below the first tick. */
export function stopLimitPrice(
  by: StopLimitBy,
  side: Side,
  stopPx: number,
  bands: readonly IncrementBand[],
): number {
  const way = directionOf(side)
  const distance = 'ticks' in by ? by.ticks * incrementAt(bands, stopPx) : (stopPx * by.percent) / 100
  return Math.max(toTick(bands, stopPx + way * distance, way > 0 ? 'up' : 'down'), incrementAt(bands, 0))
}

/** Where a trailing stop of a side stands behind a price; on a tick, the one that is further away. */
export function trailedPrice(
  trail: Trail,
  side: Side,
  price: number,
  bands: readonly IncrementBand[],
): number {
  const way = directionOf(side)
  const distance = 'amount' in trail ? trail.amount : (price * trail.percent) / 100
  const at = toTick(bands, price + way * distance, way > 0 ? 'up' : 'down')
  return Math.max(at, incrementAt(bands, 0))
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
