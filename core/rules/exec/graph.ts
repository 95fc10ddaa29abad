import { type Timeframe } from '../../market/timeframe'
import { type Node } from '../tree'
import { type Form } from './form'
import { type Source } from './source'

/** Bars of one timeframe, of the security itself or of another one beside it. */
export interface Frame {
  every: Timeframe
  beside?: string
}

/** One value of a graph: numbers or verdicts, on one of its frames. */
export interface Value {
  frame: number
  holds: 'numbers' | 'verdicts'
}

/** What fills values; those that it needs stand before it. */
export type Operation =
  | { kind: 'constant'; out: number; value: number }
  | { kind: 'source'; out: number; source: Source }
  /** A value of another frame: at its last bar complete by then, or so many before the bar that this one lies in. */
  | { kind: 'across'; out: number; of: number; way: 'completed' | 'before'; count: number }
  | { kind: 'form'; outs: readonly number[]; ins: readonly number[]; form: Form }

/**
 * Rules and measures for bars of one timeframe as one graph of operations. The same part, wherever written, is there
 * once. Two executors run it: over columns (columns.ts) and step by step (steps.ts).
 */
export interface Graph {
  /** Frames in use; the first is that of the bars. */
  frames: readonly Frame[]
  values: readonly Value[]
  operations: readonly Operation[]
  /** Value of each compiled tree, in the order in which they were given. */
  results: readonly number[]
  /** Value of a part on the first frame, by its canonical text. */
  valueOf(node: Node): number | undefined
  /** Value of a source on the first frame. */
  valueOfSource(source: Source): number | undefined
  /** Told by frames and operations: what one graph kept may be put back only into the same. */
  fingerprint: string
}
