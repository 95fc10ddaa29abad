import { type Grid } from './csv'
import { looksDayFirst, readClock, readWhen } from './fileTimes'
import { readNumber } from './numbers'

/** What a column of a bars file can be; `time` is the time of day where it stands apart from the date. */
export const BAR_FIELDS = [
  'symbol',
  'date',
  'time',
  'open',
  'high',
  'low',
  'close',
  'volume',
  'uptrades',
  'downtrades',
] as const
export type BarField = (typeof BAR_FIELDS)[number]

/** Which column of the file is which field; -1 where there is none. */
export type ColumnMap = Record<BarField, number>

export const NO_COLUMNS: Readonly<ColumnMap> = Object.freeze(
  Object.fromEntries(BAR_FIELDS.map((field) => [field, -1])) as ColumnMap,
)

/** Usual spellings, the surest first. */
const SPELLED: Record<BarField, readonly string[]> = {
  symbol: ['symbol', 'ticker', 'security', 'instrument', 'code', 'isin', 'wkn', 'name'],
  date: [
    ...['date', 'datetime', 'date time', 'timestamp', 'trade date', 'day', 'session'],
    ...['datum', 'fecha', 'data', 'dato', 'tag', 'jour'],
  ],
  time: ['time', 'time of day', 'hour', 'zeit', 'uhrzeit', 'hora', 'ora', 'heure', 'tid'],
  open: ['open', 'o', 'opening', 'open price', 'first', 'eröffnung', 'apertura', 'ouverture', 'opn'],
  high: ['high', 'h', 'hi', 'high price', 'max', 'hoch', 'höchst', 'maximo', 'máximo', 'haut'],
  low: ['low', 'l', 'lo', 'low price', 'min', 'tief', 'tiefst', 'minimo', 'mínimo', 'bas'],
  close: [
    ...['close', 'c', 'last', 'closing', 'close price', 'last price', 'settle', 'price', 'cls'],
    ...['schluss', 'schlusskurs', 'cierre', 'cloture', 'clôture', 'kurs', 'adj close', 'adjusted close'],
  ],
  volume: ['volume', 'vol', 'v', 'shares', 'volumen', 'volym', 'umsatz', 'turnover shares', 'tickvol'],
  uptrades: ['uptrades', 'up trades', 'upticks', 'up ticks', 'up'],
  downtrades: ['downtrades', 'down trades', 'downticks', 'down ticks', 'down'],
}

/** A name without brackets, quotes, points and double spaces; "Close/Last" is either of two. */
function spellings(name: string): string[] {
  const plain = name
    .trim()
    .toLowerCase()
    .replace(/[<>[\]()"'.]/g, ' ')
    .replace(/[_\s-]+/g, ' ')
    .trim()
  return [plain, ...plain.split('/').map((part) => part.trim())]
}

/** Matches columns to fields by their names, each column once; the surer spelling goes first. */
export function matchColumns(columns: readonly string[]): ColumnMap {
  const names = columns.map(spellings)
  const map: ColumnMap = { ...NO_COLUMNS }
  const taken = new Set<number>()
  const take = (field: BarField, at: number) => {
    if (at < 0 || map[field] >= 0) return
    map[field] = at
    taken.add(at)
  }
  for (const field of BAR_FIELDS)
    for (const spelled of SPELLED[field]) {
      take(
        field,
        names.findIndex((all, i) => !taken.has(i) && all.includes(spelled)),
      )
    }
  // Any name with "date" or "time" in it can be the date; a time alone holds both.
  take(
    'date',
    names.findIndex((all, i) => !taken.has(i) && /\b(date|time|datetime|timestamp)\b/.test(all[0])),
  )
  if (map.date < 0 && map.time >= 0) [map.date, map.time] = [map.time, -1]
  return map
}

/** Fields without which nothing can be read, that the map does not have. */
export const missingFields = (map: ColumnMap): BarField[] =>
  (['date', 'open', 'high', 'low', 'close'] as const).filter((field) => map[field] < 0)

/** Rows that are looked at to tell what a column holds. */
const LOOKED_AT = 60

/** Whether a first line is one of figures, so that the file names no columns. */
export function looksLikeData(cells: readonly string[]): boolean {
  const numbers = cells.filter((cell) => !Number.isNaN(readNumber(cell))).length
  const dated = cells.some((cell) => cell !== '' && readWhen(cell, true) !== undefined)
  return dated && numbers >= 4
}

/**
 * What columns are by what they hold: the first of dates, times of day beside it, words for the symbol; of the columns
 * of numbers, the first four in a row of which one is never below and one never above the others are the prices, and
 * whole numbers after them the volume. Fields that `known` has are kept.
 */
export function guessColumns(grid: Grid, known: ColumnMap = NO_COLUMNS): ColumnMap {
  const rows = grid.rows.slice(0, LOOKED_AT).map(({ cells }) => cells)
  const map: ColumnMap = { ...known }
  const taken = new Set(Object.values(known).filter((at) => at >= 0))
  const free = (holds: (cell: string) => boolean): number[] =>
    grid.columns.flatMap((_, i) =>
      !taken.has(i) && rows.length > 0 && rows.every((cells) => holds(cells[i] ?? '')) ? [i] : [],
    )
  const take = (field: BarField, at: number | undefined) => {
    if (map[field] >= 0 || at === undefined) return
    map[field] = at
    taken.add(at)
  }
  const dayFirst = looksDayFirst(rows.flat())
  const dates = free((cell) => readWhen(cell, dayFirst) !== undefined)
  take('date', dates[0])
  const clocks = free((cell) => readClock(cell) !== undefined && /:|^\d{3,6}$|^0$/.test(cell))
  take(
    'time',
    clocks.find((at) => at === map.date + 1),
  )
  const words = free((cell) => /[A-Za-z]/.test(cell) && Number.isNaN(readNumber(cell)))
  take('symbol', words[0])
  const numbers = free((cell) => !Number.isNaN(readNumber(cell)))
  const prices = pricesAmong(rows, numbers)
  if (prices)
    for (const [k, field] of (['open', 'high', 'low', 'close'] as const).entries()) take(field, prices[k])
  const whole = free((cell) => /^\d+$/.test(cell.replace(/[.,\s]/g, '')))
  take('volume', whole.find((at) => at > Math.max(map.close, map.open)) ?? whole[0])
  return map
}

/** Open, high, low and close among four neighbouring columns of numbers; undefined where none fit. */
function pricesAmong(rows: readonly string[][], numbers: readonly number[]): number[] | undefined {
  for (let i = 0; i + 4 <= numbers.length; i++) {
    const four = numbers.slice(i, i + 4)
    const bounds = (of: number, sign: 1 | -1) =>
      rows.every((cells) =>
        four.every((other) => sign * readNumber(cells[of]) >= sign * readNumber(cells[other])),
      )
    const high = four.find((at) => bounds(at, 1))
    const low = four.find((at) => at !== high && bounds(at, -1))
    if (high === undefined || low === undefined) continue
    const [open, close] = four.filter((at) => at !== high && at !== low)
    return [open, high, low, close]
  }
  return undefined
}
