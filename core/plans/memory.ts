import * as z from 'zod'
import { Plan } from './document'
import { Seen } from './seen'
import { DayView } from './view'

const MEMORY_FORM = 'fleet-heron-plan-memory'

/**
 * A plan with all that it remembers, as one file: it goes on with it in another place. What it has ordered and holds, and how many
 * entries it has had, is the broker's to tell, wherever it runs.
 */
export const PlanMemory = z.strictObject({
  form: z.literal(MEMORY_FORM),
  formVersion: z.literal(1),
  plan: Plan,
  /** Of the world that it is of: in another it is not taken over. */
  worldId: z.string().max(100),
  seen: z.record(z.string().max(200), Seen),
  /** Market moment since which its lists of events count, epoch milliseconds. */
  since: z.number().optional(),
  view: DayView.optional(),
})
export type PlanMemory = z.infer<typeof PlanMemory>

export const memoryOf = (part: Omit<PlanMemory, 'form' | 'formVersion'>): PlanMemory => ({
  ...{ form: MEMORY_FORM, formVersion: 1 },
  ...part,
})

/** What a file holds: a plan alone, or with its memory; else what is wrong with it, each at its place. */
export function readPlanFile(json: unknown): { plan: Plan; memory?: PlanMemory } | { wrong: string[] } {
  const withMemory = typeof json === 'object' && json !== null && 'form' in json && json.form === MEMORY_FORM
  const read = withMemory ? PlanMemory.safeParse(json) : Plan.safeParse(json)
  if (!read.success)
    return {
      wrong: read.error.issues
        .slice(0, 10)
        .map((one) => `${one.path.join('.') || '(whole)'}: ${one.message}`),
    }
  return 'plan' in read.data ? { plan: read.data.plan, memory: read.data } : { plan: read.data }
}
