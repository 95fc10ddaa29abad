import { type Plan } from '@/core/plans/document'
import { type Seen } from '@/core/plans/seen'
import { db } from './db'

/** What two plans say, whatever their versions. */
const said = ({ version: _version, ...plan }: Plan): string => JSON.stringify(plan)

/** Keeps a draft in place of the one before. */
export const keepPlan = (plan: Plan): Promise<unknown> =>
  db.plans.put({ id: plan.id, plan, changedAt: Date.now() })

/**
 * The version of a draft that is armed or watched now: the last one where it says the same, else one more, which is kept for good.
 * What two tabs do at the same time is done one after the other.
 */
export const versionFor = (draft: Plan): Promise<Plan> =>
  db.transaction('rw', db.plans, db.planVersions, async () => {
    const versions = await db.planVersions.where('id').equals(draft.id).sortBy('version')
    const last = versions.at(-1)
    if (last && said(last.plan) === said(draft)) return last.plan
    const plan = { ...draft, version: (last?.version ?? 0) + 1 }
    await db.planVersions.put({ id: plan.id, version: plan.version, plan, madeAt: Date.now() })
    await db.plans.put({ id: plan.id, plan, changedAt: Date.now() })
    return plan
  })

/** The version of a plan with something of it changed while it runs; what the trader has written of the draft since stays as it is. */
export const versionWith = async (changed: Plan): Promise<Plan> => {
  const draft = (await db.plans.get(changed.id))?.plan
  const version = await versionFor(changed)
  if (draft) await keepPlan({ ...draft, version: version.version })
  return version
}

/** An id that no plan here has yet, of a name. */
export async function freshPlanId(name: string): Promise<string> {
  const plain =
    name
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, '-')
      .replaceAll(/^-|-$/g, '')
      .slice(0, 32) || 'plan'
  const taken = new Set(await db.plans.toCollection().primaryKeys())
  for (let n = 1; ; n++) {
    const id = n === 1 ? plain : `${plain}-${n}`
    if (!taken.has(id)) return id
  }
}

/** What a plan has seen in a world, by key. */
export const seenBook = async (plan: string, worldId: string): Promise<Record<string, Seen>> =>
  Object.fromEntries(
    (await db.seen.where('plan').equals(plan).toArray())
      .filter(({ world = worldId }) => world === worldId)
      .map(({ plan: _plan, key, world: _world, ...entry }) => [key, entry]),
  )

/** The setting that tells since when the lists of events of a plan count in a world; without one, how all of them begin. */
export const sinceName = (plan: string, worldId = ''): string => `planSince.${plan} ${worldId}`

/** Since when the lists of events of a plan count: the moment of the market of a world at which it was first armed here. */
export async function sinceFor(plan: string, now: number, worldId: string): Promise<number> {
  const name = sinceName(plan, worldId)
  const before = await db.settings.get(name)
  if (typeof before?.value === 'number') return before.value
  await db.settings.put({ name, value: now })
  return now
}

/** Names of settings that tell what runs in a tab of this browser begin like this. */
export const BEGUN = 'begun.'
