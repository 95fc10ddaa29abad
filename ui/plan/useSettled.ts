import { useDebouncedValue } from '@mantine/hooks'
import { useMemo } from 'react'
import { type Plan } from '@/core/plans/document'
import { bound } from '@/core/plans/inputs'

/** Milliseconds without a change after which a plan is tried: what is typed is not held up at each key. */
const QUIET = 200

/** A plan as it is tried: with its inputs in their places, once nothing has been changed for a moment; another plan at once. */
export function useSettled(plan: Plan): Plan {
  const [settled] = useDebouncedValue(plan, QUIET)
  const tried = settled.id === plan.id ? settled : plan
  return useMemo(() => bound(tried), [tried])
}
