import { INDICATORS } from '../../indicators'
import { type Indicator } from '../../indicators/types'
import { ARITHMETIC } from './arithmetic'
import { BARSSINCE } from './barssince'
import { BEGINS } from './begins'
import { BESIDE } from './beside'
import { BETWEEN } from './between'
import { CANDIDATE_WORDS } from './candidate'
import { CERTAINLY } from './certainly'
import { RUNS } from './climbs'
import { COMPARISONS } from './compare'
import { CROSSINGS } from './crosses'
import { DRAWN } from './drawn'
import { EARLIER } from './earlier'
import { FANS } from './fans'
import { FIRST } from './first'
import { FIGURE_WORDS } from './figures'
import { LEAST_GREATEST } from './leastGreatest'
import { LOGIC } from './logic'
import { MATE_WORD } from './mate'
import { MEETS } from './meets'
import { ONCE } from './once'
import { ON } from './on'
import { POSITION_WORDS } from './position'
import { QUOTES } from './quotes'
import { PASSES } from './passes'
import { REACHES } from './reaches'
import { RECENTLY } from './recently'
import { SERIES_WORDS } from './series'
import { type FunctionWord, type NameWord, type RelationWord, type SignWord, type Word } from './types'
import { VWAPSINCE } from './vwapsince'

/** Every word of rule text that is no indicator. A new one is put here, and nowhere else. */
const LIST: readonly Word[] = [
  ...[...SERIES_WORDS, ...QUOTES, ...FIGURE_WORDS, ...POSITION_WORDS, ...CANDIDATE_WORDS],
  ...[EARLIER, ON, BESIDE, MATE_WORD, ...LEAST_GREATEST, BARSSINCE, VWAPSINCE, ...DRAWN],
  ...[...RECENTLY, ...RUNS, BEGINS, FIRST, ONCE, CERTAINLY, REACHES, ...PASSES],
  ...[...COMPARISONS, ...CROSSINGS, MEETS, BETWEEN],
  ...[...ARITHMETIC, ...LOGIC, ...FANS],
]

function registered(): ReadonlyMap<string, Word> {
  const known = new Map<string, Word>()
  for (const word of LIST) {
    if (known.has(word.name) || INDICATORS.get(word.name))
      throw new Error(`The word "${word.name}" exists; choose another`)
    known.set(word.name, Object.freeze(word))
  }
  return known
}

export const WORDS = registered()

const of = <K extends Word['kind']>(kind: K) => {
  const found = new Map<string, Extract<Word, { kind: K }>>()
  for (const word of WORDS.values())
    if (word.kind === kind) found.set(word.name, word as Extract<Word, { kind: K }>)
  return found as ReadonlyMap<string, Extract<Word, { kind: K }>>
}

export const NAMES: ReadonlyMap<string, NameWord> = of('name')
export const FUNCTIONS: ReadonlyMap<string, FunctionWord> = of('function')
export const RELATIONS: ReadonlyMap<string, RelationWord> = of('relation')
export const SIGNS: ReadonlyMap<string, SignWord> = of('sign')

/** The relation that a tree names. Throws Error for one that nobody defined; the checker refuses it before. */
export function relation(how: string): RelationWord {
  const word = RELATIONS.get(how)
  if (!word) throw new Error(`"${how}" is no relation; check the rule first`)
  return word
}

/** The meaning of a sign. */
export const sign = (name: string): SignWord => SIGNS.get(name)!

/** "sma(x, length)", "rsi(x, 14)": how an indicator is called, with its presets. */
export function usageOf(indicator: Indicator): string {
  const params = indicator.parameters.map((p) =>
    p.preset === undefined ? p.name : p.minutes ? `${p.preset} min` : String(p.preset),
  )
  const series = indicator.input === 'series' ? ['x'] : indicator.input === 'two series' ? ['x', 'y'] : []
  const inside = [...series, ...params]
  return inside.length > 0 ? `${indicator.name}(${inside.join(', ')})` : indicator.name
}

/** One name that may be written in a rule, for completion and the reference page. */
export interface Entry {
  name: string
  usage: string
  doc: string
  also: readonly string[]
  kind: 'series' | 'figure' | 'position' | 'order' | 'indicator' | 'function'
  outputs: readonly string[]
}

const KIND = {
  bars: 'series',
  quote: 'series',
  company: 'figure',
  position: 'position',
  order: 'order',
} as const

/** Every name that rule text knows. */
export const ENTRIES: readonly Entry[] = [
  ...Array.from(NAMES.values(), ({ name, doc, also, about }): Entry => ({
    ...{ name, usage: name, doc, also, kind: KIND[about], outputs: [] },
  })),
  ...INDICATORS.all().map((i): Entry => ({
    ...{ name: i.name, usage: usageOf(i), doc: i.doc, also: i.also, kind: 'indicator' },
    outputs: i.outputs.length > 1 ? i.outputs.map((o) => o.name) : [],
  })),
  ...Array.from(FUNCTIONS.values(), ({ name, usage, doc, also, outputs }): Entry => ({
    ...{ name, usage, doc, also, kind: 'function', outputs: outputs ?? [] },
  })),
]
