import { type Intent } from '@/core/engine/events'
import { memoryOf, type PlanMemory } from '@/core/plans/memory'
import { type Seen } from '@/core/plans/seen'
import { type DayView } from '@/core/plans/view'
import { heartbeatOf, linesOf, planIn } from './folder'
import { idOf } from './sink'

/** What runs of a plan have left in its folder. */
export interface Remembered {
  /** Intents without an answer. */
  open: Intent[]
  seen: Record<string, Seen>
  /** Market moment at which it was first armed. */
  since?: number
  view?: DayView
  /** Version of one that was armed and did not end: its process was killed. */
  interrupted?: number
}

/** What earlier runs of the same world left in a folder. */
export function rememberedIn(folder: string, worldId: string): Remembered {
  const open = new Map<string, Intent>()
  const seen: Record<string, Seen> = {}
  let since: number | undefined
  let same = false
  let view: DayView | undefined
  let interrupted: number | undefined
  for (const entry of linesOf(folder)) {
    if (entry.is === 'started') {
      same = entry.worldId === worldId
      if (same && entry.acts) since ??= Date.parse(entry.market)
    }
    if (!same) continue
    if (entry.is === 'started' && entry.acts) interrupted = entry.version
    if (entry.is === 'stopped') interrupted = undefined
    if (entry.is === 'seen') seen[entry.key] = entry.entry
    if (entry.is === 'view') view = entry.view
    if (entry.is === 'intent' && entry.sends && entry.intent.is !== 'ask')
      open.set(idOf(entry.intent), entry.intent)
    else if ('clOrdId' in entry) open.delete(entry.clOrdId)
  }
  return {
    ...{ open: [...open.values()], seen },
    ...(since === undefined ? {} : { since }),
    ...(view ? { view } : {}),
    ...(interrupted === undefined ? {} : { interrupted }),
  }
}

/** The plan that ran last in a folder with all that it remembers; undefined where none has run there. */
export function memoryIn(folder: string): PlanMemory | undefined {
  const [plan, beat] = [planIn(folder), heartbeatOf(folder)]
  if (!plan || !beat) return undefined
  const { open: _open, interrupted: _interrupted, ...kept } = rememberedIn(folder, beat.worldId)
  return memoryOf({ plan, worldId: beat.worldId, ...kept })
}
