import { takeBooking } from '@/core/book/bookings'
import { ALL, type Book, sharesOf, takeReport } from '@/core/book/book'
import { takeExerciseWish } from '@/core/book/exerciseWish'
import { promisedIn } from '@/core/book/sums'
import { type Environment } from '@/core/orders/access'
import { type AccountRules, USUAL_RULES } from '@/core/orders/accountRules'
import { type ExecutionReport } from '@/core/orders/model'
import { Account } from './account/account'
import { type ClockState } from './clock'
import { type Halt, Halts } from './halts'
import { type Entry } from './journal/entries'
import { type Snapshot } from './journal/snapshot'
import { type Key, keyOf, type KeptKey } from './keys/keys'
import { type Markets } from './market/markets'
import { type Owner } from './worldOptions'

/** What a snapshot keeps of a world, as JSON. */
export interface Kept {
  epoch: number
  clock: ClockState
  keys: KeptKey[]
  used: [string, number][]
  halts: Halt[]
  owner?: Owner
  accounts: { name: string; cash: number; rules: AccountRules; book: Book }[]
}

/** What a world asks of the one that keeps its journal. */
export interface Surroundings {
  environment: Environment
  markets: Markets
  tell(entry: Entry): void
  readAt(place: number): Entry
}

/** All that a world holds, folded from the entries of its journal, or put back from a snapshot. */
export class WorldState {
  /** By their id; withdrawn ones are gone. */
  readonly keys = new Map<string, Key>()
  /** When a token of each key last asked for something; wall time. */
  readonly lastUse = new Map<string, number>()
  readonly accounts = new Map<string, Account>()
  readonly halts = new Halts()
  /** Counts how often it was put back; what was told in another epoch did not happen in this one. */
  epoch = 1
  /** How the clock was last written down. */
  clock: ClockState | undefined

  /** Owner of a rehearsal; undefined for other worlds and for rehearsals of earlier builds. */
  owner: Owner | undefined

  constructor(private readonly around: Surroundings) {}

  /** The account that was opened first. */
  get main(): Account {
    return this.accounts.values().next().value!
  }

  /** Begins anew, from a snapshot where there is one. */
  begin(snapshot: Snapshot<Kept> | undefined): void {
    this.keys.clear()
    this.lastUse.clear()
    this.accounts.clear()
    this.halts.clear()
    this.epoch = 1
    this.clock = undefined
    this.owner = undefined
    if (!snapshot) return
    const { epoch, clock, keys, used, halts, owner, accounts } = snapshot.state
    this.owner = owner
    this.epoch = epoch
    this.clock = clock
    for (const key of keys) this.keys.set(key.keyId, keyOf(key))
    for (const [keyId, at] of used) this.lastUse.set(keyId, at)
    for (const halt of halts) this.halts.begin(halt)
    accounts.forEach(({ name, cash, rules, book }, i) => {
      this.open(name, cash, rules, book).reports.restore(snapshot.lists.slice(3 * i, 3 * i + 3))
    })
  }

  /** Takes an entry that begins at a place in the journal. */
  take(entry: Entry, place: number): void {
    switch (entry.is) {
      case 'account':
        this.open(entry.account, entry.cash, entry.rules ?? USUAL_RULES)
        return
      case 'key':
        this.keys.set(entry.key.keyId, keyOf(entry.key))
        return
      case 'owner':
        this.owner = entry.owner
        return
      case 'key withdrawn':
        this.keys.delete(entry.keyId)
        return
      case 'key used':
        this.lastUse.set(entry.keyId, entry.at)
        return
      case 'clock':
        this.clock = entry.clock
        return
      case 'epoch':
        this.epoch = entry.epoch
        return
      case 'gates':
        this.accounts.get(entry.account)!.book.gates = entry.gates
        return
      case 'booked':
        takeBooking(this.accounts.get(entry.account)!.book, entry.booking)
        return
      case 'day':
        this.accounts.get(entry.account)!.book.days.push(entry.day)
        return
      case 'expiring':
        this.accounts.get(entry.account)!.book.expiring = entry.notices
        return
      case 'exercise':
        takeExerciseWish(this.accounts.get(entry.account)!.book, entry.symbol, entry.exercise)
        return
      case 'halted':
        this.halts.begin({ ...entry.halt })
        return
      case 'resumed':
        this.halts.end(entry.symbol, entry.at)
        return
      case 'stood down':
        this.accounts.get(entry.account)!.book.stoodDown[entry.from.symbol ?? ALL] = entry.from
        return
      case 'lifted':
        delete this.accounts.get(entry.account)!.book.stoodDown[entry.symbol ?? ALL]
        return
      case 'report': {
        const account = this.accounts.get(entry.account ?? this.main.name)!
        account.forgetBefore(entry.report.tradeDate)
        takeReport(account.book, entry.report)
        account.reports.push(entry.report, place)
      }
    }
  }

  /** Opens an account, with the book that it had where it is brought back. */
  open(name: string, cash: number, rules: AccountRules, book?: Book): Account {
    const { environment, markets, tell, readAt } = this.around
    const account = new Account({
      ...{ markets, name, opened: { cash, rules }, book },
      tell: (report: ExecutionReport) => tell({ is: 'report', account: name, report }),
      told: {
        booking: (booking) => tell({ is: 'booked', account: name, booking }),
        day: (day, at) => tell({ is: 'day', account: name, day, at }),
        expiring: (notices, at) => tell({ is: 'expiring', account: name, notices, at }),
      },
      readAt: (place) => {
        const entry = readAt(place)
        if (entry.is !== 'report') throw new Error(`The journal holds no report at byte ${place}`)
        return entry.report
      },
      // The stand-in for live is slower to cancel, as a venue is.
      place: {
        manners: environment === 'live' ? 'slow' : 'prompt',
        overlay: {
          isHalted: this.halts.isHalted,
          borrowedByOthers: (symbol) => this.borrowed(symbol, name),
        },
      },
    })
    this.accounts.set(name, account)
    return account
  }

  /** Shares that all accounts but one have borrowed, working orders included. */
  private borrowed(symbol: string, but: string): number {
    let sum = 0
    for (const { name, book } of this.accounts.values()) {
      if (name === but) continue
      sum += Math.max(0, -sharesOf(book, symbol)) + promisedIn(book.working[symbol] ?? []).short
    }
    return sum
  }

  /** Market time of the last report of any account; undefined where none came. */
  get lastReport(): number {
    const times = [...this.accounts.values()].map(({ reports }) => reports.newest?.transactTime)
    return Math.max(0, ...times.map((text) => (text ? Date.parse(text) : 0)))
  }

  /** What a snapshot keeps, all of which must be on the disk. */
  kept(clock: ClockState): { state: Kept; lists: Float64Array[] } {
    const accounts = [...this.accounts.values()]
    return {
      state: {
        ...{ epoch: this.epoch, clock, halts: this.halts.list(), used: [...this.lastUse] },
        keys: [...this.keys.values()],
        ...(this.owner ? { owner: this.owner } : {}),
        accounts: accounts.map(({ name, opened, book }) => ({ name, ...opened, book })),
      },
      lists: accounts.flatMap(({ reports }) => reports.lists()),
    }
  }
}
