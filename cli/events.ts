import { existsSync, readFileSync, statSync } from 'node:fs'
import { eventsOf } from '@/core/plans/eventList'
import { type DatedEvent } from '@/core/plans/seen'
import { Failure, note } from './fail'

/** Events of a CSV file with the columns key, symbol, at and text. Throws Failure that names the line. */
export function readEvents(path: string): DatedEvent[] {
  let text: string
  try {
    text = readFileSync(path, 'utf8')
  } catch (error) {
    throw new Failure(`${path} cannot be read: ${(error as Error).message}.`)
  }
  const read = eventsOf(text)
  if ('wrong' in read) throw new Failure(`${path}: ${read.wrong}`)
  return read.events
}

/** A file of events that may grow while it is followed; one that cannot be read is told, and what it gave before stays. */
export class Followed {
  private changed = 0

  constructor(private readonly path: string | undefined) {}

  fresh(): DatedEvent[] {
    if (this.path === undefined) return []
    try {
      const changed = existsSync(this.path) ? statSync(this.path).mtimeMs : 0
      if (changed === this.changed) return []
      this.changed = changed
      return readEvents(this.path)
    } catch (error) {
      note((error as Error).message)
      return []
    }
  }
}
