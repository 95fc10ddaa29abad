import { create } from 'zustand'
import { type BegunRow, type Fate } from './begun'
import { type RunHere } from './runHere'

/** A plan whose tab is gone, and that does not go on by itself; or that could not begin, and is tried again. */
export interface WaitingRow {
  row: BegunRow
  why: Fate
  trouble?: string
}

interface RunsHere {
  runs: Record<string, RunHere>
  /** Something that went wrong while nobody looked. */
  trouble?: string
  /** Names of plans that went on by themselves after their tab was loaded again. */
  wentOn: readonly string[]
  waiting: readonly WaitingRow[]
}

/** What runs in this page, by the id of the plan. */
export const useRuns = create<RunsHere>(() => ({ runs: {}, wentOn: [], waiting: [] }))

/** Changes what is known of a run, where it is there. */
export const changeRun = (id: string, into: (run: RunHere) => RunHere) =>
  useRuns.setState(({ runs }) => (runs[id] ? { runs: { ...runs, [id]: into(runs[id]) } } : { runs }))

/** Tells of something that went wrong while nobody looked. */
export const trouble = (why: string) => useRuns.setState({ trouble: why })
