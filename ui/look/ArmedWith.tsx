'use client'
import Link from 'next/link'
import { type Drawing } from '@/core/market/drawings'
import { differences, differenceText } from '@/core/plans/difference'
import { type Plan } from '@/core/plans/document'
import { withDrawings } from '@/core/plans/drawn'
import { useElsewhere } from '../plan/runnerHere'
import { useRuns } from '../services/plans'

/** What has moved here since a plan that runs was begun with it. */
function movedSince(plan: Plan, symbol: string, drawings: readonly Drawing[]): string[] {
  if (!plan.drawings?.[symbol]) return []
  const now = withDrawings(plan, { ...plan.drawings, [symbol]: drawings })
  return differences(plan, now).flatMap((one) => (one.clause === 'Drawn' ? [differenceText(one)] : []))
}

/** Plans that run with a line as it stood before it was moved: they go on so, and it is asked whether to begin them again. */
export function ArmedWith({ symbol, drawings }: { symbol: string; drawings: readonly Drawing[] }) {
  const runs = useRuns((s) => s.runs)
  const { data: elsewhere = [] } = useElsewhere()
  const known = [
    ...Object.values(runs).map(({ plan }) => plan),
    ...elsewhere.flatMap(({ plan, lives }) => (plan && lives ? [plan] : [])),
  ]
  return known.map((plan) => {
    const moved = movedSince(plan, symbol, drawings)
    return moved.length === 0 ? null : (
      <p key={plan.id} role="status" className="warning">
        {plan.name} goes on with what stood here when it was begun. {moved.join(' ')}{' '}
        <Link href={`/plan?plan=${plan.id}`}>Begin it again with what stands here?</Link>
      </p>
    )
  })
}
