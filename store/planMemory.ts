import { type Plan } from '@/core/plans/document'
import { memoryOf, type PlanMemory } from '@/core/plans/memory'
import { db } from './db'
import { seenBook, sinceName } from './plans'

async function sinceOf(plan: string, worldId: string): Promise<number | undefined> {
  const { value } = (await db.settings.get(sinceName(plan, worldId))) ?? {}
  return typeof value === 'number' ? value : undefined
}

/** Whether a plan has been armed in this browser, so that there is something that it remembers. */
export const hasBegun = async (plan: string): Promise<boolean> =>
  (await db.settings.where('name').startsWith(sinceName(plan)).count()) > 0

/** A plan with what this browser keeps of it. */
export async function memoryFrom(plan: Plan, worldId: string): Promise<PlanMemory> {
  const [seen, since] = await Promise.all([seenBook(plan.id, worldId), sinceOf(plan.id, worldId)])
  return memoryOf({ plan, worldId, seen, ...(since === undefined ? {} : { since }) })
}

/** Takes a plan over with what it remembers. Throws Error where that is of another world, or one of its id is here already. */
export async function takeMemory({ plan, worldId, seen, since }: PlanMemory, here: string): Promise<void> {
  if (worldId !== here)
    throw new Error(
      'What it remembers is of another world. Take its plan alone from the file, or connect to that world.',
    )
  await db.transaction('rw', db.plans, db.planVersions, db.seen, db.settings, async () => {
    if (await db.plans.get(plan.id))
      throw new Error(
        `There is a plan “${plan.id}” here already. Throw it away first, or keep a duplicate of it.`,
      )
    const changedAt = Date.now()
    await db.plans.put({ id: plan.id, plan, changedAt })
    await db.planVersions.put({ id: plan.id, version: plan.version, plan, madeAt: changedAt })
    await putMemory({ plan, worldId, seen, since })
  })
}

/** Takes over what a plan remembers that runs under the same id here from now on. */
export const addMemory = (memory: PlanMemory): Promise<void> =>
  db.transaction('rw', db.seen, db.settings, () => putMemory(memory))

async function putMemory({
  plan,
  worldId,
  seen,
  since,
}: Pick<PlanMemory, 'plan' | 'worldId' | 'seen' | 'since'>): Promise<void> {
  await db.seen.bulkPut(
    Object.entries(seen).map(([key, entry]) => ({ plan: plan.id, key, world: worldId, ...entry })),
  )
  if (since !== undefined) await db.settings.put({ name: sinceName(plan.id, worldId), value: since })
}
