import { type Bars } from '../../market/bars'
import { columnOf } from '../../market/columns'
import { resample } from '../../market/resample'
import { roughMinutes, type Timeframe, timeframeText } from '../../market/timeframe'
import { OWN } from '../units'
import { UNKNOWN } from '../verdict'
import { type Column } from './form'
import { type Graph, type Operation } from './graph'
import { type About } from './source'
import { type Asked, kindOf } from './sources'

/** Where a graph takes its bars from, and what else is known of the security. */
export interface BarSource extends About {
  base: Bars
  /** Bars of another timeframe; undefined where they cannot be had. */
  on(every: Timeframe): Bars | undefined
  /** The same of another security, or of the index of the venue ("index"); undefined where there is none. */
  beside?(symbol: string): BarSource | undefined
}

/** What a source may hold besides bars. */
export type Besides = About & Pick<BarSource, 'beside'>

/** The bars of one security, coarser timeframes made from the finest that is not coarser than asked. */
export function barSource(base: Bars, others: readonly Bars[] = [], besides: Besides = {}): BarSource {
  const made = new Map<string, Bars | undefined>()
  return {
    ...besides,
    base,
    on(every) {
      const text = timeframeText(every)
      if (!made.has(text)) made.set(text, find(every, text))
      return made.get(text)
    },
  }

  function find(every: Timeframe, text: string): Bars | undefined {
    const ready = others.find((bars) => timeframeText(bars.every) === text)
    if (ready) return ready
    const finer = [base, ...others]
      .filter((bars) => roughMinutes(bars.every) <= roughMinutes(every))
      .sort((a, b) => roughMinutes(b.every) - roughMinutes(a.every))
    return finer.length > 0 ? resample(finer[0], every).bars : undefined
  }
}

/** Tells the currency behind a key of units: of the security itself, of a named one, or an ISO code. */
export const currencyIn =
  (own: string | undefined, ofSymbol: (symbol: string) => string | undefined) =>
  (key: string): string | undefined =>
    key === OWN ? own : key.startsWith('"') ? ofSymbol(key.slice(1, -1)) : key

/** Runs a graph over the columns of one security after another, keeping its own columns between runs. */
export class ColumnMachine {
  /** Columns of the values of the graph: of numbers, and of verdicts. Valid until the next run. */
  readonly numbers: Float64Array[] = []
  readonly verdicts: Uint8Array[] = []
  private readonly columns: Column[] = []
  private bars: (Bars | undefined)[] = []
  private readonly numberStore: Float64Array[] = []
  private readonly verdictStore: Uint8Array[] = []
  private readonly rows = new Map<string, Int32Array>()
  private readonly steps: (() => void)[]
  private readonly frameOf: number[]
  private asked: (Asked | undefined)[] = []

  constructor(readonly graph: Graph) {
    this.frameOf = graph.operations.map((operation) => graph.values[outOf(operation)].frame)
    this.steps = graph.operations.map((operation) => this.stepOf(operation))
  }

  /** Computes every column for a security. */
  run(source: BarSource): void {
    const { frames } = this.graph
    this.rows.clear()
    const before = this.bars
    const sources = frames.map(({ beside }) => (beside === undefined ? source : source.beside?.(beside)))
    this.bars = frames.map(({ every }, i) => (i === 0 ? source.base : barsOn(sources[i], every)))
    const currencyOf = currencyIn(source.currency, (symbol) => source.beside?.(symbol)?.currency)
    this.asked = sources.map((of) => of && { ...of, currencyOf })
    // What stands beside one security often stands beside the next: it is computed once for a run of them.
    const same = frames.map(({ beside }, i) => beside !== undefined && this.bars[i] === before[i])
    const { steps, frameOf } = this
    for (let i = 0; i < steps.length; i++) if (!same[frameOf[i]]) steps[i]()
  }

  private stepOf(operation: Operation): () => void {
    const { values } = this.graph
    switch (operation.kind) {
      case 'constant':
        return () => void this.room(operation.out, operation.value)
      case 'source':
        return this.sourceStep(operation)
      case 'across': {
        const { out, of, way, count } = operation
        const [here, there] = [values[out].frame, values[of].frame]
        const map = way === 'before' ? this.rowsHolding : this.rowsCompleted
        return () => {
          const to = this.room(out)
          gather(this.columns[of], map.call(this, here, there), count, to, this.unknownOf(out))
        }
      }
      case 'form': {
        const { form } = operation
        const ins = new Array<Column>(operation.ins.length)
        const outs = new Array<Column>(operation.outs.length)
        return () => {
          for (let k = 0; k < ins.length; k++) ins[k] = this.columns[operation.ins[k]]
          for (let k = 0; k < outs.length; k++) outs[k] = this.room(operation.outs[k])
          form.column(ins, outs)
        }
      }
    }
  }

  private sourceStep({ out, source }: Extract<Operation, { kind: 'source' }>): () => void {
    const { frame } = this.graph.values[out]
    const kind = kindOf(source)
    return () => {
      const bars = this.bars[frame]
      // A column of the bars is borrowed as it is.
      if (source.of === 'bars' && bars) this.put(out, columnOf(bars, source.column))
      else {
        const to = this.room(out) as Float64Array
        const asked = this.asked[frame]
        if (bars && asked) kind.column(source, bars, asked, to)
      }
    }
  }

  private unknownOf(value: number): number {
    return this.graph.values[value].holds === 'verdicts' ? UNKNOWN : NaN
  }

  private put(value: number, column: Column): void {
    this.columns[value] = column
    if (column instanceof Float64Array) this.numbers[value] = column
    else this.verdicts[value] = column
  }

  /** The column of a value, as long as the bars of its frame. */
  private room(value: number, constant?: number): Column {
    const { frame, holds } = this.graph.values[value]
    const n = this.bars[frame]?.time.length ?? 0
    const store: Column[] = holds === 'verdicts' ? this.verdictStore : this.numberStore
    let kept = store[value]
    if (!kept || kept.length < n) {
      kept = store[value] = holds === 'verdicts' ? new Uint8Array(n) : new Float64Array(n)
      if (constant !== undefined) kept.fill(constant)
    }
    const column = kept.length === n ? kept : kept.subarray(0, n)
    this.put(value, column)
    return column
  }

  /** For each row of a frame, the row of a coarser one that it lies in. */
  private rowsHolding(frame: number, coarse: number): Int32Array {
    return this.rowMap(`holding ${frame} ${coarse}`, frame, coarse, (fine, rough, out) =>
      rowHolding(fine.time, rough.time, out),
    )
  }

  /** For each row of a frame, the last row of another one that was complete by its end. */
  private rowsCompleted(frame: number, other: number): Int32Array {
    const { frames } = this.graph
    const together = timeframeText(frames[frame].every) === timeframeText(frames[other].every)
    return this.rowMap(`completed ${frame} ${other}`, frame, other, (here, there, out) =>
      rowCompleted(here.end, there.end, together, out),
    )
  }

  private rowMap(
    key: string,
    frame: number,
    other: number,
    fill: (here: Bars, there: Bars, out: Int32Array) => void,
  ): Int32Array {
    let rows = this.rows.get(key)
    if (!rows) {
      const [here, there] = [this.bars[frame], this.bars[other]]
      rows = new Int32Array(here?.time.length ?? 0).fill(-1)
      if (here && there) fill(here, there, rows)
      this.rows.set(key, rows)
    }
    return rows
  }
}

const outOf = (operation: Operation): number =>
  operation.kind === 'form' ? operation.outs[0] : operation.out

const barsOn = (source: BarSource | undefined, every: Timeframe): Bars | undefined =>
  source && (timeframeText(source.base.every) === timeframeText(every) ? source.base : source.on(every))

/** out[i] = a[rows[i] - back]; unknown where that row does not exist. */
function gather(a: Column, rows: Int32Array, back: number, out: Column, unknown: number): void {
  for (let i = 0; i < out.length; i++) {
    const row = rows[i] - back
    out[i] = row >= 0 ? a[row] : unknown
  }
}

/** For each row, the last coarse row that began by its start: the one that it lies in. */
export function rowHolding(time: Float64Array, coarseTime: Float64Array, out: Int32Array): void {
  let row = -1
  for (let i = 0; i < time.length; i++) {
    while (row + 1 < coarseTime.length && coarseTime[row + 1] <= time[i]) row++
    out[i] = row
  }
}

/**
 * For each row, the last row of another frame that was complete by its end. One that still grows is complete for none,
 * but where `together` is set it grows together with a row that does.
 */
export function rowCompleted(
  end: Float64Array,
  otherEnd: Float64Array,
  together: boolean,
  out: Int32Array,
): void {
  const n = otherEnd.length - (!together && otherEnd[otherEnd.length - 1] === Infinity ? 1 : 0)
  let row = -1
  for (let i = 0; i < end.length; i++) {
    while (row + 1 < n && otherEnd[row + 1] <= end[i]) row++
    out[i] = row
  }
}
