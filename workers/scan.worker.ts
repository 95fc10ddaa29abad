import { type BarSet, openTable } from '@/core/market/barTable'
import { completedOn } from '@/core/market/moments'
import { barSource, type Besides, type Checked, checkMeasure, checkRule, explain } from '@/core/rules'
import { type Node, sayIssue } from '@/core/rules'
import { countBreadth } from '@/core/scan/breadth'
import { countHits } from '@/core/scan/history'
import { scanPairs } from '@/core/scan/pairs'
import { scan, type ScanOptions } from '@/core/scan/scan'
import {
  type About,
  type Job,
  type JobPart,
  type On,
  type ScanAnswer,
  type ScanRequest,
} from './scan.protocol'

/** Works on rows of tables that it was given, away from the page. */

type Kept = BarSet & { rowOf: Map<string, number> }

const sets = new Map<string, Kept>()
let about: About = { indexOf: {}, reports: {}, drawings: {} }

function setOf(name: string): Kept {
  const set = sets.get(name)
  if (!set) throw new Error(`The data set ${name} was not loaded`)
  return set
}

let past: { set: Kept; by: string; cut: BarSet } | undefined

/** A set as it stood at a past moment; the last one is kept, since the pieces of a job ask for the same. */
function asOf(name: string, by: string | undefined): BarSet {
  const set = setOf(name)
  if (by === undefined) return set
  if (past?.set !== set || past.by !== by)
    past = { set, by, cut: { symbols: set.symbols, bars: set.bars.map((bars) => completedOn(bars, by)) } }
  return past.cut
}

/** The tree of a text that was checked on the page already; says what is wrong all the same. */
function treeOf(checked: Checked): Node {
  if (!checked.type) throw new RangeError(checked.issues.map(sayIssue).join(' '))
  return checked.tree
}

/** Sources of other securities, made once for a job, so that what stands beside many is computed once. */
function optionsOf({ data, beside }: On, by?: string): Required<Pick<ScanOptions, 'others' | 'besides'>> {
  const set = setOf(data)
  const longer = beside === undefined ? undefined : setOf(beside)
  const others = (symbol: string) => {
    const row = longer?.rowOf.get(symbol)
    return row === undefined ? [] : [longer!.bars[row]]
  }
  const made = new Map<string, ReturnType<typeof barSource> | undefined>()
  const sourceOf = (symbol: string) => {
    if (!made.has(symbol)) {
      const row = set.rowOf.get(symbol)
      const bars = row === undefined ? undefined : set.bars[row]
      made.set(
        symbol,
        bars &&
          barSource(completedOn(bars, by), others(symbol), {
            reports: about.reports[symbol],
            drawings: about.drawings[symbol],
          }),
      )
    }
    return made.get(symbol)
  }
  const besides = (symbol: string): Besides => ({
    reports: about.reports[symbol],
    drawings: about.drawings[symbol],
    beside: (name) => sourceOf(name === 'index' ? (about.indexOf[symbol] ?? '') : name),
  })
  return { others, besides }
}

function work(job: Job, rows: number[]): JobPart {
  const set = setOf(job.data)
  const every = set.bars[0]?.every ?? { count: 1, unit: 'day' }
  switch (job.ask) {
    case 'scan': {
      const rule = treeOf(checkRule(job.rule, every))
      const measures = job.measures.map((text) => treeOf(checkMeasure(text, every)))
      const options = { ...optionsOf(job, job.by), rows, by: job.by, takenAt: job.takenAt }
      return scan(set, { rule, measures, every }, options)
    }
    case 'breadth':
      return countBreadth(rows.map((row) => completedOn(set.bars[row], job.by)))
    case 'hits':
      return countHits(asOf(job.data, job.by), treeOf(checkRule(job.rule, every)), job.ahead, {
        ...optionsOf(job, job.by),
        rows,
      })
    case 'pairs':
      return scanPairs(asOf(job.data, job.by), rows, job.among, job.length, job.least)
  }
}

function handle(request: ScanRequest): ScanAnswer {
  const { id } = request
  switch (request.ask) {
    case 'take': {
      const set = openTable(request.table)
      const rowOf = new Map(set.symbols.map((symbol, i) => [symbol, i]))
      sets.set(request.data, { ...set, rowOf })
      return { id, ok: true, value: undefined }
    }
    case 'forget':
      sets.delete(request.data)
      return { id, ok: true, value: undefined }
    case 'about':
      about = request.about
      return { id, ok: true, value: undefined }
    case 'work':
      return { id, ok: true, value: work(request.job, request.rows) }
    case 'explain': {
      const set = setOf(request.data)
      const row = set.rowOf.get(request.symbol)
      if (row === undefined) return { id, ok: true, value: undefined }
      const bars = completedOn(set.bars[row], request.by)
      const { others, besides } = optionsOf(request, request.by)
      const source = barSource(bars, others(request.symbol), besides(request.symbol))
      return { id, ok: true, value: explain(treeOf(checkRule(request.rule, bars.every)), source) }
    }
  }
}

onmessage = (event: MessageEvent<ScanRequest>) => {
  let answer: ScanAnswer
  try {
    answer = handle(event.data)
  } catch (error) {
    answer = { id: event.data.id, ok: false, problem: (error as Error).message }
  }
  postMessage(answer)
}
