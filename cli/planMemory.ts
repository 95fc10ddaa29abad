import { planFileText } from '@/core/plans/file'
import { join } from 'node:path'
import { heartbeatOf } from '@/runner/folder'
import { memoryIn } from '@/runner/remembered'
import { Failure } from './fail'

/** A plan that has run in a folder, with all that it remembers, as one file. Throws Failure. */
export function memory(folder: string, planId: string): string {
  const own = join(folder, planId)
  const made = memoryIn(own)
  if (!made) throw new Failure(`${planId} has not run in ${folder}: see heron status.`)
  const beat = heartbeatOf(own)
  if (beat?.lives)
    throw new Failure(`${planId} runs, as process ${beat.pid}: end it first, so that it remembers all.`)
  return planFileText(made)
}
