import { type SeriesName } from '../market/bars'
import { type Timeframe } from '../market/timeframe'
import { type Node } from './tree'

/**
 * A column of the program: numbers or verdicts, on one of its timeframes. `series` borrows a column of the
 * bars; `constant` is the same on every row.
 */
export interface Register {
  frame: number
  holds: 'numbers' | 'verdicts'
  series?: SeriesName
  constant?: number
}

/** What a step of a program works on. */
export interface Columns {
  readonly numbers: Float64Array[]
  readonly verdicts: Uint8Array[]
  /** For each row of a frame, the row of a coarser one that it lies in. */
  rowsHolding(frame: number, coarse: number): Int32Array
  /** For each row of a frame, the last row of a coarser one that was complete by its end. */
  rowsCompleted(frame: number, coarse: number): Int32Array
}

/** A rule or measures compiled for bars of one timeframe. The same part, wherever written, is computed once. */
export interface Program {
  /** Timeframes in use; the first is that of the bars. */
  frames: readonly Timeframe[]
  registers: readonly Register[]
  steps: readonly ((columns: Columns) => void)[]
  /** Register of each compiled tree, in the order in which they were given. */
  results: readonly number[]
  /** Register of a part on the first timeframe, by its canonical text. */
  registerOf(node: Node): number | undefined
}
