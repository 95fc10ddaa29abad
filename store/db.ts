import Dexie, { type EntityTable } from 'dexie'
import { type Bars } from '@/core/market/bars'
import { Voter } from '@/core/scan/ballot'
import { type Seen } from '@/core/plans/seen'
import { type Plan } from '@/core/plans/document'
import {
  type Ballot,
  type BarChunk,
  type LookLayout,
  type OwnData,
  type OwnReports,
  type SavedScan,
  type ScanRun,
  type ScanVersion,
  type Setting,
  type SymbolList,
} from './shapes'

export type * from './shapes'

export interface OwnBars {
  dataId: string
  symbol: string
  bars: Bars
}

/** A key of the trader's; the secret only where it was asked for, locked with a passphrase. */
export interface KeptKey {
  keyId: string
  name: string
  locked?: { salt: Uint8Array; iv: Uint8Array; cipher: Uint8Array }
}

/** A plan as it is being written; what was armed of it stands among its versions. */
export interface KeptPlan {
  id: string
  plan: Plan
  changedAt: number
}

/** A plan as it was armed, or watched, once: never changed. */
export interface PlanVersion {
  id: string
  version: number
  plan: Plan
  madeAt: number
}

/** Something that a plan has seen, in its book. */
export type SeenRow = Seen & {
  plan: string
  key: string
  /** Id of the world that it was seen in; left out by an earlier build. */
  world?: string
}

/** Everything that lives in the browser. A new version adds a `version(n)`; none is ever changed. */
export class HeronDb extends Dexie {
  scans!: EntityTable<SavedScan, 'id'>
  scanVersions!: Dexie.Table<ScanVersion, [string, number]>
  runs!: EntityTable<ScanRun, 'id'>
  ownData!: EntityTable<OwnData, 'id'>
  ownBars!: Dexie.Table<OwnBars, [string, string]>
  keys!: EntityTable<KeptKey, 'keyId'>
  settings!: EntityTable<Setting, 'name'>
  barChunks!: EntityTable<BarChunk, 'id'>
  lists!: EntityTable<SymbolList, 'id'>
  layouts!: EntityTable<LookLayout, 'symbol'>
  ballots!: EntityTable<Ballot, 'id'>
  ownReports!: EntityTable<OwnReports, 'symbol'>
  plans!: EntityTable<KeptPlan, 'id'>
  planVersions!: Dexie.Table<PlanVersion, [string, number]>
  seen!: Dexie.Table<SeenRow, [string, string]>

  constructor() {
    super('fleet-heron')
    this.version(1).stores({
      scans: 'id, name, savedAt',
      runs: 'id, scanId, ranAt',
      ownData: 'id, name',
      ownBars: '[dataId+symbol], dataId',
      keys: 'keyId',
      settings: 'name',
    })
    this.version(2).stores({
      barChunks: 'id, frame',
      lists: 'id, name',
      layouts: 'symbol',
      ballots: 'id, name',
      ownReports: 'symbol',
    })
    // Voices are for and against where they said buy and sell.
    this.version(3)
      .stores({})
      .upgrade((tx) =>
        tx
          .table('ballots')
          .toCollection()
          .modify((ballot: { voters: unknown[] }) => {
            ballot.voters = ballot.voters.map((voter) => Voter.safeParse(voter).data ?? voter)
          }),
      )
    // A saved scan has versions, which what refers to it names; those that were saved before are their first.
    this.version(4)
      .stores({ scanVersions: '[id+version], id' })
      .upgrade(async (tx) => {
        const scans = await tx.table<SavedScan>('scans').toArray()
        for (const scan of scans) scan.version ??= 1
        await tx.table('scans').bulkPut(scans)
        await tx.table('scanVersions').bulkPut(scans.map(versionOf))
        await tx
          .table('runs')
          .toCollection()
          .modify((run: { scanVersion?: number }) => {
            run.scanVersion ??= 1
          })
      })
    this.version(5).stores({ plans: 'id', planVersions: '[id+version], id' })
    this.version(6).stores({ seen: '[plan+key], plan' })
  }
}

/** What a scan asks, as its own version. */
export const versionOf = (scan: SavedScan): ScanVersion => ({
  id: scan.id,
  version: scan.version,
  ...{ rule: scan.rule, measures: scan.measures, universe: scan.universe, frame: scan.frame },
  savedAt: scan.savedAt,
  ...(scan.order ? { order: scan.order } : {}),
})

export const db = new HeronDb()

/** In words what went wrong with the browser's storage, and what mends it. */
export function sayStorageError(error: unknown): string {
  const name =
    (error as { name?: string; inner?: { name?: string } })?.inner?.name ?? (error as { name?: string })?.name
  if (name === 'QuotaExceededError') {
    return 'The browser has no room left for this site. Nothing was changed. Free disk space, or remove imported data that you no longer need, then try again.'
  }
  if (name === 'VersionError') return 'Another tab runs a newer version. Reload this page.'
  return `The browser could not keep this: ${(error as Error)?.message ?? 'unknown reason'}. Nothing was changed.`
}
