import { type Bars, emptyBars } from '../market/bars'
import { isIntraday, type Timeframe } from '../market/timeframe'
import { type ColumnMap } from './barColumns'
import { type Grid } from './csv'
import { looksDayFirst, momentsIn, readClock, readWhen, type Written } from './fileTimes'
import { readNumber } from './numbers'
import { type BadLine, type LineProblem } from './problems'

export interface ReadBars {
  /** Each security with its bars, and the line of the file that each bar came from. */
  securities: { symbol: string; bars: Bars; lines: number[] }[]
  bad: BadLine[]
  good: number
  /** True if bars are of whole days, so that no zone matters. */
  datesOnly: boolean
}

const EXTRAS = ['uptrades', 'downtrades'] as const

interface Row extends Written {
  line: number
  /** Open, high, low, close, volume, up trades, down trades. */
  values: number[]
}

/**
 * Reads bars from a grid. Dates in the usual forms are whole days, also where each has a time of nought or they lie a
 * day apart; date-times carry an offset or are taken in `zone`. Bad lines are left out and listed; rows are put in
 * order of time.
 */
export function readBars(grid: Grid, map: ColumnMap, fallbackSymbol: string, zone: string): ReadBars {
  const bad: BadLine[] = []
  const bySymbol = new Map<string, Map<string, Row>>()
  const dayFirst = looksDayFirst(datesOf(grid, map.date))
  let good = 0
  for (const { line, cells } of grid.rows) {
    const symbol = map.symbol >= 0 ? (cells[map.symbol] ?? '').toUpperCase() : fallbackSymbol
    const read = readRow(cells, map, dayFirst)
    if (symbol === '') bad.push({ line, problem: { code: 'empty', field: 'symbol' } })
    else if ('code' in read) bad.push({ line, problem: read })
    else {
      let rows = bySymbol.get(symbol)
      if (!rows) bySymbol.set(symbol, (rows = new Map()))
      const key = read.moment === undefined ? `${read.date} ${read.clock}` : String(read.moment)
      const earlier = rows.get(key)
      if (earlier) {
        const several = map.symbol >= 0 ? { symbol } : undefined
        bad.push({ line, problem: { code: 'same_time', line: earlier.line, ...several } })
        continue
      }
      rows.set(key, { line, ...read })
      good++
    }
  }
  const all = [...bySymbol.values()].map((rows) => [...rows.values()])
  const midnights = all.every((rows) => rows.every((row) => !row.clock))
  const momentOf = momentsIn(zone)
  const securities = [...bySymbol.keys()].map((symbol, k) => {
    const sorted = all[k].map((row) => ({
      row,
      time: midnights
        ? Date.parse(`${row.date}T00:00:00Z`)
        : (row.moment ?? momentOf(row.date, row.clock ?? 0)),
    }))
    sorted.sort((a, b) => a.time - b.time)
    // A wall clock that the zone skips in spring is the moment an hour on, which may be there already.
    const timed = sorted.filter(({ row, time }, i) => {
      const before = sorted[i - 1]
      if (before?.time !== time) return true
      const several = map.symbol >= 0 ? { symbol } : undefined
      bad.push({ line: row.line, problem: { code: 'same_time', line: before.row.line, ...several } })
      good--
      return false
    })
    const bars = toBars(timed, midnights, zone, map)
    return { symbol, bars, lines: timed.map(({ row }) => row.line) }
  })
  return {
    securities,
    bad: bad.sort((a, b) => a.line - b.line),
    good,
    datesOnly: good > 0 && securities.every(({ bars }) => !isIntraday(bars.every)),
  }
}

function* datesOf(grid: Grid, column: number): Generator<string> {
  for (const { cells } of grid.rows) yield cells[column] ?? ''
}

function readRow(cells: string[], map: ColumnMap, dayFirst: boolean): Omit<Row, 'line'> | LineProblem {
  const text = cells[map.date] ?? ''
  const when = readWhen(text, dayFirst)
  if (!when) return text === '' ? { code: 'empty', field: 'date' } : { code: 'no_date', text, timed: true }
  if (map.time >= 0 && when.clock === undefined) {
    const clockText = cells[map.time] ?? ''
    when.clock = readClock(clockText)
    if (when.clock === undefined)
      return clockText === '' ? { code: 'empty', field: 'time' } : { code: 'no_clock', text: clockText }
  }
  const values: number[] = []
  for (const field of ['open', 'high', 'low', 'close'] as const) {
    const cell = cells[map[field]] ?? ''
    const value = readNumber(cell)
    if (Number.isNaN(value))
      return cell === '' ? { code: 'empty', field } : { code: 'no_number', field, text: cell }
    if (value <= 0) return { code: 'not_above_nought', field, value }
    values.push(value)
  }
  const [open, high, low, close] = values
  if (high < low) return { code: 'high_below_low', high, low }
  if (open > high || close > high) return { code: 'high_inside', high }
  if (open < low || close < low) return { code: 'low_inside', low }
  for (const field of ['volume', ...EXTRAS] as const) {
    const cell = map[field] >= 0 ? (cells[map[field]] ?? '') : ''
    const value = cell === '' ? NaN : readNumber(cell)
    if (cell !== '' && Number.isNaN(value)) return { code: 'no_number', field, text: cell }
    if (value < 0) return { code: 'below_nought', field, value }
    values.push(value)
  }
  return { ...when, values }
}

/** Columns of rows that are in order of time. */
function toBars(timed: { row: Row; time: number }[], midnights: boolean, zone: string, map: ColumnMap): Bars {
  const times = timed.map(({ time }) => time)
  const step = usualStep(times)
  // Date-times a day apart are daily bars stamped with a time: each is the date that is written.
  const whole = midnights || step >= 20 * 3_600_000
  const every: Timeframe = !whole
    ? { count: Math.max(1, Math.round(step / 60_000)), unit: 'min' }
    : step >= 6 * 86_400_000 && step <= 8 * 86_400_000
      ? { count: 1, unit: 'week' }
      : { count: 1, unit: 'day' }
  const bars = emptyBars(timed.length, every, whole ? 'UTC' : zone)
  const length =
    every.unit === 'min' ? every.count * 60_000 : every.unit === 'week' ? 7 * 86_400_000 : 86_400_000
  for (const name of EXTRAS) if (map[name] >= 0) bars[name] = new Float64Array(timed.length)
  for (const [i, { row, time }] of timed.entries()) {
    bars.time[i] = whole ? Date.parse(`${row.date}T00:00:00Z`) : time
    bars.end[i] = bars.time[i] + length
    ;[bars.open[i], bars.high[i], bars.low[i], bars.close[i], bars.volume[i]] = row.values
    for (const [k, name] of EXTRAS.entries()) if (bars[name]) bars[name][i] = row.values[5 + k]
  }
  return bars
}

/** The usual step between moments, in milliseconds; 0 of fewer than two. */
function usualStep(times: readonly number[]): number {
  const counts = new Map<number, number>()
  for (let i = 1; i < times.length; i++) {
    const step = times[i] - times[i - 1]
    counts.set(step, (counts.get(step) ?? 0) + 1)
  }
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? 0
}
