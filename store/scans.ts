import { db, versionOf } from './db'
import { type SavedScan, type ScanVersion } from './shapes'

/** What a version of a scan is made of; name, tags and schedule belong to the scan itself. */
const MADE_OF = ['rule', 'measures', 'universe', 'frame', 'order'] as const
export type ScanText = Pick<SavedScan, (typeof MADE_OF)[number]>

const textOf = (scan: ScanText): string => JSON.stringify(MADE_OF.map((name) => scan[name] ?? null))

/**
 * Saves a scan under a name. One of that name gets a new version where what is asked differs; the old one stays
 * readable, and whatever refers to it by id and version means it still.
 */
export function saveScan(name: string, text: ScanText): Promise<SavedScan> {
  return db.transaction('rw', db.scans, db.scanVersions, async () => {
    const before = await db.scans.where('name').equals(name).first()
    const same = before !== undefined && textOf(before) === textOf(text)
    const scan: SavedScan = {
      ...before,
      id: before?.id ?? crypto.randomUUID(),
      name,
      ...text,
      version: before === undefined ? 1 : same ? before.version : before.version + 1,
      savedAt: same ? before.savedAt : Date.now(),
    }
    await db.scans.put(scan)
    await db.scanVersions.put(versionOf(scan))
    return scan
  })
}

/** A scan as it was in a version; undefined where there is none. */
export const scanAt = (id: string, version: number): Promise<ScanVersion | undefined> =>
  db.scanVersions.get([id, version])

/** All versions of a scan, newest first. */
export const versionsOf = async (id: string): Promise<ScanVersion[]> =>
  (await db.scanVersions.where('id').equals(id).toArray()).sort((a, b) => b.version - a.version)

/** Takes a scan away with its versions and runs; gives what brings all of it back. */
export function removeScan(id: string): Promise<() => Promise<void>> {
  const all = [db.scans, db.scanVersions, db.runs]
  return db.transaction('rw', all, async () => {
    const scan = await db.scans.get(id)
    const versions = await db.scanVersions.where('id').equals(id).toArray()
    const runs = await db.runs.where('scanId').equals(id).toArray()
    await db.scans.delete(id)
    await db.scanVersions.where('id').equals(id).delete()
    await db.runs.where('scanId').equals(id).delete()
    return () =>
      db.transaction('rw', all, async () => {
        if (scan) await db.scans.put(scan)
        await db.scanVersions.bulkPut(versions)
        await db.runs.bulkPut(runs)
      })
  })
}
