import { type Adds, type Do } from '../plans/entry'
import { type Prepared } from './prepare'
import { type Held, type PlanState } from './state'
import { type ClauseFinding } from './verdicts'

export const addsOf = (deed: Do): Adds | undefined => ('open' in deed ? deed.adds : undefined)

/** Times that it has ordered more of what it holds. */
export const added = ({ entries = [] }: Held): number => Math.max(0, entries.length - 1)

/**
 * What keeps a side from ordering more of what the plan holds; undefined where nothing is held, or more may be. `byDistance`: it
 * is asked for since the price has gone so far.
 */
export function keptFromAdding(
  { sides }: Prepared,
  { held: all }: PlanState,
  side: number,
  symbol: string,
  byDistance = false,
): ClauseFinding | undefined {
  const held = all[symbol]
  if (!held || held.quantity === 0) return undefined
  const adds = addsOf(sides[side].side.do)
  if (!adds || held.side !== side || (adds.after !== 'Signal') !== byDistance)
    return { clause: 'Do', why: 'held already', held: held.quantity, verdict: 'fails' }
  return added(held) < adds.most
    ? undefined
    : { clause: 'Do', why: 'enough added', most: adds.most, verdict: 'fails' }
}
