import { type Adds, type Do } from '../plans/entry'
import { type Asked } from './asked'
import { type Prepared } from './prepare'
import { type Held, type PlanState } from './state'
import { type ClauseFinding } from './verdicts'

export const addsOf = (deed: Do): Adds | undefined => ('open' in deed ? deed.adds : undefined)

/** Minutes at least from the last fill to the next order for more: without them an order's own slippage asks for the next. */
export const apartOf = ({ apart, after }: Adds): number => apart ?? (after === 'Signal' ? 0 : 1)

/** Times that it has ordered more of what it holds. */
export const added = ({ entries = [] }: Held): number => Math.max(0, entries.length - 1)

/**
 * What keeps a side from ordering more of what the plan holds; undefined where nothing is held, or more may be.
 */
export function keptFromAdding(
  { sides }: Prepared,
  { held: all }: PlanState,
  { side, symbol, at, byDistance = false }: Asked,
): ClauseFinding | undefined {
  const held = all[symbol]
  if (!held || held.quantity === 0) return undefined
  const adds = addsOf(sides[side].side.do)
  if (!adds || held.side !== side || (adds.after !== 'Signal') !== byDistance)
    return { clause: 'Do', why: 'held already', held: held.quantity, verdict: 'fails' }
  if (added(held) >= adds.most)
    return { clause: 'Do', why: 'enough added', most: adds.most, verdict: 'fails' }
  const minutes = apartOf(adds)
  return at - (held.lastAt ?? -Infinity) < minutes * 60_000
    ? { clause: 'Do', why: 'added just now', minutes, verdict: 'fails' }
    : undefined
}
