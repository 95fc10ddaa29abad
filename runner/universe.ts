import { type Broker } from '@/client'
import { heldByPlan } from '@/core/engine/heldByPlan'
import { type Shared } from '@/core/engine/shared'
import { type ExecutionReport } from '@/core/orders/model'
import { isOption } from '@/core/options/osi'
import { type Plan, type Side } from '@/core/plans/document'
import { type FoundNow } from '@/core/plans/found'
import { placesOf, searchNow } from './search'
import { Unavailable } from './unavailable'

/**
 * The securities of a side of a plan now: those that it names, that are held, or that its search finds. `reports` are those of
 * the account so far, by which it is known what a plan holds.
 */
export async function universeOf(
  broker: Broker,
  plan: Plan,
  side: number,
  shared: Shared,
  reports: readonly ExecutionReport[],
): Promise<FoundNow> {
  const { among } = plan.sides[side]
  const { listed } = shared
  if ('found' in among) return searchNow(broker, among.found, { listed, reports, plan })
  if ('index' in among) return membersOf(among.index, listed)
  const symbols =
    'list' in among
      ? [...among.list]
      : 'pairs' in among
        ? among.pairs.map(([first]) => first)
        : // Of any security those that it holds: others come with the events that tell of them.
          heldNow('any' in among ? 'Plan' : among.positions, shared, plan.id, reports)
  return { symbols, left: [], unknown: 0, looked: symbols.length }
}

/** Whether what a side looks at is looked up, and not named or held. */
export const isSought = ({ among }: Side): boolean => 'found' in among || 'index' in among

/** When a side was last looked up, and on which session date. */
export interface LookedUp {
  at: number
  date: string
  failed?: boolean
}

/** Whether what a side looks at has to be looked up anew: `traded` where something of the account has just been. */
export function isDue(
  { among }: Side,
  last: LookedUp,
  now: { at: number; date: string; traded: boolean },
): boolean {
  if ('list' in among || 'pairs' in among || 'any' in among) return false
  const since = now.at - last.at
  if (last.failed && since >= 60_000) return true
  if ('positions' in among) return now.traded
  const { again, asOf } = 'index' in among ? { again: 'Session' as const, asOf: undefined } : among.found
  // What stood at the end of a past day stands.
  if (asOf !== undefined) return false
  return again === 'Session' ? now.date !== last.date : since >= again.minutes * 60_000
}

/** Members of an index that one side looks at, at most. */
const MOST = 500

/** What can be ordered of an index, by symbol. Throws Unavailable where the broker knows of none. */
function membersOf(index: string, listed: Shared['listed']): FoundNow {
  const all = placesOf({ in: { index } }, listed).sort()
  if (all.length === 0)
    throw new Unavailable(`The broker lists no members of ${index}. Name another index in Among.`)
  return { symbols: all.slice(0, MOST), left: all.slice(MOST), unknown: 0, looked: all.length }
}

function heldNow(
  positions: Extract<Side['among'], { positions: unknown }>['positions'],
  shared: Shared,
  planId: string,
  reports: readonly ExecutionReport[],
): string[] {
  const all = heldBy(shared).filter((symbol) => !isOption(symbol))
  if (positions === 'Account') return all
  const own = heldByPlan(positions === 'Plan' ? planId : positions.plan, reports, shared)
  return all.filter((symbol) => own.includes(symbol))
}

/** What an account holds of what the broker quotes. */
export const heldBy = ({ book, listed }: Shared): string[] =>
  Object.values(book.holdings)
    .filter(({ symbol, quantity }) => quantity !== 0 && listed[symbol])
    .map(({ symbol }) => symbol)
