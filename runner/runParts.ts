import { type Plan } from '@/core/plans/document'
import { type Seen } from '@/core/plans/seen'
import { type DayView } from '@/core/plans/view'
import { type RunEntry } from './entries'
import { type Hub } from './hub'

/** What a run is made of: the account that it shares with others, where it writes, and what it is told. */
export interface RunParts {
  hub: Hub
  plan: Plan
  /** False: it watches, lists what it would send, and sends nothing. */
  acts: boolean
  /** Conditions that hold when it begins count as beginning then. */
  atOnce?: boolean
  /** It goes on where another life of it ended without being stopped: what began while it was armed still counts. */
  goesOn?: boolean
  /** What it has seen before, and since when its lists of events count: since it was first begun. */
  seen?: Readonly<Record<string, Seen>>
  view?: DayView
  since?: number
  /** Throws Error where it cannot be kept: no entry is sent then, what leaves is. */
  write(entry: RunEntry, at: number): void
  /** Told once what keeps it from writing. */
  trouble?(why: string): void
}
