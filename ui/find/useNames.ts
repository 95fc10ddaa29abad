import { useLiveQuery } from 'dexie-react-hooks'
import { useMemo } from 'react'
import { type Names } from '@/core/rules'
import { db } from '@/store/db'
import { useSecurities } from '../link/LinkProvider'

/** What a rule may name in quotes: listed securities, and whatever is drawn anywhere. */
export function useNames(): Names {
  const securities = useSecurities().data
  const drawn = useLiveQuery(
    async () => [...new Set((await db.layouts.toArray()).flatMap((l) => l.drawings.map((d) => d.name)))],
    [],
  )
  return useMemo(
    () => ({ symbols: securities && new Set(securities.map((s) => s.symbol)), drawn }),
    [securities, drawn],
  )
}
