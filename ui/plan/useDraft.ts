import { useCallback, useEffect, useRef, useState } from 'react'
import { type Plan } from '@/core/plans/document'
import { type KeptPlan, sayStorageError } from '@/store/db'
import { keepPlan } from '@/store/plans'
import { tellProblem } from '../shell/tell'

/**
 * A draft as it is written here: what is changed stands at once, before the browser has kept it, so that two changes in quick
 * succession are both there. What another tab has changed is taken over once nothing is being kept.
 */
export function useDraft(row: KeptPlan): { plan: Plan; keep(plan: Plan): void } {
  const [written, setWritten] = useState<Plan>()
  const keeping = useRef({ under: 0, failed: false })
  useEffect(() => {
    const { under, failed } = keeping.current
    if (under > 0 || failed) return
    // What was kept as it was written stays the same, so that nothing is worked out twice.
    setWritten((own) => (own && JSON.stringify(own) === JSON.stringify(row.plan) ? own : undefined))
  }, [row])
  const keep = useCallback((plan: Plan) => {
    const { current } = keeping
    setWritten(plan)
    current.under++
    void keepPlan(plan)
      .then(
        () => (current.failed = false),
        (error: unknown) => {
          // What could not be kept still stands here.
          current.failed = true
          tellProblem(new Error(sayStorageError(error)))
        },
      )
      .finally(() => current.under--)
  }, [])
  return { plan: written ?? row.plan, keep }
}
