import { DateTime } from 'luxon'
import { type Report } from '../market/figures'
import { type BadLine } from './barsCsv'
import { type Grid } from './csv'

/** Columns of a file of company figures, with other names that they go by. */
const COLUMNS = {
  symbol: ['symbol', 'ticker', 'security', 'code'],
  date: ['date', 'known', 'reported', 'report date', 'as of'],
  sharesOutstanding: ['shares outstanding', 'shares', 'outstanding'],
  float: ['float', 'free float', 'floating shares'],
  eps: ['eps', 'earnings per share'],
  epsGrowth: ['eps growth', 'earnings growth', 'growth'],
  nextEarnings: ['next earnings', 'next report', 'earnings date'],
  confirmed: ['confirmed'],
  beforeOpen: ['before open', 'before market', 'when'],
} as const

type Field = keyof typeof COLUMNS

export interface ReadReports {
  reports: Map<string, Report[]>
  bad: BadLine[]
  good: number
}

const plain = (name: string) =>
  name
    .trim()
    .toLowerCase()
    .replace(/[_\s]+/g, ' ')

const YES = /^(yes|y|true|1|confirmed|before.*|bmo)$/i
const NO = /^(no|n|false|0|estimated|after.*|amc)$/i

/**
 * Company figures by symbol from a file with a line for each report; unknown cells may be empty. Figures count from
 * the start of their date in the zone of their security. Bad lines are told with the reason, good ones kept.
 * Throws RangeError where the file has no column of symbols or dates, or none of figures.
 */
export function readReports(grid: Grid, zoneOf: (symbol: string) => string): ReadReports {
  const names = grid.columns.map(plain)
  const at = Object.fromEntries(
    (Object.keys(COLUMNS) as Field[]).map((field) => [
      field,
      names.findIndex((name) => (COLUMNS[field] as readonly string[]).includes(name)),
    ]),
  ) as Record<Field, number>
  for (const field of ['symbol', 'date'] as const)
    if (at[field] < 0)
      throw new RangeError(`The file has no column "${field}". Name one so on its first line.`)
  if ((Object.keys(COLUMNS) as Field[]).slice(2).every((field) => at[field] < 0))
    throw new RangeError(
      'The file has no column of figures. Name some "shares outstanding", "float", "eps", "eps growth" or "next earnings".',
    )
  const out: ReadReports = { reports: new Map(), bad: [], good: 0 }
  for (const { line, cells } of grid.rows) {
    try {
      const cell = (field: Field) => (at[field] < 0 ? '' : (cells[at[field]] ?? '').trim())
      const symbol = cell('symbol').toUpperCase()
      if (symbol === '') throw new RangeError('no symbol')
      const report = reportOf(cell, zoneOf(symbol))
      const list = out.reports.get(symbol) ?? []
      list.push(report)
      out.reports.set(symbol, list)
      out.good++
    } catch (error) {
      out.bad.push({ line, reason: (error as Error).message })
    }
  }
  for (const list of out.reports.values()) list.sort((a, b) => a.known - b.known)
  return out
}

/** "120M", "1.5 k", "14 %", "1,200,000"; NaN for what is no number. */
function figureOf(text: string): number {
  const plain = text.replace(/[\s,]/g, '').replace(/%$/, '')
  const power = { k: 1e3, m: 1e6, b: 1e9 }[plain.slice(-1).toLowerCase()]
  return power ? Number(plain.slice(0, -1) || NaN) * power : Number(plain)
}

function reportOf(cell: (field: Field) => string, zone: string): Report {
  const known = DateTime.fromISO(cell('date'), { zone })
  if (!known.isValid) throw new RangeError(`"${cell('date')}" is not a date; write 2026-03-02`)
  const report: Report = { known: known.toMillis() }
  for (const field of ['sharesOutstanding', 'float', 'eps', 'epsGrowth'] as const) {
    const text = cell(field)
    if (text === '') continue
    const value = figureOf(text)
    if (!Number.isFinite(value)) throw new RangeError(`${COLUMNS[field][0]} "${text}" is not a number`)
    if (value < 0 && (field === 'float' || field === 'sharesOutstanding'))
      throw new RangeError(`${COLUMNS[field][0]} "${text}" is below nought`)
    report[field] = value
  }
  const next = cell('nextEarnings')
  if (next !== '') {
    if (!DateTime.fromISO(next).isValid) throw new RangeError(`next earnings "${next}" is not a date`)
    report.nextEarnings = next.slice(0, 10)
  }
  for (const field of ['confirmed', 'beforeOpen'] as const) {
    const text = cell(field)
    if (text === '') continue
    if (!YES.test(text) && !NO.test(text))
      throw new RangeError(`${COLUMNS[field][0]} "${text}" is neither yes nor no`)
    report[field] = YES.test(text)
  }
  return report
}
