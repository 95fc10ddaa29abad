import { type Broker } from '@/client'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { type Listed } from '@/core/engine/listed'
import { heldByPlan } from '@/core/engine/heldByPlan'
import { type Shared } from '@/core/engine/shared'
import { type ExecutionReport } from '@/core/orders/model'
import { isOption } from '@/core/options/osi'
import { type Side } from '@/core/plans/document'
import { type Found, findNow, type FoundNow } from '@/core/plans/found'

/** Bars that a search looks back on. */
const BARS = 400

/**
 * The securities of a side of a plan now: those that it names, that are held, or that its search finds. `reports` are those of
 * the account so far, by which it is known what a plan holds.
 */
export async function universeOf(
  broker: Broker,
  { among }: Pick<Side, 'among'>,
  shared: Shared,
  planId: string,
  reports: readonly ExecutionReport[],
): Promise<FoundNow> {
  if ('found' in among) return find(broker, among.found, shared.listed)
  const symbols =
    'list' in among
      ? [...among.list]
      : 'pairs' in among
        ? among.pairs.map(([first]) => first)
        : heldNow(among.positions, shared, planId, reports)
  return { symbols, left: [], unknown: 0, looked: symbols.length }
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

async function find(
  broker: Broker,
  found: Found,
  listed: Readonly<Record<string, Listed>>,
): Promise<FoundNow> {
  const symbols = placesOf(found, listed)
  if (symbols.length === 0) return { symbols: [], left: [], unknown: 0, looked: 0 }
  const all = found.in === 'All'
  const set = openTable(
    decodeBars(await broker.bars(found.every, { limit: BARS, ...(all ? {} : { symbols }) })),
  )
  const now = findNow(found, set)
  // An index and what cannot be ordered is found as well, and is no candidate.
  const orderable = (symbol: string) => listed[symbol]?.security.orderable === true
  return { ...now, symbols: now.symbols.filter(orderable), left: now.left.filter(orderable) }
}

/** Where a search looks, by symbol. */
function placesOf({ in: where }: Found, listed: Readonly<Record<string, Listed>>): string[] {
  if (where !== 'All' && 'list' in where) return where.list.filter((symbol) => listed[symbol])
  return Object.values(listed)
    .filter(({ security }) => security.orderable && !security.option)
    .filter(({ security }) => where === 'All' || security.indices.includes(where.index))
    .map(({ security }) => security.symbol)
}
