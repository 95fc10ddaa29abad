import { useMemo } from 'react'
import { type BarSource, checkRule } from '@/core/rules'
import { type RuleColumn, ruleColumn } from '@/core/scan/hits'

/** A rule over the bars of a security; undefined where there is none, or it is not sound. */
export function useRuleColumn(rule: string, source: BarSource | undefined): RuleColumn | undefined {
  return useMemo(() => {
    if (!source || rule.trim() === '') return undefined
    const checked = checkRule(rule, source.base.every)
    return checked.type ? ruleColumn(checked.tree, source) : undefined
  }, [rule, source])
}
