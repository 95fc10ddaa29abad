import { ALL } from '@/core/book/book'
import { takeExerciseWish } from '@/core/book/exerciseWish'
import { type Gate } from '@/core/orders/gate'
import { type Halt } from './halts'
import { type Entry } from './journal/entries'
import { type WorldState } from './worldState'

/** What is set for accounts and laid over the market of a world; to be called within its `act`. */
export class Settings {
  constructor(
    private readonly state: Pick<WorldState, 'accounts' | 'halts'>,
    private readonly write: (entry: Entry) => void,
    private readonly now: () => number,
    private readonly timeText: () => string,
  ) {}

  /** Has an account stand down from a security, or from everything. */
  standDown(account: string, symbol: string | undefined, by: string): void {
    const from = { ...(symbol ? { symbol } : {}), since: this.timeText(), by }
    this.state.accounts.get(account)!.book.stoodDown[symbol ?? ALL] = from
    this.write({ is: 'stood down', account, from })
  }

  /** Lifts that again. */
  lift(account: string, symbol: string | undefined): void {
    delete this.state.accounts.get(account)!.book.stoodDown[symbol ?? ALL]
    this.write({ is: 'lifted', account, ...(symbol ? { symbol } : {}), at: this.timeText() })
  }

  /** Sets the gates of an account. */
  setGates(account: string, gates: readonly Gate[]): void {
    this.state.accounts.get(account)!.book.gates = gates
    this.write({ is: 'gates', account, gates })
  }

  /** Sets whether a contract is exercised when it expires. */
  exercise(account: string, symbol: string, exercise: boolean): void {
    const entry = { is: 'exercise' as const, account, symbol, exercise, at: this.now() }
    takeExerciseWish(this.state.accounts.get(account)!.book, symbol, exercise)
    this.write(entry)
  }

  /** Halts trading in a security. */
  halt(halt: Halt): void {
    this.state.halts.begin({ ...halt })
    this.write({ is: 'halted', halt })
  }

  /** Lets trading in a security go on. */
  resume(symbol: string): void {
    const at = this.now()
    this.state.halts.end(symbol, at)
    this.write({ is: 'resumed', symbol, at })
  }
}
