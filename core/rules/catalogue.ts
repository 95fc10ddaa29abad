import { SERIES, type SeriesName } from '../market/bars'
import { type ColumnName } from '../market/columns'
import { FIGURES, type FigureName, isFigure } from '../market/figures'
import { INDICATORS } from '../indicators'
import { type Indicator, type Unit } from '../indicators/types'

/** Functions of rule text that are not indicators: they look back, across, or at a condition. */
export interface RuleFunction {
  name: string
  usage: string
  doc: string
  takes: readonly Takes[]
  /** The last argument may be written any number of times. */
  many?: true
  outputs?: readonly string[]
  /** Result: the unit (or nature) of the argument, a plain number, a price, or yes/no as a lasting state or a moment. */
  gives: 'input' | 'number' | 'price' | 'state' | 'moment'
}

/**
 * What an argument must be; 'either' is a number or a condition, 'anchor' a condition or a date in quotes, 'drawn' and
 * 'symbol' are texts in quotes.
 */
export type Takes =
  'number' | 'condition' | 'either' | 'duration' | 'bars' | 'timeframe' | 'symbol' | 'drawn' | 'anchor'

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
    takes: ['timeframe', 'either'],
    gives: 'input',
  },
  {
    name: 'beside',
    usage: 'beside("SYMBOL", x)',
    doc: 'The value, or the condition, of another security at its last bar complete by then; beside("index", x) is the index of the venue.',
    takes: ['symbol', 'either'],
    gives: 'input',
  },
  {
    name: 'least',
    usage: 'least(x, y, …)',
    doc: 'The smallest of several values.',
    takes: ['number'],
    many: true,
    gives: 'input',
  },
  {
    name: 'greatest',
    usage: 'greatest(x, y, …)',
    doc: 'The greatest of several values.',
    takes: ['number'],
    many: true,
    gives: 'input',
  },
  {
    name: 'barssince',
    usage: 'barssince(condition)',
    doc: 'Bars since the condition last held: 0 where it holds now, unknown where it never has.',
    takes: ['condition'],
    gives: 'number',
  },
  {
    name: 'vwapsince',
    usage: 'vwapsince(condition)',
    doc: 'Average price weighted by volume since the condition last came true, or since a date: vwapsince("2026-03-02").',
    takes: ['anchor'],
    gives: 'price',
  },
  {
    name: 'level',
    usage: 'level("name")',
    doc: 'The price of a level that was drawn on the chart of this security under that name.',
    takes: ['drawn'],
    gives: 'price',
  },
  {
    name: 'line',
    usage: 'line("name")',
    doc: 'Where a drawn trend line stands at this bar; it runs on to both sides.',
    takes: ['drawn'],
    gives: 'price',
  },
  {
    name: 'zone',
    usage: 'zone("name")',
    doc: 'The edges of a drawn zone.',
    takes: ['drawn'],
    outputs: ['upper', 'lower'],
    gives: 'price',
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
    name: 'certainly',
    usage: 'certainly(condition)',
    doc: 'True where the condition holds; false where it fails, and where it is unknown.',
    takes: ['condition'],
    gives: 'state',
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

/** Values besides the five series that a bar has: what they are called, their unit, and the column that holds them. */
const PLAIN: readonly { name: string; unit: Unit | 'state'; doc: string; column: ColumnName | FigureName }[] =
  [
    {
      name: 'time',
      unit: 'clock',
      doc: 'Time of day at which the bar was complete, in the venue’s zone: time between 09:55 and 14:20.',
      column: 'clock',
    },
    {
      name: 'uptrades',
      unit: 'number',
      doc: 'Trades in the bar at a higher price than the one before.',
      column: 'uptrades',
    },
    {
      name: 'downtrades',
      unit: 'number',
      doc: 'Trades in the bar at a lower price than the one before.',
      column: 'downtrades',
    },
    {
      name: 'optionvolume',
      unit: 'number',
      doc: 'Option contracts on the security that were traded in the bar.',
      column: 'optionvolume',
    },
    ...(
      [
        ['last', 'Last traded price, now; on the last bar only.'],
        ['bid', 'Best bid, now; on the last bar only.'],
        ['ask', 'Best ask, now; on the last bar only.'],
      ] as const
    ).map(([name, doc]) => ({ name, unit: 'price' as const, doc, column: name })),
    ...FIGURES.map((f) => ({ ...f, column: f.name })),
  ]

/** What a plain name stands for: a column of the bars or a figure of the company; undefined for other names. */
export function plainName(
  name: string,
): { unit: Unit | 'state'; column: ColumnName | FigureName } | undefined {
  if (isSeries(name)) return { unit: SERIES_UNIT[name], column: name }
  return PLAIN.find((entry) => entry.name === name)
}

export { isFigure }

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
  kind: 'series' | 'figure' | 'indicator' | 'function'
  outputs: readonly string[]
}

/** Every name that rule text knows. */
export const ENTRIES: readonly Entry[] = [
  ...SERIES.map((name): Entry => ({ name, usage: name, doc: SERIES_DOC[name], kind: 'series', outputs: [] })),
  ...PLAIN.map(({ name, doc, column }): Entry => ({
    name,
    usage: name,
    doc,
    kind: isFigure(column) ? 'figure' : 'series',
    outputs: [],
  })),
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
    outputs: f.outputs ?? [],
  })),
]
