import { type Timeframe } from '../core/market/timeframe'
import { checkMeasure, type Checked, checkRule, type Node, sayIssue } from '../core/rules'
import { EXIT, Failure } from './fail'

/** The tree of a measure, or a Failure that shows where in its text the mistake is. */
export const measureTree = (text: string, every: Timeframe): Node => treeOf(text, checkMeasure(text, every))

/** The tree of a rule, likewise. */
export const ruleTree = (text: string, every: Timeframe): Node => treeOf(text, checkRule(text, every))

function treeOf(text: string, checked: Checked): Node {
  if (checked.type) return checked.tree
  const [issue] = checked.issues
  const line = text.replace(/\s/g, ' ')
  const { from, to } = issue.at
  const mark = `${' '.repeat(from)}${'^'.repeat(Math.max(1, to - from))}`
  throw new Failure(`${sayIssue(issue)}\n  ${line}\n  ${mark}`, EXIT.usage)
}
