import { type Bars } from '@/core/market/bars'
import { db, type OwnData } from './db'

/** Keeps imported bars as one set; all or nothing. A set of the same name is replaced. */
export async function keepOwnData(
  name: string,
  every: string,
  securities: readonly { symbol: string; bars: Bars }[],
): Promise<OwnData> {
  return db.transaction('rw', db.ownData, db.ownBars, async () => {
    const before = await db.ownData.where('name').equals(name).first()
    const data: OwnData = {
      id: before?.id ?? crypto.randomUUID(),
      name,
      importedAt: Date.now(),
      every,
      symbols: securities.map((s) => s.symbol),
    }
    await db.ownBars.where('dataId').equals(data.id).delete()
    await db.ownBars.bulkAdd(securities.map(({ symbol, bars }) => ({ dataId: data.id, symbol, bars })))
    await db.ownData.put(data)
    return data
  })
}

export async function removeOwnData(id: string): Promise<void> {
  await db.transaction('rw', db.ownData, db.ownBars, async () => {
    await db.ownBars.where('dataId').equals(id).delete()
    await db.ownData.delete(id)
  })
}

/** All bars of a set, in the order of the symbols. */
export async function ownBars(dataId: string): Promise<{ symbols: string[]; bars: Bars[] }> {
  const rows = await db.ownBars.where('dataId').equals(dataId).toArray()
  return { symbols: rows.map((r) => r.symbol), bars: rows.map((r) => r.bars) }
}
