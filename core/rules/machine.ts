import { type Bars } from '../market/bars'
import { calendarOf, columnOf } from '../market/columns'
import { type Drawing, drawnColumn } from '../market/drawings'
import { figureColumn, type Report } from '../market/figures'
import { resample } from '../market/resample'
import { roughMinutes, type Timeframe, timeframeText } from '../market/timeframe'

import * as kernel from './kernels'
import { type Columns, type Program, type Register } from './program'

/** Where a program takes its bars from. */
export interface BarSource {
  base: Bars
  /** Bars of another timeframe; undefined where they cannot be had. */
  on(every: Timeframe): Bars | undefined
  /** The same of another security, or of the index of the venue ("index"); undefined where there is none. */
  beside?(symbol: string): BarSource | undefined
  /** What is known of the company, in the order in which it became known. */
  reports?: readonly Report[]
  /** Levels, lines and zones that were drawn on the security. */
  drawings?: readonly Drawing[]
}

/** What a source may hold besides bars. */
export type Besides = Pick<BarSource, 'beside' | 'reports' | 'drawings'>

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

/** Runs a program over one security after another, keeping its columns between runs. */
export class Machine implements Columns {
  numbers: Float64Array[] = []
  verdicts: Uint8Array[] = []
  private bars: (Bars | undefined)[] = []
  private readonly numberStore: Float64Array[] = []
  private readonly verdictStore: Uint8Array[] = []
  private readonly rows = new Map<string, Int32Array>()

  constructor(readonly program: Program) {}

  /** Computes every column for a security. Columns are valid until the next run. */
  run(source: BarSource): void {
    const { frames, registers, steps } = this.program
    this.rows.clear()
    const before = this.bars
    const sources = frames.map(({ beside }) => (beside === undefined ? source : source.beside?.(beside)))
    this.bars = frames.map(({ every }, i) => (i === 0 ? source.base : barsOn(sources[i], every)))
    // What stands beside one security often stands beside the next: it is computed once for a run of them.
    const same = frames.map(({ beside }, i) => beside !== undefined && this.bars[i] === before[i])
    for (const [i, register] of registers.entries()) {
      if (same[register.frame]) continue
      const bars = this.bars[register.frame]
      const n = bars?.time.length ?? 0
      if (register.series) this.numbers[i] = bars ? columnOf(bars, register.series) : new Float64Array(0)
      else if (register.holds === 'verdicts') this.verdicts[i] = this.roomForVerdicts(i, n)
      else {
        this.numbers[i] = this.roomForNumbers(i, n, register.constant)
        if (bars) this.fill(register, bars, sources[register.frame]!, this.numbers[i])
      }
    }
    for (const step of steps) if (!same[step.frame]) step.run(this)
  }

  private fill(register: Register, bars: Bars, source: BarSource, out: Float64Array): void {
    if (register.figure) {
      const { session } = calendarOf(bars)
      figureColumn(register.figure, source.reports ?? [], { ...bars, session }, out)
    } else if (register.drawn) {
      const { name, kind, output } = register.drawn
      const drawing = source.drawings?.find((d) => d.name === name && d.kind === kind)
      if (drawing) drawnColumn(drawing, bars.time, output, out)
      else out.fill(NaN)
    }
  }

  private roomForNumbers(i: number, n: number, constant: number | undefined): Float64Array {
    const kept = this.numberStore[i]
    if (kept && kept.length >= n) return kept.length === n ? kept : kept.subarray(0, n)
    const made = new Float64Array(n)
    if (constant !== undefined) made.fill(constant)
    this.numberStore[i] = made
    return made
  }

  private roomForVerdicts(i: number, n: number): Uint8Array {
    const kept = this.verdictStore[i]
    if (kept && kept.length >= n) return kept.length === n ? kept : kept.subarray(0, n)
    return (this.verdictStore[i] = new Uint8Array(n))
  }

  rowsHolding(frame: number, coarse: number): Int32Array {
    return this.rowMap(`holding ${frame} ${coarse}`, frame, coarse, (fine, rough, out) =>
      kernel.rowHolding(fine.time, rough.time, out),
    )
  }

  rowsCompleted(frame: number, coarse: number): Int32Array {
    const { frames } = this.program
    const together = timeframeText(frames[frame].every) === timeframeText(frames[coarse].every)
    return this.rowMap(`completed ${frame} ${coarse}`, frame, coarse, (fine, rough, out) =>
      kernel.rowCompleted(fine.end, rough.end, together, out),
    )
  }

  private rowMap(
    key: string,
    frame: number,
    coarse: number,
    fill: (fine: Bars, rough: Bars, out: Int32Array) => void,
  ): Int32Array {
    let rows = this.rows.get(key)
    if (!rows) {
      const fine = this.bars[frame]
      const rough = this.bars[coarse]
      rows = new Int32Array(fine?.time.length ?? 0).fill(-1)
      if (fine && rough) fill(fine, rough, rows)
      this.rows.set(key, rows)
    }
    return rows
  }
}

const barsOn = (source: BarSource | undefined, every: Timeframe): Bars | undefined =>
  source && (timeframeText(source.base.every) === timeframeText(every) ? source.base : source.on(every))
