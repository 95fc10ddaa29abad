import { type Account } from './account/account'

/** What is needed of a world to keep snapshots of it. */
interface Source {
  accounts(): Iterable<Account>
  now(): number
  /** Writes a snapshot of what is on the disk; one that cannot be written now is written later. */
  write(): Promise<void>
}

/** Takes what is over out of memory and keeps a snapshot: once a session, when little is left in memory. */
export class Snapshots {
  /** Session date at which that was last done; empty after a start. */
  private date = ''

  constructor(private readonly source: Source) {}

  /** Call this after the world was read from the disk. */
  begin(): void {
    this.date = ''
  }

  async keep(): Promise<void> {
    const now = this.source.now()
    const accounts = [...this.source.accounts()]
    const date = accounts[0].today(now)
    if (date === this.date) return
    const first = this.date === ''
    for (const account of accounts) account.forgetBefore(account.today(now))
    this.date = date
    // Just after a start there is nothing new to keep.
    if (!first) await this.source.write()
  }
}
