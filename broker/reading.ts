import { type Entry, inForce } from './journal/entries'
import { type Restore } from './journal/worldJournal'
import { type Kept, type WorldState } from './worldState'

/** Reads a world from its journal; `end` is called after the last entry. */
export type Reading = Restore<Entry, Kept> & { end(): void }

/** Reads entries into a world's state. A rehearsal is read whole first, because later entries may put it back. */
export function readingInto(state: WorldState, isRehearsal: boolean, begin: () => void): Reading {
  const all: { entry: Entry; place: number }[] = []
  return {
    begin: (snapshot) => {
      begin()
      state.begin(snapshot)
    },
    take: (entry, place) => {
      if (isRehearsal) all.push({ entry, place })
      else state.take(entry, place)
    },
    end: () => {
      for (const { entry, place } of inForce(all)) state.take(entry, place)
    },
  }
}
