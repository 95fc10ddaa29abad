import { useLiveQuery } from 'dexie-react-hooks'
import { useMemo } from 'react'
import { type Drawing } from '@/core/market/drawings'
import { type Plan } from '@/core/plans/document'
import { drawnNames, namedBy, withDrawings } from '@/core/plans/drawn'
import { db } from '@/store/db'

/** A plan with what it asks for of what is drawn on charts here, as it stands now; what came with its file holds where nothing is drawn here. */
export function useCarrying(plan: Plan): Plan {
  const asks = drawnNames(plan).length > 0
  const symbols = namedBy(plan).join(',')
  const layouts = useLiveQuery(() => (asks ? db.layouts.bulkGet(symbols.split(',')) : []), [asks, symbols])
  return useMemo(() => {
    if (!asks || !layouts) return plan
    const all: Record<string, Drawing[]> = {}
    for (const symbol of symbols.split(',')) {
      const here = layouts.find((one) => one?.symbol === symbol)?.drawings ?? []
      const brought = (plan.drawings?.[symbol] ?? []).filter(
        (one) => !here.some(({ name }) => name === one.name),
      )
      all[symbol] = [...here, ...brought]
    }
    return withDrawings(plan, all)
  }, [plan, asks, symbols, layouts])
}
