import { randomUUID } from 'node:crypto'
import { type Account } from './account/account'

/** A client that holds the clock of a world until it has answered for what has happened. */
export interface Hold {
  id: string
  keyId: string
  account: Account
  /** Number of the last report that it has answered for. */
  answered: number
  /** How long it may take, in wall milliseconds. */
  limit: number
  /** Since when there is something to answer for; wall time. */
  since?: number
}

/** Who holds a clock, and who asked to be woken in hours that would be skipped. */
export class Holds {
  private readonly all = new Map<string, Hold>()
  private wakes: number[] = []

  constructor(private readonly real: () => number) {}

  get any(): boolean {
    return this.all.size > 0
  }

  begin(keyId: string, account: Account, limit: number): Hold {
    const hold: Hold = { id: randomUUID(), keyId, account, answered: account.book.seq, limit }
    this.all.set(hold.id, hold)
    return hold
  }

  get = (id: string): Hold | undefined => this.all.get(id)

  end(id: string): void {
    this.all.delete(id)
  }

  /** Whether somebody has still to answer. Who takes longer than he may holds the clock no more. */
  isHeld(): boolean {
    let held = false
    for (const hold of [...this.all.values()]) {
      if (hold.account.book.seq <= hold.answered) {
        hold.since = undefined
        continue
      }
      hold.since ??= this.real()
      if (this.real() - hold.since >= hold.limit) this.end(hold.id)
      else held = true
    }
    return held
  }

  /** Asks that a moment is not skipped. */
  wakeAt(moment: number): void {
    this.wakes = [...this.wakes, moment].sort((a, b) => a - b).slice(-1000)
  }

  /** The next moment after another that is not to be skipped. */
  nextWake = (after: number): number | undefined => this.wakes.find((one) => one > after)
}
