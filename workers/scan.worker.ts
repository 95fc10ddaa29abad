import { type BarSet, decodeBars } from '@/core/formats/barsBinary'
import { barSource, checkMeasure, checkRule, explain, sayIssue, type Checked, type Node } from '@/core/rules'
import { type Bars } from '@/core/market/bars'
import { breadth } from '@/core/scan/breadth'
import { scan } from '@/core/scan/scan'
import { type ScanAnswer, type ScanRequest } from './scan.protocol'

/** Holds the data sets and runs scans over them, away from the page. */

const sets = new Map<
  string,
  Pick<BarSet, 'symbols' | 'bars'> & { rows: Map<string, number>; takenAt?: number }
>()

const answer = (message: ScanAnswer) => postMessage(message)

function keep(name: string, set: Pick<BarSet, 'symbols' | 'bars'>, takenAt?: number): void {
  sets.set(name, {
    takenAt,
    symbols: set.symbols,
    bars: set.bars,
    rows: new Map(set.symbols.map((symbol, i) => [symbol, i])),
  })
}

function setOf(name: string) {
  const set = sets.get(name)
  if (!set) throw new Error(`The data set ${name} was not loaded`)
  return set
}

/** The tree of a text that was checked on the page already; says what is wrong all the same. */
function treeOf(checked: Checked): Node {
  if (!checked.type) throw new RangeError(checked.issues.map(sayIssue).join(' '))
  return checked.tree
}

function othersIn(name: string | undefined): ((symbol: string) => readonly Bars[]) | undefined {
  if (name === undefined) return undefined
  const set = setOf(name)
  return (symbol) => {
    const row = set.rows.get(symbol)
    return row === undefined ? [] : [set.bars[row]]
  }
}

function handle(request: ScanRequest): void {
  const { id } = request
  switch (request.ask) {
    case 'load': {
      const set = decodeBars(request.buffer)
      keep(request.data, set, Date.parse(set.asOf) || undefined)
      answer({ id, ok: true, answer: 'loaded', value: { securities: set.symbols.length, asOf: set.asOf } })
      return
    }
    case 'loadOwn':
      keep(request.data, request.set)
      answer({ id, ok: true, answer: 'loaded', value: { securities: request.set.symbols.length, asOf: '' } })
      return
    case 'scan': {
      const set = setOf(request.data)
      const every = set.bars[0]?.every ?? { count: 1, unit: 'day' }
      const rule = treeOf(checkRule(request.rule, every))
      const measures = request.measures.map((text) => treeOf(checkMeasure(text, every)))
      const progress = (done: number) => {
        answer({ id, ok: true, answer: 'progress', done, of: set.symbols.length })
        return true
      }
      const value = scan(
        set,
        { rule, measures, every },
        {
          among: request.among && new Set(request.among),
          others: othersIn(request.beside),
          progress,
          takenAt: set.takenAt,
        },
      )
      answer({ id, ok: true, answer: 'scanned', value: value! })
      return
    }
    case 'breadth': {
      const set = setOf(request.data)
      const among = request.among && new Set(request.among)
      const bars = set.bars.filter((_, i) => !among || among.has(set.symbols[i]))
      answer({ id, ok: true, answer: 'breadth', value: breadth(bars) })
      return
    }
    case 'explain': {
      const set = setOf(request.data)
      const row = set.rows.get(request.symbol)
      const bars = row === undefined ? undefined : set.bars[row]
      const value =
        bars &&
        explain(
          treeOf(checkRule(request.rule, bars.every)),
          barSource(bars, othersIn(request.beside)?.(request.symbol)),
        )
      answer({ id, ok: true, answer: 'explained', value })
    }
  }
}

onmessage = (event: MessageEvent<ScanRequest>) => {
  try {
    handle(event.data)
  } catch (error) {
    answer({ id: event.data.id, ok: false, problem: (error as Error).message })
  }
}
