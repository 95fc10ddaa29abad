'use client'
import { useMemo } from 'react'
import { barAt, type BarSource, checkRule, StepMachine, verdictOf } from '@/core/rules'
import { useQuote } from '../link/LinkProvider'
import { VerdictMark } from '../shell/VerdictMark'

/** The rule followed over the bars that are complete, ready for the ticks of the one that grows. */
function followed(source: BarSource, rule: string) {
  const { base, drawings, reports } = source
  const checked = checkRule(rule, base.every)
  const last = base.time.length - 1
  if (!checked.type || last < 0 || base.end[last] !== Infinity) return undefined
  try {
    const live = StepMachine.of([checked.tree], base.every, { zone: base.zone, drawings, reports })
    // Others beside it are not followed here.
    if (live.besides.length > 0) return undefined
    for (let i = 0; i < last; i++) live.feed(barAt(base, i), true)
    return { live, growing: barAt(base, last) }
  } catch (error) {
    // What cannot be followed tick by tick is still told at each bar.
    if (error instanceof RangeError) return undefined
    throw error
  }
}

/** Whether the rule holds right now, with every tick of the bar that still grows. Nothing where it cannot be said. */
export function LiveVerdict({ symbol, source, rule }: { symbol: string; source: BarSource; rule: string }) {
  const quote = useQuote(symbol)
  const ready = useMemo(() => followed(source, rule), [source, rule])
  if (!ready || !quote) return null
  const { live, growing } = ready
  const { last } = quote
  const high = Math.max(growing.high, last)
  const low = Math.min(growing.low, last)
  live.feed({ ...growing, close: last, high, low }, false)
  const verdict = verdictOf(live.value(0))
  return (
    <span data-testid="live verdict" title="With the last trade, in the bar that still grows">
      <VerdictMark verdict={verdict} worded /> {verdict} now
    </span>
  )
}
