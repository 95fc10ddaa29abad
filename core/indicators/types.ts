import { type ColumnName } from '../market/columns'
import { type Slots } from './slots'

/** What a number measures, by name; the checker works with the dimensions behind it (see rules/units). */
export type Unit = 'number' | 'price' | 'percent' | 'ticks' | 'shares' | 'contracts' | 'money' | 'clock'

/** A parameter of an indicator: a plain number, or a length of time that is held in minutes. */
export interface Parameter {
  name: string
  /** Used where the parameter is left out; without one the parameter is required. */
  preset?: number
  min: number
  max: number
  whole: boolean
  /** Written as a length of time, "25 min", or as a time of day, "10:15", which is held as minutes below nought. */
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

export type Goes = 'price' | 'about nought' | 'between bounds' | 'neither way' | 'inside'

/** What a value becomes on the other side of the market (see rules/otherSide). */
export interface Opposite {
  /**
   * How it goes with the direction of the price: as a price where it is one ('price'), about nought, between bounds,
   * not at all, or as what it is taken of ('inside').
   */
  goes: Goes
  /** The same of single outputs, where they differ. */
  each?: Readonly<Record<string, Goes>>
  /** The name of its counterpart, which has this one as its own. */
  name?: string
  /** Outputs that change places. */
  outputs?: readonly (readonly [string, string])[]
  /** A length in price, not a level. */
  distance?: true
}

/**
 * One bar, or one tick of a growing bar, at a time. `ins` are the values of the inputs in their order, `outs` takes
 * the outputs. Without `keep` nothing of the past changes, so that a bar can be tried again with each tick.
 */
export type Stepper = (ins: Float64Array, outs: Float64Array, keep: boolean) => void

/** What every word of rule text says of itself, whatever its kind. */
export interface Said {
  name: string
  /** One line for people. */
  doc: string
  /** Where the formula is from. */
  source: string
  /** Names of the trade by which it is looked for too. */
  also: readonly string[]
  /** What makes it unknown where bars are not wanting: ends the sentence "it is unknown: …". */
  unknown: string
  opposite: Opposite
}

/**
 * An indicator. `input` 'series' takes any series first (close where left out), 'two series' takes two; a list
 * of names takes those columns of the bars. `column` fills whole output columns, unknown (NaN) where there are not
 * enough bars; `steps` gives the same, to the last bit, one bar at a time.
 */
export interface Indicator extends Said {
  input: 'series' | 'two series' | readonly ColumnName[]
  parameters: readonly Parameter[]
  outputs: readonly Output[]
  /** Length in minutes that the bars must divide; where they do not, it is taken from bars of that length. */
  grain?(params: readonly number[]): number
  /** Rows of known input needed before the first known output. */
  warmUp(params: readonly number[]): number
  column(ins: readonly Float64Array[], params: readonly number[], outs: readonly Float64Array[]): void
  steps(params: readonly number[], slots: Slots): Stepper
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

/** What makes most of them unknown. */
export const GAP = 'a value among its bars is missing'

/** The usual ways to go with the price. */
export const AS_PRICE: Opposite = { goes: 'price' }
export const ABOUT_NOUGHT: Opposite = { goes: 'about nought' }
export const BETWEEN_BOUNDS: Opposite = { goes: 'between bounds' }
export const NEITHER_WAY: Opposite = { goes: 'neither way' }
export const DISTANCE: Opposite = { goes: 'neither way', distance: true }
export const UPPER_LOWER: Opposite = { goes: 'price', outputs: [['upper', 'lower']] }
