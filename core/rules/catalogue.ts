import { SERIES, type SeriesName } from '../market/bars'
import { INDICATORS } from '../indicators'
import { type Indicator, type Unit } from '../indicators/types'

/** Functions of rule text that are not indicators: they look back, across, or at a condition. */
export interface RuleFunction {
  name: string
  usage: string
  doc: string
  /** What the arguments must be: a number, a condition, a length, bars only, or a timeframe. */
  takes: readonly ('number' | 'condition' | 'duration' | 'bars' | 'timeframe')[]
  /** Result: the unit of the number argument, or yes/no as a lasting state or a moment. */
  gives: 'input' | 'state' | 'moment'
}

const FUNCTION_LIST: readonly RuleFunction[] = [
  {
    name: 'earlier',
    usage: 'earlier(x, 3 bars)',
    doc: 'The value so many bars, sessions, weeks or months ago; earlier(high, 1 day) is the session before.',
    takes: ['number', 'duration'],
    gives: 'input',
  },
  {
    name: 'on',
    usage: 'on(1 week, x)',
    doc: 'The value on another timeframe, from bars that were complete by then.',
    takes: ['timeframe', 'number'],
    gives: 'input',
  },
  {
    name: 'abs',
    usage: 'abs(x)',
    doc: 'The size of a number without its sign.',
    takes: ['number'],
    gives: 'input',
  },
  {
    name: 'recently',
    usage: 'recently(condition, 4 bars)',
    doc: 'True if the condition held on at least one of the last bars, this one included.',
    takes: ['condition', 'bars'],
    gives: 'state',
  },
  {
    name: 'always',
    usage: 'always(condition, 3 bars)',
    doc: 'True if the condition held on every one of the last bars, this one included.',
    takes: ['condition', 'bars'],
    gives: 'state',
  },
  {
    name: 'climbs',
    usage: 'climbs(x, 3 bars)',
    doc: 'True if the value rose on each of so many bars in a row.',
    takes: ['number', 'bars'],
    gives: 'state',
  },
  {
    name: 'sinks',
    usage: 'sinks(x, 3 bars)',
    doc: 'True if the value fell on each of so many bars in a row.',
    takes: ['number', 'bars'],
    gives: 'state',
  },
  {
    name: 'begins',
    usage: 'begins(condition)',
    doc: 'The moment at which a condition comes true: it holds now and did not on the bar before.',
    takes: ['condition'],
    gives: 'moment',
  },
  {
    name: 'reaches',
    usage: 'reaches(level)',
    doc: 'The level lies within the range of this bar, from its low to its high.',
    takes: ['number'],
    gives: 'moment',
  },
]

export const FUNCTIONS: ReadonlyMap<string, RuleFunction> = new Map(FUNCTION_LIST.map((f) => [f.name, f]))

export const SERIES_UNIT: Record<SeriesName, Unit> = {
  open: 'price',
  high: 'price',
  low: 'price',
  close: 'price',
  volume: 'shares',
}

const SERIES_DOC: Record<SeriesName, string> = {
  open: 'First price of the bar.',
  high: 'Highest price of the bar.',
  low: 'Lowest price of the bar.',
  close: 'Last price of the bar.',
  volume: 'Shares traded in the bar.',
}

export const isSeries = (name: string): name is SeriesName => (SERIES as readonly string[]).includes(name)

/** "sma(x, length)", "rsi(x, 14)": how an indicator is called, with its presets. */
export function usageOf(indicator: Indicator): string {
  const params = indicator.parameters.map((p) => (p.preset === undefined ? p.name : String(p.preset)))
  return `${indicator.name}(${[...(indicator.input === 'series' ? ['x'] : []), ...params].join(', ')})`
}

/** One name that may be written in a rule, for completion and the reference page. */
export interface Entry {
  name: string
  usage: string
  doc: string
  kind: 'series' | 'indicator' | 'function'
  outputs: readonly string[]
}

/** Every name that rule text knows. */
export const ENTRIES: readonly Entry[] = [
  ...SERIES.map((name): Entry => ({ name, usage: name, doc: SERIES_DOC[name], kind: 'series', outputs: [] })),
  ...INDICATORS.all().map((i): Entry => ({
    name: i.name,
    usage: usageOf(i),
    doc: i.doc,
    kind: 'indicator',
    outputs: i.outputs.length > 1 ? i.outputs.map((o) => o.name) : [],
  })),
  ...FUNCTION_LIST.map((f): Entry => ({
    name: f.name,
    usage: f.usage,
    doc: f.doc,
    kind: 'function',
    outputs: [],
  })),
]
