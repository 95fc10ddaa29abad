import { useLiveQuery } from 'dexie-react-hooks'
import { useMemo } from 'react'
import { db, type OwnData, type SavedScan, type ScanRun, type SymbolList, type Universe } from '@/store/db'
import { useSecurities } from '../link/LinkProvider'
import { membersOf } from '../market/universe'

/** What a universe may be made of besides those listed. */
interface Known {
  own: readonly OwnData[]
  scans: readonly SavedScan[]
  lists: readonly SymbolList[]
}

const COUNTRY = new Intl.DisplayNames('en', { type: 'region' })
export const countryName = (code: string): string =>
  /^[A-Z]{2}$/.test(code) ? (COUNTRY.of(code) ?? code) : code

const VENUE_NAME: Record<string, string> = { XBKW: 'Brackwater', XSKR: 'Skerry' }
export const venueName = (mic: string): string => VENUE_NAME[mic] ?? mic

const JOINED = { or: 'or', and: 'and also', without: 'without' } as const

/** A universe in words. */
export function universeText(universe: Universe, known: Known): string {
  const { own, scans, lists } = known
  switch (universe.is) {
    case 'everything':
      return 'everything listed'
    case 'venue':
      return `everything on ${venueName(universe.mic)}`
    case 'kind':
      return universe.kind === 'Stock' ? 'all stocks' : 'all funds'
    case 'sector':
      return `the sector ${universe.sector}`
    case 'country':
      return `companies of ${countryName(universe.country)}`
    case 'index':
      return `the members of ${universe.index}`
    case 'own':
      return `my own data, ${own.find((d) => d.id === universe.dataId)?.name ?? 'removed'}`
    case 'scan':
      return `the last result of ${scans.find((s) => s.id === universe.scanId)?.name ?? 'a removed scan'}`
    case 'list':
      return `the list ${lists.find((l) => l.id === universe.listId)?.name ?? 'that was removed'}`
    case 'joined':
      return universe.parts.map((part) => universeText(part, known)).join(` ${JOINED[universe.how]} `)
  }
}

/** The symbols of the latest run of each saved scan. */
async function lastRuns(): Promise<Map<string, string[]>> {
  const runs: ScanRun[] = await db.runs.orderBy('ranAt').toArray()
  return new Map(runs.map((run) => [run.scanId, run.symbols]))
}

const NONE: never[] = []

/** Everything that can be chosen as a universe, and who is in the chosen one. */
export function useUniverse(universe: Universe) {
  const securities = useSecurities().data
  const ownRead = useLiveQuery(() => db.ownData.orderBy('name').toArray(), [])
  const scansRead = useLiveQuery(() => db.scans.orderBy('name').toArray(), [])
  const listsRead = useLiveQuery(() => db.lists.orderBy('name').toArray(), [])
  const runs = useLiveQuery(lastRuns, [])
  const own: OwnData[] = ownRead ?? NONE
  const scans: SavedScan[] = scansRead ?? NONE
  const lists: SymbolList[] = listsRead ?? NONE
  const listed = useMemo(() => (securities ?? []).filter((s) => s.kind !== 'Index'), [securities])
  const among = useMemo(
    () => membersOf(universe, listed, runs ?? new Map<string, string[]>(), lists),
    [universe, listed, runs, lists],
  )
  const sectors = [...new Set(listed.filter((s) => s.kind === 'Stock').map((s) => s.sector))].sort()
  const countries = [...new Set(listed.map((s) => s.country))].sort()
  const indices = [...new Set(listed.flatMap((s) => s.indices))].sort()
  const venues = [...new Set(listed.map((s) => s.venue))].sort()
  /** Members are known: the market has answered, and so has the browser's storage. */
  const stored = ownRead !== undefined && listsRead !== undefined && runs !== undefined
  const ready = stored && (universe.is === 'own' || securities !== undefined)
  const text = universeText(universe, { own, scans, lists })
  return { securities, listed, own, scans, lists, sectors, countries, indices, venues, among, ready, text }
}
