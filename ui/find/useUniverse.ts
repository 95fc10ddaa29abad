import { useLiveQuery } from 'dexie-react-hooks'
import { db, type OwnData, type SavedScan, type ScanRun, type Universe } from '@/store/db'
import { useSecurities } from '../link/LinkProvider'

/** A universe in words. */
export function universeText(
  universe: Universe,
  own: readonly OwnData[],
  scans: readonly SavedScan[],
): string {
  switch (universe.is) {
    case 'everything':
      return 'everything on Brackwater'
    case 'kind':
      return universe.kind === 'Stock' ? 'all stocks on Brackwater' : 'all funds on Brackwater'
    case 'sector':
      return `the sector ${universe.sector}`
    case 'own':
      return `my own data, ${own.find((d) => d.id === universe.dataId)?.name ?? 'removed'}`
    case 'scan':
      return `the last result of ${scans.find((s) => s.id === universe.scanId)?.name ?? 'a removed scan'}`
  }
}

/** The latest run of a saved scan. */
const lastRun = async (scanId: string): Promise<ScanRun | undefined> =>
  (await db.runs.where('scanId').equals(scanId).sortBy('ranAt')).at(-1)

const NONE: OwnData[] = []

/** Everything that can be chosen as a universe, and who is in the chosen one. */
export function useUniverse(universe: Universe) {
  const securities = useSecurities().data
  const ownRead = useLiveQuery(() => db.ownData.orderBy('name').toArray(), [])
  const own = ownRead ?? NONE
  const scans = useLiveQuery(() => db.scans.orderBy('name').toArray(), [], [])
  const scanId = universe.is === 'scan' ? universe.scanId : ''
  const last = useLiveQuery(async () => ({ scanId, run: await lastRun(scanId) }), [scanId])
  // While another scan's run is being read, the one before is still in hand.
  const run = last?.scanId === scanId ? last.run : undefined
  const listed = (securities ?? []).filter((s) => s.kind !== 'Index')
  const among =
    universe.is === 'everything'
      ? listed.map((s) => s.symbol)
      : universe.is === 'kind'
        ? listed.filter((s) => s.kind === universe.kind).map((s) => s.symbol)
        : universe.is === 'sector'
          ? listed.filter((s) => s.sector === universe.sector).map((s) => s.symbol)
          : universe.is === 'scan'
            ? (run?.symbols ?? [])
            : undefined
  const sectors = [...new Set(listed.filter((s) => s.kind === 'Stock').map((s) => s.sector))].sort()
  /** Members are known: the market has answered, and so has the browser's storage. */
  const ready =
    universe.is === 'own' ? ownRead !== undefined : securities !== undefined && last?.scanId === scanId
  return { securities, own, scans, sectors, among, ready, text: universeText(universe, own, scans) }
}
