import { type FirstLine, type readFiles, type ReadFile } from '@/core/formats/barFiles'
import { type ColumnMap } from '@/core/formats/barColumns'
import { type Answer } from './requests'
import { type WorkerProblem } from './problems'

/** What the page asks of the worker that reads bars from files. Requests are numbered. */
export type BarsRequest =
  | { id: number; ask: 'open'; files: (File | ReadFile)[]; rowLimit: number }
  | { id: number; ask: 'read'; map: ColumnMap; zone: string }

/** Files that were opened: the columns of the first, a guess at what they are, and why others were left. */
export interface Opened {
  names: string[]
  columns: string[]
  map: ColumnMap
  /** False where the first file names no columns. */
  headed: boolean
  /** First lines of the first file, as they stand there. */
  first: FirstLine[]
  failed: { file: string; problem: WorkerProblem }[]
}

export type ReadBarFiles = ReturnType<typeof readFiles>

export type BarsAnswer = Answer<Opened | ReadBarFiles>
