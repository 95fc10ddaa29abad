import { DateTime } from 'luxon'
import { type Bars, emptyBars } from '../market/bars'
import { type Timeframe } from '../market/timeframe'
import { type Grid } from './csv'

/** What a column of a bars file can be. */
export const BAR_FIELDS = ['symbol', 'time', 'open', 'high', 'low', 'close', 'volume'] as const
export type BarField = (typeof BAR_FIELDS)[number]

/** Which column of the file is which field; -1 where there is none. */
export type ColumnMap = Record<BarField, number>

const OTHER_NAMES: Record<BarField, readonly string[]> = {
  symbol: ['ticker', 'security', 'instrument', 'code'],
  time: ['date', 'datetime', 'date-time', 'timestamp', 'day', 'date/time', 'session'],
  open: ['o', 'first', 'open price', 'opening'],
  high: ['h', 'max', 'high price'],
  low: ['l', 'min', 'low price'],
  close: ['c', 'last', 'close price', 'closing', 'price', 'settle'],
  volume: ['v', 'vol', 'vol.', 'shares', 'turnover shares'],
}

const plain = (name: string): string =>
  name
    .trim()
    .toLowerCase()
    .replace(/[_\s]+/g, ' ')
    .replace(/[<>]/g, '')

/** Matches columns to fields by their names, exact names first; any name with "date" or "time" can be the time. */
export function matchColumns(columns: readonly string[]): ColumnMap {
  const names = columns.map(plain)
  const find = (field: BarField): number => {
    const exact = names.indexOf(field)
    if (exact >= 0) return exact
    const other = names.findIndex((name) => OTHER_NAMES[field].includes(name))
    if (other >= 0 || field !== 'time') return other
    return names.findIndex((name) => /\b(date|time|datetime|timestamp)\b/.test(name))
  }
  return Object.fromEntries(BAR_FIELDS.map((field) => [field, find(field)])) as ColumnMap
}

/** Fields without which nothing can be read, that the map does not have. */
export const missingFields = (map: ColumnMap): BarField[] =>
  (['time', 'open', 'high', 'low', 'close'] as const).filter((field) => map[field] < 0)

/** A line that was left out, and why. */
export interface BadLine {
  line: number
  reason: string
}

export interface ReadBars {
  /** Each security with its bars, and the line of the file that each bar came from. */
  securities: { symbol: string; bars: Bars; lines: number[] }[]
  bad: BadLine[]
  good: number
  /** True if times are dates without a time of day. */
  datesOnly: boolean
}

interface Row {
  line: number
  time: number
  values: number[]
}

/** A number as files write it: "1,234.5", "1234.5", "1.234,5"; NaN for anything else, and for an empty cell. */
export function readNumber(text: string): number {
  let plainText = text.replace(/[\s$€£]/g, '')
  if (/^-?\d{1,3}(\.\d{3})+,\d+$/.test(plainText) || /^-?\d+,\d{1,2}$/.test(plainText))
    plainText = plainText.replaceAll('.', '').replace(',', '.')
  else if (/^-?\d{1,3}(,\d{3})+(\.\d+)?$/.test(plainText)) plainText = plainText.replaceAll(',', '')
  return /^-?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plainText) ? Number(plainText) : NaN
}

/**
 * Reads bars from a grid. Dates ("2026-03-13", "20260313", "13.03.2026", "3/13/2026") are whole days; date-times
 * carry an offset or are taken in `zone`. Bad lines are left out and listed; rows are put in order of time.
 */
export function readBars(grid: Grid, map: ColumnMap, fallbackSymbol: string, zone: string): ReadBars {
  const bad: BadLine[] = []
  const bySymbol = new Map<string, Map<number, Row>>()
  let dates = 0
  let good = 0
  const timeOf = timeReader(zone, looksDayFirst(grid, map.time))
  for (const { line, cells } of grid.rows) {
    const symbol = map.symbol >= 0 ? (cells[map.symbol] ?? '').toUpperCase() : fallbackSymbol
    const read = readRow(cells, map, timeOf)
    if (symbol === '') bad.push({ line, reason: 'the symbol is empty' })
    else if (typeof read === 'string') bad.push({ line, reason: read })
    else {
      let rows = bySymbol.get(symbol)
      if (!rows) bySymbol.set(symbol, (rows = new Map()))
      const earlier = rows.get(read.time)
      if (earlier) {
        bad.push({
          line,
          reason: `the same time as line ${earlier.line}${map.symbol >= 0 ? ` for ${symbol}` : ''}; the first is kept`,
        })
        continue
      }
      rows.set(read.time, { line, ...read })
      if (read.date) dates++
      good++
    }
  }
  const datesOnly = dates > 0 && dates === good
  const securities = [...bySymbol].map(([symbol, found]) => {
    const rows = [...found.values()].sort((a, b) => a.time - b.time)
    return { symbol, bars: toBars(rows, datesOnly, zone), lines: rows.map((row) => row.line) }
  })
  return { securities, bad, good, datesOnly }
}

function readRow(
  cells: string[],
  map: ColumnMap,
  timeOf: TimeReader,
): { time: number; date: boolean; values: number[] } | string {
  const timeText = cells[map.time] ?? ''
  const moment = timeOf(timeText)
  if (!moment)
    return timeText === '' ? 'the time is empty' : `"${timeText.slice(0, 30)}" is not a date or time`
  const values: number[] = []
  for (const field of ['open', 'high', 'low', 'close'] as const) {
    const text = cells[map[field]] ?? ''
    const value = readNumber(text)
    if (Number.isNaN(value))
      return text === '' ? `${field} is empty` : `${field} "${text.slice(0, 30)}" is not a number`
    if (value <= 0) return `${field} ${value} is not above nought`
    values.push(value)
  }
  const [open, high, low, close] = values
  if (high < low) return `high ${high} is below low ${low}`
  if (open > high || close > high) return `high ${high} is below the open or close`
  if (open < low || close < low) return `low ${low} is above the open or close`
  const volumeText = map.volume >= 0 ? (cells[map.volume] ?? '') : ''
  const volume = volumeText === '' ? NaN : readNumber(volumeText)
  if (volumeText !== '' && Number.isNaN(volume)) return `volume "${volumeText.slice(0, 30)}" is not a number`
  if (volume < 0) return `volume ${volume} is below nought`
  return { ...moment, values: [...values, volume] }
}

const DATE_ONLY = /^(\d{4})-?(\d{2})-?(\d{2})$/
const LOCAL_DATE = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})(?:\s+(\d{1,2}:\d{2}(?::\d{2})?))?$/

/** True unless some date of the file can only be month first, as in 3/13/2026; dots are day first. */
function looksDayFirst(grid: Grid, column: number): boolean {
  let slashes = false
  for (const { cells } of grid.rows) {
    const match = LOCAL_DATE.exec(cells[column] ?? '')
    if (!match) continue
    if (Number(match[1]) > 12) return true
    if (Number(match[2]) > 12) return false
    slashes ||= (cells[column] ?? '').includes('/')
  }
  return !slashes
}

type TimeReader = (text: string) => { time: number; date: boolean } | undefined

const MINUTES = /^(\d{4}-\d{2}-\d{2})[ T]([01]\d|2[0-3]):([0-5]\d)(?::([0-5]\d))?$/

/**
 * Reads times of one file. A day's start is asked of the zone once: all times of a day without a clock change follow
 * from it, which is what makes hundreds of thousands of minute bars quick to read.
 */
function timeReader(zone: string, dayFirst: boolean): TimeReader {
  const starts = new Map<string, number>()
  const startOf = (date: string): number => {
    let start = starts.get(date)
    if (start === undefined) {
      const day = DateTime.fromISO(date, { zone })
      // In some zones the clocks change at midnight, so that such a day begins at one.
      const whole = day.isValid && day.hour === 0 && day.minute === 0
      const even = whole && day.plus({ days: 1 }).toMillis() - day.toMillis() === 86_400_000
      starts.set(date, (start = even ? day.toMillis() : NaN))
    }
    return start
  }
  return (text) => {
    const match = MINUTES.exec(text)
    const start = match ? startOf(match[1]) : NaN
    if (!match || Number.isNaN(start)) return readTime(text, zone, dayFirst)
    const seconds = Number(match[2]) * 3600 + Number(match[3]) * 60 + Number(match[4] ?? 0)
    return { time: start + seconds * 1000, date: false }
  }
}

function readTime(
  text: string,
  zone: string,
  dayFirst: boolean,
): { time: number; date: boolean } | undefined {
  const day = DATE_ONLY.exec(text)
  if (day) return dated(DateTime.utc(Number(day[1]), Number(day[2]), Number(day[3])), true)
  const local = LOCAL_DATE.exec(text)
  if (local) {
    const [month, date] = dayFirst ? [local[2], local[1]] : [local[1], local[2]]
    const iso = `${local[3]}-${month.padStart(2, '0')}-${date.padStart(2, '0')}`
    return local[4]
      ? dated(DateTime.fromISO(`${iso}T${local[4].padStart(5, '0')}`, { zone }), false)
      : dated(DateTime.fromISO(iso, { zone: 'utc' }), true)
  }
  if (/^\d{10}$|^\d{13}$/.test(text))
    return { time: Number(text) * (text.length === 10 ? 1000 : 1), date: false }
  return dated(DateTime.fromISO(text.replace(' ', 'T'), { zone }), false)
}

const dated = (moment: DateTime, date: boolean) =>
  moment.isValid ? { time: moment.toMillis(), date } : undefined

/** Columns of rows that are in order of time. */
function toBars(rows: Row[], datesOnly: boolean, zone: string): Bars {
  const every: Timeframe = datesOnly ? dayOrLonger(rows) : intradayStep(rows)
  const bars = emptyBars(rows.length, every, datesOnly ? 'UTC' : zone)
  const step = every.unit === 'min' ? every.count * 60_000 : 86_400_000
  for (const [i, { time, values }] of rows.entries()) {
    bars.time[i] = time
    bars.end[i] = every.unit === 'week' ? time + 7 * 86_400_000 : time + step
    ;[bars.open[i], bars.high[i], bars.low[i], bars.close[i], bars.volume[i]] = values
  }
  return bars
}

/** The usual step between rows, in milliseconds; 0 of fewer than two. */
function usualStep(rows: Row[]): number {
  const steps = rows.slice(1).map((row, i) => row.time - rows[i].time)
  const counts = new Map<number, number>()
  for (const step of steps) counts.set(step, (counts.get(step) ?? 0) + 1)
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? 0
}

const dayOrLonger = (rows: Row[]): Timeframe =>
  usualStep(rows) === 7 * 86_400_000 ? { count: 1, unit: 'week' } : { count: 1, unit: 'day' }

function intradayStep(rows: Row[]): Timeframe {
  const step = usualStep(rows)
  const hours = step / 3_600_000
  // Date-times a day apart are daily bars stamped with a time.
  if (step === 0 || hours >= 20) return { count: 1, unit: 'day' }
  return { count: Math.max(1, Math.round(step / 60_000)), unit: 'min' }
}
