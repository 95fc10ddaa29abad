import { useQuery } from '@tanstack/react-query'
import { type Funnel } from '@/core/engine/funnel'
import { type Plan } from '@/core/plans/document'
import { PlanMemory } from '@/core/plans/memory'
import { type LookedAt } from '../services/looks'
import { type Said } from '../services/planSays'

/** A plan that the command line runs, or has run, on this machine. */
export interface ElsewhereRun {
  id: string
  version: number
  acts: boolean
  lives: boolean
  /** Last sign of life, and the state that it told. */
  wall?: string
  state?: string
  /** The version that runs, and in which account of which world. */
  plan?: Plan
  worldId?: string
  account?: string
  funnel: Funnel
  looks: readonly LookedAt[]
  /** What it holds, by security, as it last said. */
  held: Readonly<Record<string, number>>
  /** Newest first. */
  said: readonly Said[]
}

/** Ends a plan that the command line runs on this machine; gives what it remembers. Throws Error where it does not end. */
export async function endElsewhere(id: string): Promise<PlanMemory | undefined> {
  const answer = await fetch('/api/runner', {
    method: 'POST',
    headers: { 'x-fleet-heron': 'page', 'content-type': 'application/json' },
    body: JSON.stringify({ stop: id }),
  })
  const told = (await answer.json()) as unknown
  if (!answer.ok) throw new Error((told as { detail?: string }).detail ?? 'It could not be ended.')
  return PlanMemory.safeParse(told).data
}

/** What the command line runs on this machine; nothing where the application is not served from it. */
export const useElsewhere = (every = 3_000) =>
  useQuery({
    queryKey: ['runner on this machine'],
    queryFn: async () => {
      const answer = await fetch('/api/runner', { headers: { 'x-fleet-heron': 'page' } })
      return answer.ok ? ((await answer.json()) as ElsewhereRun[]) : []
    },
    refetchInterval: every,
  })
