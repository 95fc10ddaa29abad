'use client'
import { type BarSource } from '@/core/rules'
import { VerdictMark } from '../shell/VerdictMark'
import { useLiveRule } from './useLiveRule'

/** Whether the rule holds right now, with every tick of the bar that still grows. Nothing where it cannot be said. */
export function LiveVerdict({ symbol, source, rule }: { symbol: string; source: BarSource; rule: string }) {
  const verdict = useLiveRule(symbol, source, rule)
  if (!verdict) return null
  return (
    <span data-testid="live verdict" title="With every trade, in the bar that still grows">
      <VerdictMark verdict={verdict} worded /> {verdict} now
    </span>
  )
}
