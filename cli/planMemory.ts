import { join } from 'node:path'
import { memoryOf } from '@/core/plans/memory'
import { heartbeatOf, planIn } from '@/runner/folder'
import { Failure } from './fail'
import { Journal } from './journal'

/** A plan that has run in a folder, with all that it remembers, as one file. Throws Failure. */
export function memory(folder: string, planId: string): string {
  const own = join(folder, planId)
  const [plan, beat] = [planIn(own), heartbeatOf(own)]
  if (!plan || !beat) throw new Failure(`${planId} has not run in ${folder}: see heron status.`)
  if (beat.lives)
    throw new Failure(`${planId} runs, as process ${beat.pid}: end it first, so that it remembers all.`)
  const { worldId } = beat
  const { seen, since, view } = new Journal(own, () => '', { version: plan.version, worldId }).before(worldId)
  const made = memoryOf({
    plan,
    worldId,
    seen,
    ...(since === undefined ? {} : { since }),
    ...(view ? { view } : {}),
  })
  return `${JSON.stringify(made, null, 2)}\n`
}
