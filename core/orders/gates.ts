import { emptyBars } from '../market/bars'
import { type Candidate } from '../market/candidate'
import { type Timeframe } from '../market/timeframe'
import { barSource, checkRule, explain, readsOf, sayIssue } from '../rules'
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

/** What each gate finds of an order. One whose rule is unknown does not let it pass. */
export function gateFindings(gates: readonly Gate[], candidate: Candidate, currency: string): Finding[] {
  return gates.map(({ name, rule, otherwise }) => {
    const { tree } = checkRule(rule, DAILY)
    const one = emptyBars(1, DAILY, 'UTC')
    const { verdict, sentence } = explain(tree!, barSource(one, [], { candidate, currency }))
    const common = { code: 'gate' as const, gate: name, rule, sentence }
    if (verdict === 'holds') return { ...common, why: 'passes', verdict: 'holds' }
    return otherwise === 'AskFirst'
      ? { ...common, why: 'asks first', verdict: 'holds' }
      : { ...common, why: 'stops', verdict: 'fails' }
  })
}
