import { type BarTable } from '@/core/market/barTable'
import { type Drawing } from '@/core/market/drawings'
import { type Report } from '@/core/market/figures'
import { type Part } from '@/core/rules'
import { type BreadthCounts } from '@/core/scan/breadth'
import { type HitCounts } from '@/core/scan/history'
import { type Pair } from '@/core/scan/pairs'
import { type ScanPart } from '@/core/scan/scan'

/** What is known of securities besides their bars, for the rules that ask for it. */
export interface About {
  /** Symbol of the index of each security's venue. */
  indexOf: Record<string, string>
  reports: Record<string, readonly Report[]>
  drawings: Record<string, readonly Drawing[]>
}

/** Which bars a job runs on: a table by name, and another that holds longer bars of the same securities. */
export interface On {
  data: string
  beside?: string
  /** Moment at which bars that still grow were taken: shared memory is written in place. */
  takenAt?: number
}

/** A piece of work on some rows of a table. */
export type Job =
  | ({ ask: 'scan'; rule: string; measures: string[]; by?: string } & On)
  | ({ ask: 'breadth'; by?: string } & On)
  | ({ ask: 'hits'; rule: string; ahead: number[]; by?: string } & On)
  | ({ ask: 'pairs'; length: number; among: number[]; least: number; by?: string } & On)

export type JobPart<J extends Job = Job> = J extends { ask: 'scan' }
  ? ScanPart
  : J extends { ask: 'breadth' }
    ? BreadthCounts
    : J extends { ask: 'hits' }
      ? HitCounts
      : Pair[]

/** What the page asks of a scan worker. Requests are numbered; tables are shared memory where the page may. */
export type ScanRequest =
  | { id: number; ask: 'take'; data: string; table: BarTable }
  | { id: number; ask: 'forget'; data: string }
  | { id: number; ask: 'about'; about: About }
  | { id: number; ask: 'work'; job: Job; rows: number[] }
  | ({ id: number; ask: 'explain'; rule: string; symbol: string; by?: string } & On)

export type ScanAnswer =
  { id: number; ok: true; value: JobPart | Part | undefined } | { id: number; ok: false; problem: string }
