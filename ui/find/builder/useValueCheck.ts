import { createContext, useContext } from 'react'
import { type Timeframe } from '@/core/market/timeframe'
import { type Checked, checkMeasure, checkRule, type Names, parse } from '@/core/rules'

/** The bars and the names that a rule is written for. */
export const RuleWorld = createContext<{ every: Timeframe; names: Names }>({
  every: { count: 1, unit: 'day' },
  names: {},
})

/** Stands before a list of values, which is none by itself. */
const BEFORE = 'close > '

/** Checks one side of a comparison as what it is: a yes/no, a number, or several to be compared with at once. */
export function checkValue(text: string, condition: boolean, every: Timeframe, names: Names): Checked {
  if (condition) return checkRule(text, every, names)
  if (parse(text).tree?.kind !== 'fan') return checkMeasure(text, every, names)
  const checked: Checked = checkRule(BEFORE + text, every, names)
  if (checked.type) return checked
  const by = BEFORE.length
  const issues = checked.issues.map((issue) => ({
    ...issue,
    at: { from: Math.max(0, issue.at.from - by), to: Math.max(0, issue.at.to - by) },
  }))
  return { tree: checked.tree, issues }
}

/** `checkValue` for the rule that is being put together. */
export function useValueCheck(condition: boolean): (text: string) => Checked {
  const { every, names } = useContext(RuleWorld)
  return (text) => checkValue(text, condition, every, names)
}
