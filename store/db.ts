import Dexie, { type EntityTable } from 'dexie'
import { type Bars } from '@/core/market/bars'

/** Which securities a scan looks through. */
export type Universe =
  | { is: 'everything' }
  | { is: 'kind'; kind: 'Stock' | 'Fund' }
  | { is: 'sector'; sector: string }
  | { is: 'own'; dataId: string }
  | { is: 'scan'; scanId: string }

/** Bars that a scan runs on. */
export type ScanFrame = '1 day' | '1 day so far' | '1 week' | '15 min'

export interface SavedScan {
  id: string
  name: string
  rule: string
  measures: string[]
  universe: Universe
  frame: ScanFrame
  savedAt: number
}

/** One run of a saved scan, kept with the moment that its data stood at. */
export interface ScanRun {
  id: string
  scanId: string
  name: string
  /** Wall clock, and the market's own time, where it was known. */
  ranAt: number
  marketTime?: number
  dataAsOf: number
  symbols: string[]
}

/** A set of the trader's own securities, imported from files. */
export interface OwnData {
  id: string
  name: string
  importedAt: number
  every: string
  symbols: string[]
}

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

export interface Setting {
  name: string
  value: unknown
}

/** Everything that lives in the browser. A new version adds a `version(n)`; none is ever changed. */
export class HeronDb extends Dexie {
  scans!: EntityTable<SavedScan, 'id'>
  runs!: EntityTable<ScanRun, 'id'>
  ownData!: EntityTable<OwnData, 'id'>
  ownBars!: Dexie.Table<OwnBars, [string, string]>
  keys!: EntityTable<KeptKey, 'keyId'>
  settings!: EntityTable<Setting, 'name'>

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
  }
}

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
