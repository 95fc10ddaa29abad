import { type Plan } from '@/core/plans/document'
import { conflictsOf } from '@/core/plans/conflicts'
import { type RunHere } from './runHere'

/** A plan that is armed, and what it has looked at besides what it names. */
export interface Armed {
  plan: Plan
  looksAt: readonly string[]
}

const lookedAt = ({ funnel }: Pick<RunHere, 'funnel'>): string[] => [
  ...new Set(Object.values(funnel).map(({ symbol }) => symbol)),
]

/** What is armed in this page. */
export const armedHere = (runs: readonly RunHere[]): Armed[] =>
  runs.filter(({ acts }) => acts).map((run) => ({ plan: run.plan, looksAt: lookedAt(run) }))

/** What is armed in other tabs: they tell what it names alone. */
export const armedInTabs = (
  begun: readonly { plan: Plan; acts: boolean }[],
  here: Readonly<Record<string, unknown>>,
): Armed[] => begun.flatMap(({ plan, acts }) => (acts && !here[plan.id] ? [{ plan, looksAt: [] }] : []))

/** What the command line has armed on this machine, in the same account of the same world. */
export const armedThere = (
  runs: readonly (Pick<RunHere, 'funnel' | 'acts'> & {
    lives: boolean
    plan?: Plan
    worldId?: string
    account?: string
  })[],
  known: { worldId: string; account: string },
): Armed[] =>
  runs.flatMap((run) =>
    run.lives && run.acts && run.plan && run.worldId === known.worldId && run.account === known.account
      ? [{ plan: run.plan, looksAt: lookedAt(run) }]
      : [],
  )

/** Why a plan may not be armed beside others, in sentences. */
export function conflictsWith(plan: Plan, looksAt: readonly string[], others: readonly Armed[]): string[] {
  return others
    .filter((other) => other.plan.id !== plan.id)
    .flatMap((other) => {
      const both = conflictsOf(plan, looksAt, other.plan, other.looksAt)
      return both.length === 0
        ? []
        : [
            `${other.plan.name} is armed and opens the other way in ${both.join(', ')}. Stop it first, or take them out of Among.`,
          ]
    })
}
