import { appendFileSync } from 'node:fs'
import { join } from 'node:path'
import { heartbeatOf, INBOX } from './folder'
import { type Told } from './told'

/** So long a run is waited for that shall end, and looked at so often, milliseconds. */
const PATIENCE = 30_000
const LOOK = 200

/** Tells the run of a folder something; it reads that twice a second. */
export const tellRun = (folder: string, told: Told): void =>
  appendFileSync(join(folder, INBOX), `${JSON.stringify(told)}\n`, { mode: 0o600 })

/**
 * Ends the run of a folder, so that its plan can go on elsewhere: done once all that it was sending is answered. False where it
 * does not end in half a minute; true also where none runs.
 */
export async function stopThere(folder: string, why: string, patience = PATIENCE): Promise<boolean> {
  if (!heartbeatOf(folder)?.lives) return true
  tellRun(folder, { is: 'stop', why })
  for (let waited = 0; waited < patience; waited += LOOK) {
    await new Promise((resolve) => setTimeout(resolve, LOOK))
    if (!heartbeatOf(folder)?.lives) return true
  }
  return false
}
