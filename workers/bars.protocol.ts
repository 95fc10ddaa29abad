import { type readFiles, type ReadFile } from '@/core/formats/barFiles'
import { type ColumnMap } from '@/core/formats/barsCsv'

/** What the page asks of the worker that reads bars from files. Requests are numbered. */
export type BarsRequest =
  | { id: number; ask: 'open'; files: (File | ReadFile)[]; rowLimit: number }
  | { id: number; ask: 'read'; map: ColumnMap; zone: string }

/** Files that were opened: the columns of the first, a guess at what they are, and why others were left. */
export interface Opened {
  names: string[]
  columns: string[]
  map: ColumnMap
  failed: string[]
}

export type ReadBarFiles = ReturnType<typeof readFiles>

export type BarsAnswer =
  { id: number; ok: true; value: Opened | ReadBarFiles } | { id: number; ok: false; problem: string }
