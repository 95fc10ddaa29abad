import { type Plan } from '@/core/plans/document'
import { conflictsOf } from '@/core/plans/conflicts'
import { type RunHere } from './runHere'

/** Why a plan may not be armed beside those that are armed here, in sentences. */
export function conflictsWith(plan: Plan, looksAt: readonly string[], runs: readonly RunHere[]): string[] {
  return runs
    .filter((run) => run.acts && run.plan.id !== plan.id)
    .flatMap((run) => {
      const theirs = [...new Set(Object.values(run.funnel).map(({ symbol }) => symbol))]
      const both = conflictsOf(plan, looksAt, run.plan, theirs)
      return both.length === 0
        ? []
        : [
            `${run.plan.name} is armed and opens the other way in ${both.join(', ')}. Stop it first, or take them out of Among.`,
          ]
    })
}
