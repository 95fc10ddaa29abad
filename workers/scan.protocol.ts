import { type BarTable } from '@/core/market/barTable'
import { type Drawing } from '@/core/market/drawings'
import { type Report } from '@/core/market/figures'
import { type Holding } from '@/core/market/holdings'
import { type IncrementBand } from '@/core/market/increment'
import { type Node, type Part } from '@/core/rules'
import { type BreadthCounts } from '@/core/scan/breadth'
import { type HitCounts } from '@/core/scan/history'
import { type Pair } from '@/core/scan/pairs'
import { type ScanPart } from '@/core/scan/scan'
import { type Answer } from './requests'

/** What is listed of a security, as far as rules ask for it. */
export interface Listing {
  /** Symbol of the index of its venue. */
  index: string
  currency: string
  increments: readonly IncrementBand[]
}

/** What is known of securities besides their bars, for the rules that ask for it. */
export interface About {
  listed: Record<string, Listing>
  reports: Record<string, readonly Report[]>
  drawings: Record<string, readonly Drawing[]>
  /** What the account held of each; left out where no rule asks, so that nothing is known of it. */
  holdings?: Record<string, readonly Holding[]>
}

/** Which bars a job runs on: a set by name, and others that hold further bars of the same securities. */
export interface On {
  data: string
  others?: readonly string[]
  /** Moment at which bars that still grow were taken. */
  takenAt?: number
}

/** A piece of work on some rows of a set. Rules travel as the trees that they were read to. */
export type Job =
  | ({ ask: 'scan'; rule: Node; measures: readonly Node[]; by?: string } & On)
  | ({ ask: 'breadth'; by?: string } & On)
  | ({ ask: 'hits'; rule: Node; ahead: readonly number[]; by?: string } & On)
  | ({ ask: 'pairs'; length: number; among: readonly number[]; least: number; by?: string } & On)

export type JobPart<J extends Job = Job> = J extends { ask: 'scan' }
  ? ScanPart
  : J extends { ask: 'breadth' }
    ? BreadthCounts
    : J extends { ask: 'hits' }
      ? HitCounts
      : Pair[]

/** What the page asks of a scan worker. Requests are numbered; tables are shared memory where the page may. */
export type ScanRequest =
  /** Puts tables under a name, behind what is there already. */
  | { id: number; ask: 'take'; data: string; tables: readonly BarTable[] }
  | { id: number; ask: 'forget'; data: string }
  | { id: number; ask: 'about'; about: About }
  /** A job is made ready once, does its pieces, and is ended. */
  /** Answered once the worker has loaded. */
  | { id: number; ask: 'ready' }
  | { id: number; ask: 'begin'; job: number; what: Job }
  | { id: number; ask: 'piece'; job: number; rows: readonly number[] }
  | { id: number; ask: 'end'; job: number }
  | ({ id: number; ask: 'explain'; rule: Node; symbol: string; by?: string } & On)

export type ScanAnswer = Answer<JobPart | Part | undefined>
