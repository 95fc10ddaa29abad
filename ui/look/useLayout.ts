import { useLiveQuery } from 'dexie-react-hooks'
import { type Drawing } from '@/core/market/drawings'
import { db, type LookLayout, sayStorageError } from '@/store/db'
import { tellProblem } from '../shell/tell'

const empty = (symbol: string): LookLayout => ({ symbol, drawings: [], panels: [], frames: [], changedAt: 0 })

/** What is drawn on a security and how its chart is laid out; undefined while it is read. */
export function useLayout(symbol: string): LookLayout | undefined {
  return useLiveQuery(async () => (await db.layouts.get(symbol)) ?? empty(symbol), [symbol])
}

/** Changes the layout of a security; what two tabs do at the same time is done one after the other. */
export async function changeLayout(
  symbol: string,
  change: (layout: LookLayout) => Partial<LookLayout>,
): Promise<void> {
  try {
    await db.transaction('rw', db.layouts, async () => {
      const before = (await db.layouts.get(symbol)) ?? empty(symbol)
      await db.layouts.put({ ...before, ...change(before), symbol, changedAt: Date.now() })
    })
  } catch (error) {
    tellProblem(new Error(sayStorageError(error)))
  }
}

/** A name that no other drawing of the security has. */
export function freeName(kind: Drawing['kind'], drawings: readonly Drawing[]): string {
  for (let k = 1; ; k++) {
    const name = `${kind} ${k}`
    if (!drawings.some((d) => d.name === name)) return name
  }
}
