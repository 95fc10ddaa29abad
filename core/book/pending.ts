import { isOption, underlyingOf } from '../options/osi'
import { directionOf } from '../orders/levels'
import { type Move } from './needs'
import { type Working, type WorkingBook } from './working'

/**
 * Moves of resting orders in one underlying and its contracts that take cover away: contracts to be written, and sales by hand.
 * A multi-leg order counts with all its legs, since they trade together. A resting purchase covers nothing until it is
 * filled. Each order keeps its own money, so the moves cost nothing here.
 */
export function pendingMoves(working: WorkingBook, underlying: string): Move[] {
  const out: Move[] = []
  for (const symbol in working) {
    if (working[symbol].length === 0 || underlyingOf(symbol) !== underlying) continue
    for (const order of working[symbol])
      if (takesCover(order))
        out.push({ symbol, quantity: directionOf(order.side) * order.leavesQty, priceE4: 0 })
  }
  return out
}

function takesCover({ role, side, symbol }: Working): boolean {
  if (role === 'Leg') return true
  // Stops and targets do not count: they are held back at the fill if they would leave a written contract uncovered.
  return role === 'Entry' && (side === 'Sell' || (side === 'SellShort' && isOption(symbol)))
}

/** Whether a resting order would write contracts of an underlying. */
export const writesPending = (working: WorkingBook, underlying: string): boolean =>
  pendingMoves(working, underlying).some(({ symbol, quantity }) => quantity < 0 && isOption(symbol))
