import { useLiveQuery } from 'dexie-react-hooks'
import { type BegunRow, begunRows } from './begun'
import { useRuns } from './useRuns'

const NONE: BegunRow[] = []

/** Plans that run in other tabs of this browser. */
export function useInOtherTabs(): BegunRow[] {
  const rows = useLiveQuery(begunRows) ?? NONE
  const runs = useRuns((s) => s.runs)
  const waiting = useRuns((s) => s.waiting)
  return rows.filter(({ plan }) => !runs[plan.id] && !waiting.some(({ row }) => row.plan.id === plan.id))
}
