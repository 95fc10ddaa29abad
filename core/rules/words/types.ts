import { type Indicator, type Said, type Unit } from '../../indicators/types'
import { type ColumnName } from '../../market/columns'
import { type Timeframe } from '../../market/timeframe'
import { type Form } from '../exec/form'
import { type Source } from '../exec/source'
import { type CallNode, type Node } from '../tree'

/**
 * A word of rule text is one definition: what it takes and gives, how far it looks back, both of its forms, its
 * opposite, what makes it unknown, and what is said of it. Checker, compiler, completion, builder, other side and
 * documents read these; nothing else names a word.
 */
export type Word = NameWord | FunctionWord | RelationWord | SignWord

/** How what is compared was made, so that what is equal on paper is told from what is not (see sizes). */
export interface Paper {
  /** Whether a last input tells the size, row by row. */
  sized: boolean
  /** The least size there is. */
  least: number
}

/** A number that a form is told at its making: "3 bars" is 3. */
export type Counts = readonly number[]

/** A name that stands for a value by itself: of a bar, a quote, the company, the position. */
export interface NameWord extends Said {
  kind: 'name'
  /** Under which heading it stands in the documents. */
  about: 'bars' | 'quote' | 'company' | 'position' | 'order'
  unit: Unit | 'state'
  from: Source
  range?: readonly [number, number]
}

/**
 * What an argument must be; 'either' is a number or a condition, 'anchor' a condition or a date in quotes, 'drawn' and
 * 'symbol' are texts in quotes.
 */
export type Takes =
  | 'number'
  | 'condition'
  | 'either'
  | 'duration'
  | 'bars'
  | 'timeframe'
  | 'symbol'
  | 'drawn'
  | 'anchor'

/** A function: its arguments stand in brackets behind it. */
export interface FunctionWord extends Said {
  kind: 'function'
  usage: string
  takes: readonly Takes[]
  /** The last argument may be written any number of times. */
  many?: true
  outputs?: readonly string[]
  /** The unit (or nature) of its arguments, a plain number, a price, or yes/no as a lasting state or a moment. */
  gives: 'input' | 'number' | 'price' | 'state' | 'moment'
  /** Whether what is inside is asked elsewhere: of other bars, another security, another time. */
  moves?: true
  /** Bars of known input before it is known; `of` tells it of an argument. */
  needs(args: readonly Node[], of: (arg: Node) => number): number
  /** An operation of its values, conditions and counts; or, of what is more than that, its part of the graph. */
  means: Meaning | { graph(call: CallNode, site: Site): number }
  /** How a condition is explained where its text alone says too little: what it reads besides, and the sentence. */
  explains?: {
    reads: readonly Node[]
    say(holds: boolean, call: CallNode, named: (node: Node) => string): string
  }
}

export interface Meaning {
  form(counts: Counts, paper: Paper | undefined): Form
  /** Its values are compared: with each other, or with themselves before. */
  compares?: true
}

/** A word between two values, which gives a condition. */
export interface RelationWord extends Said {
  kind: 'relation'
  usage: string
  gives: 'state' | 'moment'
  /** Bars before this one that it looks at. */
  back: number
  means: { form(paper: Paper | undefined): Form } | { graph(left: Node, right: Node, site: Site): number }
  /** The sentence about two sides, each named with its value; `side` is 1 where left stands above right, -1 below. */
  say(holds: boolean, left: string, right: string, side: number): string
}

/** A sign or word that the grammar itself knows: its place is there, its meaning here. */
export interface SignWord extends Said {
  kind: 'sign'
  usage: string
  /** Where it may stand: between values, between conditions, or at the beginning. */
  stands: 'between values' | 'between conditions' | 'first'
  means: { form(about: { count: number; paper?: Paper }): Form }
}

/** What a definition may ask of the graph that is being made, on the bars on which it stands. */
export interface Site {
  readonly every: Timeframe
  readonly beside: string | undefined
  /** The value of a part of the rule. */
  of(node: Node): number
  isCondition(node: Node): boolean
  isPrice(node: Node): boolean
  /** Two sides brought to one unit, and to unknown where their currencies differ. */
  brought(left: Node, right: Node): [number, number]
  column(name: ColumnName): number
  source(source: Source): number
  /** The first of the outputs of an operation; `name` and inputs tell it from others. */
  form(name: string, holds: 'numbers' | 'verdicts', form: Form, ins: readonly number[]): number
  indicator(call: CallNode): number
  /** How some sides are compared: the inputs behind the sides themselves. */
  paper(sides: readonly Node[]): { paper: Paper | undefined; ins: number[] }
  /** The same on other bars. */
  on(every: Timeframe): Site
  besides(symbol: string): Site
  /** A value of another place, at its last bar complete by the end of each bar here. */
  across(there: Site, value: number): number
  /** A value of coarser bars, so many before the one that each bar here lies in. */
  before(there: Site, value: number, count: number): number
}

export { type Indicator, type Said }
