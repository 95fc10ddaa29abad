import { db } from './db'

/** Adds symbols to the list of a name, or makes it; what two tabs do at the same time is done one after the other. */
export function keepInList(
  name: string,
  symbols: readonly string[],
): Promise<{ all: number; fresh: number; isNew: boolean }> {
  return db.transaction('rw', db.lists, async () => {
    const same = await db.lists.where('name').equals(name).first()
    const all = [...new Set([...(same?.symbols ?? []), ...symbols])]
    const id = same?.id ?? crypto.randomUUID()
    await db.lists.put({ id, name, symbols: all, changedAt: Date.now() })
    return { all: all.length, fresh: all.length - (same?.symbols.length ?? 0), isNew: !same }
  })
}
