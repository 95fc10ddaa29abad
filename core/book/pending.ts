import { isOption, underlyingOf } from '../options/osi'
import { directionOf } from '../orders/levels'
import { type Move } from './needs'
import { type Working, type WorkingBook } from './working'

/**
 * What orders that rest would move of one underlying and its contracts, as far as it takes cover away: contracts that are
 * written, and sales by hand of what is held. Of a multi-leg order all legs, since they trade together. What is only bought by a resting
 * order covers nothing before it is filled. Money is kept with each order, so the moves cost nothing here.
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
  // Stops and targets close what is held, and are held back at the fill where they would uncover something.
  return role === 'Entry' && (side === 'Sell' || (side === 'SellShort' && isOption(symbol)))
}

/** Whether a resting order would write contracts of an underlying. */
export const writesPending = (working: WorkingBook, underlying: string): boolean =>
  pendingMoves(working, underlying).some(({ symbol, quantity }) => quantity < 0 && isOption(symbol))
