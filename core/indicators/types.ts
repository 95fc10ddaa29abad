import { type SeriesName } from '../market/bars'

/** What a number measures; decides what may be added to and compared with what. */
export type Unit = 'number' | 'price' | 'percent' | 'ticks' | 'shares' | 'money'

/** A numeric parameter of an indicator: always a plain number. */
export interface Parameter {
  name: string
  /** Used where the parameter is left out; without one the parameter is required. */
  preset?: number
  min: number
  max: number
  whole: boolean
}

/** One output column; `unit` 'input' means the unit of the series that the indicator is taken of. */
export interface Output {
  name: string
  unit: Unit | 'input'
}

/**
 * An indicator. `input` 'series' takes any series first (close where left out); a list of names takes those
 * columns of the bars. `column` fills whole output columns, unknown (NaN) where there are not enough bars.
 */
export interface Indicator {
  name: string
  input: 'series' | readonly SeriesName[]
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
