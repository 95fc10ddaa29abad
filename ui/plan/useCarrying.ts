import { useLiveQuery } from 'dexie-react-hooks'
import { useMemo } from 'react'
import { type Bars } from '@/core/market/bars'
import { type Drawing } from '@/core/market/drawings'
import { readBeside, withBars } from '@/core/plans/carriedBars'
import { type Plan } from '@/core/plans/document'
import {
  asksOfCompanies,
  drawnNames,
  looksBeyond,
  namedBy,
  withDrawings,
  withFigures,
} from '@/core/plans/drawn'
import { bound } from '@/core/plans/inputs'
import { db } from '@/store/db'
import { useSecurities } from '../link/LinkProvider'

/**
 * A plan with what it asks for of what is drawn on charts here, and of company figures and bars that were brought, as they
 * stand now; what came with its file holds where there is nothing of it here.
 */
export function useCarrying(plan: Plan): Plan {
  return useBars(useFigures(useDrawings(plan)))
}

function useDrawings(plan: Plan): Plan {
  const asks = drawnNames(plan).length > 0
  const symbols = namedBy(plan).join(',')
  const beyond = looksBeyond(plan)
  const layouts = useLiveQuery(
    () => (!asks ? [] : beyond ? db.layouts.toArray() : db.layouts.bulkGet(symbols.split(','))),
    [asks, symbols, beyond],
  )
  return useMemo(() => {
    if (!asks || !layouts) return plan
    const all: Record<string, Drawing[]> = {}
    const here = new Map(layouts.flatMap((one) => (one ? [[one.symbol, one.drawings] as const] : [])))
    for (const symbol of new Set([...here.keys(), ...Object.keys(plan.drawings ?? {})])) {
      const own = here.get(symbol) ?? []
      const brought = (plan.drawings?.[symbol] ?? []).filter(
        (one) => !own.some(({ name }) => name === one.name),
      )
      all[symbol] = [...own, ...brought]
    }
    return withDrawings(plan, all)
  }, [plan, asks, layouts])
}

function useFigures(plan: Plan): Plan {
  const asks = asksOfCompanies(bound(plan))
  const own = useLiveQuery(() => (asks ? db.ownReports.toArray() : []), [asks])
  return useMemo(() => {
    if (!asks || !own) return plan
    return withFigures(plan, {
      ...plan.figures,
      ...Object.fromEntries(own.map(({ symbol, reports }) => [symbol, reports])),
    })
  }, [plan, asks, own])
}

function useBars(plan: Plan): Plan {
  const securities = useSecurities().data
  const names = useMemo(() => {
    const listed = new Set(securities?.map(({ symbol }) => symbol))
    const read = bound(plan).sides.flatMap((side) => [...readBeside(side).keys()])
    return [...new Set(read)].filter((name) => !listed.has(name))
  }, [plan, securities])
  const own = useLiveQuery(() => barsNamed(names), [names.join()])
  return useMemo(() => (own && securities ? withBars(plan, own) : plan), [plan, own, securities])
}

/** All bars of the trader's own of some names, of whatever set. */
async function barsNamed(names: readonly string[]): Promise<Map<string, Bars[]>> {
  const sets = names.length === 0 ? [] : await db.ownData.toArray()
  const keys = sets.flatMap(({ id, symbols }) =>
    names.filter((name) => symbols.includes(name)).map((name): [string, string] => [id, name]),
  )
  const out = new Map<string, Bars[]>()
  for (const row of await db.ownBars.bulkGet(keys))
    if (row) out.set(row.symbol, [...(out.get(row.symbol) ?? []), row.bars])
  return out
}
