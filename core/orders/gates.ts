import { emptyBars } from '../market/bars'
import { type Candidate } from '../market/candidate'
import { type Timeframe } from '../market/timeframe'
import {
  barSource,
  checkRule,
  ColumnMachine,
  compile,
  explain,
  type Node,
  readsOf,
  sayIssue,
  type Verdict,
  verdictOf,
} from '../rules'
import { type Gate } from './gate'
import { type Finding } from './findings'

const DAILY: Timeframe = { count: 1, unit: 'day' }

/** What is wrong with the rule of a gate, in words; undefined where it can be asked of an order. */
export function wrongGate({ rule }: Pick<Gate, 'rule'>): string | undefined {
  const { tree, issues } = checkRule(rule, DAILY)
  if (issues.length > 0) return sayIssue(issues[0])
  const { sources, symbols } = readsOf([tree!], DAILY)
  const other = [...sources].find((one) => one !== 'candidate' && one !== 'currency')
  return other === undefined && symbols.length === 0
    ? undefined
    : 'a gate asks about the order only: its value, quantity, loss, spread, distance from the market, and how many came before'
}

/** Rules of gates, read and compiled once. */
const compiled = new Map<string, { tree: Node; machine: ColumnMachine; result: number }>()
const MOST_COMPILED = 500

function compiledRule(rule: string) {
  let there = compiled.get(rule)
  if (there) return there
  const { tree } = checkRule(rule, DAILY)
  const graph = compile([tree!], DAILY)
  there = { tree: tree!, machine: new ColumnMachine(graph), result: graph.results[0] }
  if (compiled.size >= MOST_COMPILED) compiled.clear()
  compiled.set(rule, there)
  return there
}

/** The one bar at which an order stands: now. */
const NOW = emptyBars(1, DAILY, 'UTC')

/** What a gate comes to for an order, without words. The rule must have passed the checker. */
export function gateVerdict(rule: string, candidate: Candidate, currency: string): Verdict {
  const { machine, result } = compiledRule(rule)
  machine.run(barSource(NOW, [], { candidate, currency }))
  return verdictOf(machine.verdicts[result][0])
}

/** Why a gate holds or stops an order, in words. The rule must have passed the checker. */
export const gateSentence = (rule: string, candidate: Candidate, currency: string): string =>
  explain(compiledRule(rule).tree, barSource(NOW, [], { candidate, currency })).sentence

/** What each gate finds of an order. One whose rule is unknown does not let it pass. */
export function gateFindings(gates: readonly Gate[], candidate: Candidate, currency: string): Finding[] {
  return gates.map(({ name, rule, otherwise }) => {
    const verdict = gateVerdict(rule, candidate, currency)
    const sentence = gateSentence(rule, candidate, currency)
    const common = { code: 'gate' as const, gate: name, rule, sentence }
    if (verdict === 'holds') return { ...common, why: 'passes', verdict: 'holds' }
    return otherwise === 'AskFirst'
      ? { ...common, why: 'asks first', verdict: 'holds' }
      : { ...common, why: 'stops', verdict: 'fails' }
  })
}
