import { sayClause } from './say'
import { type ClauseFinding, deciding, type Trace } from './verdicts'

const CLAUSES: readonly ClauseFinding['clause'][] = ['When', 'Among', 'If', 'Provided', 'Do', 'Then', 'Never']

/** How far one security came today, at best: clauses that it passed, and what stopped it then. */
export interface Reached {
  symbol: string
  /** Of CLAUSES; one more where it was ordered. */
  passed: number
  why: string
}

/** How far each security came, by side and security. */
export type Funnel = Readonly<Record<string, Reached>>

/** One clause of a funnel: how many passed it, and those that it stopped. */
export interface FunnelStep {
  clause: ClauseFinding['clause']
  passed: number
  stopped: readonly Reached[]
}

/** A funnel after one more evaluation: the furthest that a security came counts. */
export function withTrace(funnel: Funnel, { side, symbol, findings, clOrdId }: Trace): Funnel {
  const decides = deciding(findings)
  // What holds and begins at another moment has passed everything but the moment.
  const passed =
    clOrdId === undefined
      ? decides
        ? CLAUSES.indexOf(decides.clause)
        : CLAUSES.indexOf('If')
      : CLAUSES.length
  const key = `${side} ${symbol}`
  const before = funnel[key]
  if (before && before.passed > passed) return funnel
  const why = clOrdId !== undefined ? 'ordered' : decides ? sayClause(decides) : 'it began at another moment'
  if (before?.passed === passed && before.why === why) return funnel
  return { ...funnel, [key]: { symbol, passed, why } }
}

/** How many came through each clause, in their order; `looked` is how many there are to begin with. */
export function stepsOf(funnel: Funnel): { looked: number; steps: FunnelStep[]; ordered: number } {
  const all = Object.values(funnel)
  return {
    looked: all.length,
    steps: CLAUSES.map((clause, at) => ({
      clause,
      passed: all.filter(({ passed }) => passed > at).length,
      stopped: all.filter(({ passed }) => passed === at),
    })),
    ordered: all.filter(({ passed }) => passed === CLAUSES.length).length,
  }
}
