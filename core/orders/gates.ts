import { emptyBars } from '../market/bars'
import { type Candidate, CANDIDATE_NAMES, type CandidateName, OF_PLANS } from '../market/candidate'
import { type Timeframe } from '../market/timeframe'
import {
  barAt,
  barSource,
  checkRule,
  explain,
  inParts,
  type Node,
  nodesOf,
  readsOf,
  sayIssue,
  askedOf,
  StepMachine,
  type Verdict,
  verdictOf,
} from '../rules'
import { type Gate } from './gate'
import { type Finding } from './findings'

const DAILY: Timeframe = { count: 1, unit: 'day' }

/** What is wrong with the rule of a gate, in words; undefined where it can be asked of an order. */
export function wrongGate(gate: Pick<Gate, 'rule'>): string | undefined {
  const wrong = wrongPlanGate(gate)
  if (wrong !== undefined) return wrong
  const about = [...nodesOf(checkRule(gate.rule, DAILY).tree!)].find(
    (node) => node.kind === 'name' && PLANS_ONLY.has(node.name),
  )
  return (
    about &&
    'how the market stands, and when a company reports, is for the gates of plans: those of an account ask about the order alone'
  )
}

const PLANS_ONLY: ReadonlySet<string> = new Set(OF_PLANS)

/** The same for a gate of a plan, which may ask how the market stands as well. */
export function wrongPlanGate({ rule }: Pick<Gate, 'rule'>): string | undefined {
  const { tree, issues } = checkRule(rule, DAILY)
  if (issues.length > 0) return sayIssue(issues[0])
  const { sources, symbols } = readsOf([tree!], DAILY)
  const other = [...sources].find((one) => one !== 'candidate' && one !== 'currency')
  return other === undefined && symbols.length === 0
    ? undefined
    : 'a gate asks about the order only: its value, quantity, loss, spread, distance from the market, and how many came before'
}

/** Rules of gates, read and compiled once. */
const compiled = new Map<string, { tree: Node; machine: StepMachine; names: readonly CandidateName[] }>()
const MOST_COMPILED = 500

function compiledRule(rule: string) {
  let there = compiled.get(rule)
  if (there) return there
  const { tree } = checkRule(rule, DAILY)
  const named = new Set([...nodesOf(tree!)].map((node) => (node.kind === 'name' ? node.name : '')))
  const names = ALL_NAMES.filter((name) => named.has(name))
  there = { tree: tree!, machine: StepMachine.of([tree!], DAILY, { zone: 'UTC' }), names }
  if (compiled.size >= MOST_COMPILED) compiled.clear()
  compiled.set(rule, there)
  return there
}

const ALL_NAMES: readonly CandidateName[] = [...CANDIDATE_NAMES, ...OF_PLANS]

/** What a gate asks of an order, and of the market. The rule must have passed the checker. */
export const namesAsked = (rule: string): readonly CandidateName[] => compiledRule(rule).names

/** The one bar at which an order stands: now. */
const NOW = emptyBars(1, DAILY, 'UTC')
/** Of some day: which it is, no gate asks. */
const NOW_BAR = { ...barAt(NOW, 0), time: 0, end: 1 }

/** What gates are asked with, one for each currency: an order after the other. */
const askedBy = new Map<string, ReturnType<typeof askedOf>>()

function askedIn(currency: string, candidate: Candidate): ReturnType<typeof askedOf> {
  let asked = askedBy.get(currency)
  if (!asked) askedBy.set(currency, (asked = askedOf({ currency })))
  asked.candidate = candidate
  return asked
}

/** What a gate comes to for an order, without words. The rule must have passed the checker. */
export function gateVerdict(rule: string, candidate: Candidate, currency: string): Verdict {
  const { machine } = compiledRule(rule)
  machine.know(askedIn(currency, candidate))
  machine.feed(NOW_BAR, false)
  return verdictOf(machine.value(0))
}

/** Why a gate holds or stops an order, in words. The rule must have passed the checker. */
export const gateSentence = (rule: string, candidate: Candidate, currency: string): string =>
  inParts(explain(compiledRule(rule).tree, barSource(NOW, [], { candidate, currency })))

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
