import { type ColumnName } from '../market/columns'

/** What a number measures; decides what may be added to and compared with what. */
export type Unit = 'number' | 'price' | 'percent' | 'ticks' | 'shares' | 'money' | 'clock'

/** A parameter of an indicator: a plain number, or a length of time that is held in minutes. */
export interface Parameter {
  name: string
  /** Used where the parameter is left out; without one the parameter is required. */
  preset?: number
  min: number
  max: number
  whole: boolean
  /** Written as a length of time: "25 min", "2 hours". */
  minutes?: true
}

/**
 * One output column; `unit` 'input' means the unit of the series that the indicator is taken of. A 'state' or a
 * 'moment' is a yes/no: 1 holds, 0 fails, NaN unknown.
 */
export interface Output {
  name: string
  unit: Unit | 'input' | 'state' | 'moment'
  /** Bounds within which it lies by its definition. */
  range?: readonly [number, number]
}

/**
 * An indicator. `input` 'series' takes any series first (close where left out), 'two series' takes two; a list
 * of names takes those columns of the bars. `column` fills whole output columns, unknown (NaN) where there are not enough bars.
 */
export interface Indicator {
  name: string
  input: 'series' | 'two series' | readonly ColumnName[]
  parameters: readonly Parameter[]
  outputs: readonly Output[]
  /** Rows of known input needed before the first known output. */
  warmUp(params: readonly number[]): number
  doc: string
  source: string
  column(ins: readonly Float64Array[], params: readonly number[], outs: readonly Float64Array[]): void
}

/** A whole number of bars, 1 to 5,000. */
export const length = (name: string, preset?: number): Parameter => ({
  name,
  preset,
  min: 1,
  max: 5000,
  whole: true,
})

/** The one output of most indicators. */
export const value = (unit: Output['unit'], range?: Output['range']): readonly Output[] => [
  { name: 'value', unit, ...(range ? { range } : {}) },
]
