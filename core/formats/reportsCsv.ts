import { DateTime } from 'luxon'
import { type Report } from '../market/figures'
import { type Grid } from './csv'
import { type BadLine, FileFailure, type LineProblem } from './problems'

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

/** Columns of which one at least must be there. */
const FIGURES = ['sharesOutstanding', 'float', 'eps', 'epsGrowth', 'nextEarnings'] as const

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
 * Throws FileFailure where the file has no column of symbols or dates, or none of figures.
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
    if (at[field] < 0) throw new FileFailure({ code: 'columns_missing', columns: [field] })
  if (FIGURES.every((field) => at[field] < 0))
    throw new FileFailure({ code: 'no_figures', columns: FIGURES.map((field) => COLUMNS[field][0]) })
  const out: ReadReports = { reports: new Map(), bad: [], good: 0 }
  for (const { line, cells } of grid.rows) {
    const cell = (field: Field) => (at[field] < 0 ? '' : (cells[at[field]] ?? '').trim())
    const symbol = cell('symbol').toUpperCase()
    const report: Report | LineProblem =
      symbol === '' ? { code: 'empty', field: 'symbol' } : reportOf(cell, zoneOf(symbol))
    if ('code' in report) {
      out.bad.push({ line, problem: report })
      continue
    }
    const list = out.reports.get(symbol) ?? []
    list.push(report)
    out.reports.set(symbol, list)
    out.good++
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

function reportOf(cell: (field: Field) => string, zone: string): Report | LineProblem {
  const known = DateTime.fromISO(cell('date'), { zone })
  if (!known.isValid) return { code: 'no_date', text: cell('date'), timed: false }
  const report: Report = { known: known.toMillis() }
  for (const field of ['sharesOutstanding', 'float', 'eps', 'epsGrowth'] as const) {
    const text = cell(field)
    if (text === '') continue
    const value = figureOf(text)
    if (!Number.isFinite(value)) return { code: 'no_number', field: COLUMNS[field][0], text }
    if (value < 0 && (field === 'float' || field === 'sharesOutstanding'))
      return { code: 'below_nought', field: COLUMNS[field][0], value: text }
    report[field] = value
  }
  const next = cell('nextEarnings')
  if (next !== '') {
    if (!DateTime.fromISO(next).isValid)
      return { code: 'no_date', field: COLUMNS.nextEarnings[0], text: next, timed: false }
    report.nextEarnings = next.slice(0, 10)
  }
  for (const field of ['confirmed', 'beforeOpen'] as const) {
    const text = cell(field)
    if (text === '') continue
    if (!YES.test(text) && !NO.test(text))
      return { code: 'neither_yes_nor_no', field: COLUMNS[field][0], text }
    report[field] = YES.test(text)
  }
  return report
}
