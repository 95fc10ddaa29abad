import { db } from '@/store/db'

const NAME = 'looked at'
const KEPT = 12

export interface LookedAt {
  symbol: string
  dataId?: string
}

/** Remembers what was looked at last, newest first. */
export async function lookedAt(symbol: string, dataId?: string): Promise<void> {
  const before = ((await db.settings.get(NAME))?.value ?? []) as LookedAt[]
  const value = [
    { symbol, dataId },
    ...before.filter((l) => l.symbol !== symbol || l.dataId !== dataId),
  ].slice(0, KEPT)
  await db.settings.put({ name: NAME, value }).catch(() => undefined)
}

export const lookedAtBefore = async (): Promise<LookedAt[]> =>
  ((await db.settings.get(NAME))?.value ?? []) as LookedAt[]
