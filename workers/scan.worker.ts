import { type BarSet, openTable } from '@/core/market/barTable'
import { completedOn } from '@/core/market/moments'
import { barSource, type BarSource, type Besides } from '@/core/rules/exec/columns'
import { explain } from '@/core/rules/explain'
import { countBreadth } from '@/core/scan/breadth'
import { hitCounter } from '@/core/scan/history'
import { scanPairs } from '@/core/scan/pairs'
import { scanner, type ScanOptions } from '@/core/scan/scan'
import { problemOf, WorkerFailure } from './problems'
import {
  type About,
  type Job,
  type JobPart,
  type On,
  type ScanAnswer,
  type ScanRequest,
} from './scan.protocol'

/**
 * Works on rows of sets that it was given, away from the page. Rules come as trees, so that it needs no parser: what it
 * imports is loaded once for each worker.
 */

/** Bars under a name, which may still grow by further tables. */
type NamedSet = BarSet & { rowOf: Map<string, number> }

const sets = new Map<string, NamedSet>()
const jobs = new Map<number, (rows: readonly number[]) => JobPart>()
let about: About = { listed: {}, reports: {}, drawings: {} }

function setOf(name: string): NamedSet {
  const set = sets.get(name)
  if (!set) throw new WorkerFailure({ code: 'data_missing', data: name })
  return set
}

function take(name: string, more: readonly BarSet[]): void {
  const set: NamedSet = sets.get(name) ?? { symbols: [], bars: [], rowOf: new Map() }
  for (const { symbols, bars } of more) {
    for (const symbol of symbols) set.rowOf.set(symbol, set.symbols.push(symbol) - 1)
    set.bars.push(...bars)
  }
  sets.set(name, set)
}

/** A set as it stood at the end of a past day. */
const asOf = (set: NamedSet, by: string | undefined): BarSet =>
  by === undefined ? set : { symbols: set.symbols, bars: set.bars.map((bars) => completedOn(bars, by)) }

/** Sources of other securities, made once for a job, so that what stands beside many is computed once. */
function optionsOf(
  { data, others = [] }: On,
  by?: string,
): Required<Pick<ScanOptions, 'others' | 'besides'>> {
  const set = setOf(data)
  const further = others.map(setOf)
  const othersOf = (symbol: string) =>
    further.flatMap(({ rowOf, bars }) => {
      const row = rowOf.get(symbol)
      return row === undefined ? [] : [completedOn(bars[row], by)]
    })
  const known = (symbol: string): Besides => ({
    reports: about.reports[symbol],
    drawings: about.drawings[symbol],
    holdings: about.holdings && (about.holdings[symbol] ?? []),
    currency: about.listed[symbol]?.currency,
    increments: about.listed[symbol]?.increments,
  })
  const made = new Map<string, BarSource | undefined>()
  const sourceOf = (symbol: string) => {
    if (!made.has(symbol)) {
      const row = set.rowOf.get(symbol)
      const bars = row === undefined ? undefined : completedOn(set.bars[row], by)
      made.set(symbol, bars && barSource(bars, othersOf(symbol), known(symbol)))
    }
    return made.get(symbol)
  }
  const besides = (symbol: string): Besides => ({
    ...known(symbol),
    beside: (name) => sourceOf(name === 'index' ? (about.listed[symbol]?.index ?? '') : name),
  })
  return { others: othersOf, besides }
}

/** A job made ready: its rules are compiled, and what it stands on is there. */
function begun(job: Job): (rows: readonly number[]) => JobPart {
  const set = setOf(job.data)
  const every = set.bars[0]?.every ?? { count: 1, unit: 'day' }
  const { by } = job
  switch (job.ask) {
    case 'scan': {
      const { rule, measures, takenAt } = job
      return scanner(set, { rule, measures, every }, { ...optionsOf(job, by), by, takenAt })
    }
    case 'breadth': {
      const { bars } = asOf(set, by)
      return (rows) => countBreadth(rows.map((row) => bars[row]))
    }
    case 'hits':
      return hitCounter(asOf(set, by), job.rule, job.ahead, optionsOf(job, by))
    case 'pairs': {
      const past = asOf(set, by)
      return (rows) => scanPairs(past, rows, job.among, job.length, job.least)
    }
  }
}

function explained({ rule, symbol, by, ...on }: Extract<ScanRequest, { ask: 'explain' }>) {
  const set = setOf(on.data)
  const row = set.rowOf.get(symbol)
  if (row === undefined) return undefined
  const { others, besides } = optionsOf(on, by)
  return explain(rule, barSource(completedOn(set.bars[row], by), others(symbol), besides(symbol)))
}

function handle(request: ScanRequest): unknown {
  switch (request.ask) {
    case 'ready':
      return undefined
    case 'take':
      return take(request.data, request.tables.map(openTable))
    case 'forget':
      return void sets.delete(request.data)
    case 'about':
      return void (about = request.about)
    case 'begin':
      return void jobs.set(request.job, begun(request.what))
    case 'piece': {
      const work = jobs.get(request.job)
      if (!work) throw new WorkerFailure({ code: 'job_unknown', job: request.job })
      return work(request.rows)
    }
    case 'end':
      return void jobs.delete(request.job)
    case 'explain':
      return explained(request)
  }
}

globalThis.onmessage = ({ data }: MessageEvent<ScanRequest>) => {
  const { id } = data
  let answer: ScanAnswer
  try {
    answer = { id, ok: true, value: handle(data) as never }
  } catch (error) {
    answer = { id, ok: false, problem: problemOf(error) }
  }
  postMessage(answer)
}
