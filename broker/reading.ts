import { type Entry, inForce } from './journal/entries'
import { type Restore } from './journal/worldJournal'
import { type Kept, type WorldState } from './worldState'

/** How a world takes in what is kept; `end` is called when all of it was read. */
export type Reading = Restore<Entry, Kept> & { end(): void }

/** Takes in what is kept of a world. Of a rehearsal all of it is read first: what was put back does not count. */
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
