import { create } from 'zustand'

/** How an update of one frame goes, or how the last one ended. */
export interface Update {
  state: 'under way' | 'done' | 'stopped' | 'failed'
  /** Securities that are there, of how many. */
  done: number
  of: number
  /** Bars that came anew. */
  fetched: number
  problem?: string
  /** Wall clock of its end. */
  at?: number
}

/** Updates of bars by the name of their frame, as screens show them. */
export const useUpdates = create<{ updates: Record<string, Update> }>(() => ({ updates: {} }))

export const tellUpdate = (name: string, change: Partial<Update>): void =>
  useUpdates.setState(({ updates }) => {
    const before = updates[name] ?? { state: 'under way', done: 0, of: 0, fetched: 0 }
    return { updates: { ...updates, [name]: { ...before, ...change } } }
  })

export const forgetUpdate = (name: string): void =>
  useUpdates.setState(({ updates }) => {
    const { [name]: _, ...rest } = updates
    return { updates: rest }
  })
