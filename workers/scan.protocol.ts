import { type BarSet } from '@/core/formats/barsBinary'
import { type Part } from '@/core/rules'
import { type Breadth } from '@/core/scan/breadth'
import { type ScanResult } from '@/core/scan/scan'

/** What the page asks of the scan worker. Requests are numbered. A scan is
 * canceled by ending the worker: a new one takes over with the same data. */
export type ScanRequest =
  /** Takes a data set; `buffer` in the FHB1 form, or columns of the trader's own. */
  | { id: number; ask: 'load'; data: string; buffer: ArrayBuffer }
  | { id: number; ask: 'loadOwn'; data: string; set: Pick<BarSet, 'symbols' | 'bars'> }
  | {
      id: number
      ask: 'scan'
      data: string
      beside?: string
      rule: string
      measures: string[]
      among?: string[]
    }
  | { id: number; ask: 'breadth'; data: string; among?: string[] }
  | { id: number; ask: 'explain'; data: string; beside?: string; rule: string; symbol: string }

export type Loaded = { securities: number; asOf: string }

export type ScanAnswer =
  | { id: number; ok: true; answer: 'loaded'; value: Loaded }
  | { id: number; ok: true; answer: 'scanned'; value: ScanResult }
  | { id: number; ok: true; answer: 'breadth'; value: Breadth }
  | { id: number; ok: true; answer: 'explained'; value: Part | undefined }
  | { id: number; ok: true; answer: 'progress'; done: number; of: number }
  | { id: number; ok: false; problem: string }
