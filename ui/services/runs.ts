import { type ScanResult } from '@/core/scan/scan'
import { db } from '@/store/db'
import { useLink } from '../link/useLink'

/** Keeps a run of a saved scan, with the version of it that was run and the moment its data stood at. */
export async function keepRun(
  scan: { id: string; name: string; version: number },
  result: ScanResult,
  frame: string,
): Promise<void> {
  const now = useLink.getState().clock?.now
  await db.runs.add({
    id: crypto.randomUUID(),
    scanId: scan.id,
    scanVersion: scan.version,
    name: scan.name,
    ranAt: Date.now(),
    marketTime: now ? Date.parse(now) : undefined,
    dataAsOf: result.asOf,
    zone: result.zone,
    frame,
    symbols: result.rows.map((row) => row.symbol),
  })
}
