import { parseTimeframe } from '../market/timeframe'
import { partsOf } from '../orders/exits'
import { wrongGate } from '../orders/gates'
import { checkRule, type Node, readsOf, sayIssue } from '../rules'
import { type Plan, type Side } from './document'

/** What is wrong with a plan, or should be known of it, and in which clause. */
export interface PlanIssue {
  /** Clause and its side, from 0; When and Never are of both. */
  clause: 'When' | 'Among' | 'If' | 'Provided' | 'Do' | 'Then' | 'Never'
  side?: number
  /** An error keeps it from being armed. */
  is: 'error' | 'warning'
  /** In words, with the mend. */
  text: string
}

/** The tree of a side's condition. Throws RangeError for one that does not check. */
export function conditionOf({ if: { rule, every } }: Side): Node {
  const checked = checkRule(rule, parseTimeframe(every)!)
  if (checked.issues.length > 0 || !checked.tree) throw new RangeError(sayIssue(checked.issues[0]))
  return checked.tree
}

/** Everything that a plan's own text tells of it, before any market is asked. */
export function planIssues(plan: Plan): PlanIssue[] {
  return [...plan.sides.flatMap((side, at) => sideIssues(side, at)), ...neverIssues(plan)]
}

function sideIssues(side: Side, at: number): PlanIssue[] {
  const out: PlanIssue[] = []
  const say = (clause: PlanIssue['clause'], text: string, is: PlanIssue['is'] = 'error') =>
    out.push({ clause, side: at, is, text })
  const every = parseTimeframe(side.if.every)!
  const { tree, issues } = checkRule(side.if.rule, every)
  for (const issue of issues) say('If', sayIssue(issue))
  if (tree && issues.length === 0) {
    const { sources, finer, symbols } = readsOf([tree], every)
    const strange = [...sources].find((one) => one !== 'bars' && one !== 'increment' && one !== 'currency')
    if (strange) say('If', `the condition asks about ${strange}, which a plan cannot follow yet`)
    if (symbols.length > 0)
      say('If', 'the condition asks about other securities, which a plan cannot follow yet')
    if (finer.length > 0) say('If', 'the condition asks about finer bars than its own; name those of If')
  }
  for (const gate of side.provided) {
    const wrong = wrongGate(gate)
    if (wrong) say('Provided', `${gate.name}: ${wrong}`)
  }
  const exits = side.then.exits ? partsOf(side.then.exits) : []
  const stopped = exits.length > 0 && exits.every(({ stop }) => stop)
  if ('risk' in side.do.size && !stopped)
    say(
      'Do',
      'it is sized by what is lost at the stop, and Then has none for all of it; give a stop or another size',
    )
  if (exits.length === 0 && !side.then.outAt)
    say('Then', 'there is no way out at all: what is bought stays until a hand sells it', 'warning')
  else if (!stopped)
    say('Then', 'nothing bounds the loss between entry and exit: there is no stop', 'warning')
  return out
}

function neverIssues({ never }: Plan): PlanIssue[] {
  if (never.entriesPerDay !== undefined || never.exposure !== undefined) return []
  return [
    {
      ...{ clause: 'Never', is: 'warning' },
      text: 'nothing bounds how much it may order in a day: give entries a day, or an exposure',
    },
  ]
}
