import { type ColumnName } from '../market/columns'
import { type FigureName } from '../market/figures'
import { type Timeframe } from '../market/timeframe'
import { type Node } from './tree'

/**
 * A column of the program: numbers or verdicts, on one of its frames. `series` borrows a column of the bars,
 * `figure` one of the company, `drawn` a drawing; `constant` is the same on every row.
 */
export interface Register {
  frame: number
  holds: 'numbers' | 'verdicts'
  series?: ColumnName
  figure?: FigureName
  drawn?: { kind: 'level' | 'line' | 'zone'; name: string; output?: string }
  constant?: number
}

/** Bars of one timeframe, of the security itself or of another one beside it. */
export interface Frame {
  every: Timeframe
  beside?: string
}

/** One computation; `frame` is that of the column it fills. */
export interface Step {
  frame: number
  run(columns: Columns): void
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
  /** Frames in use; the first is that of the bars. */
  frames: readonly Frame[]
  registers: readonly Register[]
  steps: readonly Step[]
  /** Register of each compiled tree, in the order in which they were given. */
  results: readonly number[]
  /** Register of a part on the first timeframe, by its canonical text. */
  registerOf(node: Node): number | undefined
}
