import { DateTime } from 'luxon'
import { ALL, takeReport } from '@/core/book/book'
import { type Environment } from '@/core/orders/access'
import { type AccountRules, USUAL_RULES } from '@/core/orders/accountRules'
import { type Gate } from '@/core/orders/gates'
import { type ExecutionReport, type Order, type SentOrder } from '@/core/orders/model'
import { Account } from './account/account'
import { type Halt, Halts } from './halts'
import { Clock, type ClockState } from './clock'
import { type Entry, inForce } from './journal/entries'
import { WorldJournal } from './journal/worldJournal'
import { type Key, type KeyAsked, keyOf, makeKey, renewed } from './keys/keys'
import { type Market } from './market/market'
import { Markets } from './market/markets'

export interface WorldOptions {
  dataDir: string
  seed: string
  /** Market time at which a new world starts, ISO with offset. */
  start: string
  firstDate?: string
  /** Wall clock, epoch milliseconds. */
  real?: () => number
  startingCash?: number
  /** How many securities are listed in all; those that are named where it is less. */
  securities?: number
  /** Goes on with what lies before a record that is damaged. */
  salvage?: boolean
  /** Told what was done to bring the world back. */
  say?: (what: string) => void
  /** Its name in paths; paper where left out. */
  name?: string
  environment?: Environment
  /** The world whose market and clock it shares. */
  beside?: World
  /** A rehearsal: over the market of this world, which it never outruns, with a clock of its own. */
  over?: World
}

/** Real milliseconds after which the use of a key is written down again. */
const USE_KEPT_EVERY = 60_000

/** How often a world that shares another's clock writes down how far it has come, in real milliseconds. */
const CLOCK_KEPT_EVERY = 5_000

/** The first account of each environment. */
export const FIRST_ACCOUNT: Record<Environment, string> = { paper: 'PAPER-1', live: 'LIVE-1' }

/**
 * A clock, accounts and a journal over the market: paper, live or a rehearsal. Everything that changes goes through
 * `act`, which ends when it is on the disk.
 */
export class World {
  /** By their id; withdrawn ones are gone. */
  readonly keys = new Map<string, Key>()
  /** When a token of each key last asked for something; wall time. */
  readonly lastUse = new Map<string, number>()
  readonly accounts = new Map<string, Account>()
  readonly halts = new Halts()
  /** Counts how often it was put back; what was told in another epoch did not happen in this one. */
  epoch = 1
  clock!: Clock
  private pending: Entry[] = []
  private processed = 0
  private keptAt = 0
  private keptTo = 0
  /** Nothing could be written when it was last tried: market time stands still. */
  private stuck = false
  private restoring: Promise<void> | undefined
  private readonly listeners = new Set<() => void>()

  private constructor(
    readonly name: string,
    readonly environment: Environment,
    readonly markets: Markets,
    private readonly journal: WorldJournal<Entry>,
    private readonly real: () => number,
    private readonly beside: World | undefined,
    private readonly over: World | undefined,
  ) {}

  /** Names this world: what another told is told apart by it. */
  get id(): string {
    return this.journal.world
  }

  /** The home market, by which the world's time is told. */
  get market(): Market {
    return this.markets.home
  }

  /** The account that was opened first. */
  get main(): Account {
    return this.accounts.values().next().value!
  }

  /** The world whose keys are taken here: a rehearsal's are those of the world that it is over. */
  get keyring(): World {
    return this.over ?? this
  }

  get isRehearsal(): boolean {
    return this.over !== undefined
  }

  /** True while nothing can be written, so that market time stands still. */
  get standsStill(): boolean {
    return this.beside?.standsStill ?? this.stuck
  }

  /** Opens the data folder, or begins a new world in an empty one. */
  static async open(options: WorldOptions): Promise<World> {
    const { dataDir, seed, start, firstDate = '2021-03-15', real = Date.now, startingCash = 50_000 } = options
    const { securities = 0, salvage = false, say = () => undefined } = options
    const { name = 'paper', environment = 'paper', beside, over } = options
    const begins = DateTime.fromISO(start)
    if (!begins.isValid)
      throw new RangeError(`HERON_START "${start}" is no date and time; write 2026-03-16T10:42:00-03:00`)
    const { journal, entries, said } = await WorldJournal.open<Entry>(dataDir, { seed, salvage })
    for (const what of said) say(what)
    const until = begins.plus({ days: 400 }).toISODate()!
    const markets = (beside ?? over)?.markets ?? new Markets(seed, firstDate, until, securities)
    const world = new World(name, environment, markets, journal, real, beside, over)
    const account = FIRST_ACCOUNT[environment]
    const at = beside ? beside.clock.now() : begins.toMillis()
    const fresh: Entry[] = [
      { is: 'account', account, cash: startingCash, rules: USUAL_RULES },
      { is: 'clock', clock: { at, rate: 1, running: over === undefined } },
    ]
    if (entries.length === 0) await journal.append(fresh)
    world.restore(entries.length === 0 ? fresh : entries)
    return world
  }

  /** Builds everything from what the journal holds. */
  private restore(entries: readonly Entry[]): void {
    let clock: ClockState | undefined
    this.accounts.clear()
    this.keys.clear()
    this.halts.clear()
    this.pending = []
    for (const entry of inForce(entries)) {
      if (entry.is === 'account') this.openAccount(entry)
      else if (entry.is === 'key') this.keys.set(entry.key.keyId, keyOf(entry.key))
      else if (entry.is === 'key withdrawn') this.keys.delete(entry.keyId)
      else if (entry.is === 'key used') this.lastUse.set(entry.keyId, entry.at)
      else if (entry.is === 'clock') clock = entry.clock
      else if (entry.is === 'gates') this.accounts.get(entry.account)!.book.gates = entry.gates
      else if (entry.is === 'halted') this.halts.begin({ ...entry.halt })
      else if (entry.is === 'resumed') this.halts.end(entry.symbol, entry.at)
      else if (entry.is === 'epoch') this.epoch = entry.epoch
      else if (entry.is === 'stood down')
        this.accounts.get(entry.account)!.book.stoodDown[entry.from.symbol ?? ALL] = entry.from
      else if (entry.is === 'lifted')
        delete this.accounts.get(entry.account)!.book.stoodDown[entry.symbol ?? ALL]
      else {
        const account = this.accounts.get(entry.account ?? this.main.name)!
        takeReport(account.book, entry.report)
        account.reports.push(entry.report)
      }
    }
    if (!clock) throw new Error('The journal holds no clock; start with an empty data folder (HERON_DATA)')
    // The market never goes back before something that happened in it, nor before a moment that was told.
    const last = [...this.accounts.values()].map(({ reports }) => reports.at(-1)?.transactTime)
    this.processed = Math.max(clock.at, ...last.map((text) => (text ? Date.parse(text) : 0)))
    const at = Math.max(this.processed, clock.until ?? 0)
    this.markets.reach(at)
    if (this.beside) {
      this.clock = this.beside.clock
      if (at > this.clock.now()) this.clock.moveTo(at)
    } else if (this.clock === undefined) {
      const limit = this.over ? () => this.over!.clock.now() : undefined
      this.clock = new Clock({ ...clock, at, until: at }, this.markets, this.real, limit)
    }
    this.processed = Math.min(this.processed, this.clock.now())
  }

  private openAccount({ account, cash, rules = USUAL_RULES }: Extract<Entry, { is: 'account' }>): void {
    // The stand-in for live is slower to cancel, as a venue is.
    const manners = this.environment === 'live' ? 'slow' : 'prompt'
    const tell = (report: ExecutionReport) => this.pending.push({ is: 'report', account, report })
    this.accounts.set(
      account,
      new Account(this.markets, account, { cash, rules }, tell, {
        manners,
        overlay: this.halts,
      }),
    )
  }

  /** The wall clock, which keys and tokens go by; epoch milliseconds. */
  wallNow = (): number => this.real()

  /** Market time as ISO text with the venue's offset. */
  timeText = (moment = this.clock.now(), zone = this.market.venue.zone): string =>
    DateTime.fromMillis(moment, { zone }).toISO({ suppressMilliseconds: true })!

  /**
   * Does something to the world and resolves when it is on the disk. Where the disk refuses, everything not
   * written is undone by reading the journal again, and the JournalError is thrown.
   */
  async act<T>(change: () => T): Promise<T> {
    await this.restoring
    if (this.clock.isBehind) await this.extend()
    this.catchUp()
    const result = change()
    await this.commit()
    return result
  }

  private async commit(): Promise<void> {
    const entries = this.pending
    this.pending = []
    try {
      await this.journal.append(entries)
    } catch (error) {
      this.restoring ??= this.journal
        .reread()
        .then((kept) => this.restore(kept))
        .finally(() => (this.restoring = undefined))
      await this.restoring
      throw error
    }
    for (const entry of entries)
      if (entry.is === 'report') this.accounts.get(entry.account!)!.reports.push(entry.report)
    for (const listener of [...this.listeners]) listener()
    // New orders meet the book only after their acknowledgement is kept. A failing disk is told by the next
    // change; until then they rest as New.
    if ([...this.accounts.values()].some(({ exchange }) => exchange.hasFresh))
      void this.act(() => {
        for (const { exchange } of this.accounts.values()) exchange.workFresh(this.clock.now())
      }).catch(() => undefined)
  }

  /** Resolves when all that has happened so far is on the disk, so that readers see nothing that may be undone. */
  async settled(): Promise<void> {
    await this.restoring
    await this.journal.settled()
  }

  private catchUp(): void {
    const now = this.clock.now()
    if (now <= this.processed) return
    for (const { exchange } of this.accounts.values()) exchange.advance(this.processed, now)
    this.processed = now
  }

  /**
   * Writes down how far market time may be told: to a moment, or as far as the clock wants. Where that cannot be
   * written, time stands still, and goes on from there once it can.
   */
  private async extend(to?: number): Promise<void> {
    if (this.beside) return this.beside.extend(to)
    if (this.stuck) this.clock.standStill()
    const until = to ?? this.clock.wants
    if (until === undefined) return
    this.pending.push({ is: 'clock', clock: { ...this.clock.snapshot(until), at: this.processed } })
    try {
      await this.commit()
    } catch (error) {
      this.stuck = true
      throw error
    }
    this.stuck = false
    this.clock.extendTo(until)
  }

  /** Lets the market run on to the present; called several times a second. */
  async tick(): Promise<void> {
    await this.restoring
    if (!this.beside) {
      await this.extend()
      const skip = this.clock.skipsTo()
      if (skip !== undefined) await this.setClock({ moveTo: skip })
    }
    await this.act(() => {
      this.markets.reach(this.clock.now())
      if (!this.beside || this.real() - this.keptAt < CLOCK_KEPT_EVERY || this.processed === this.keptTo)
        return
      this.keptAt = this.real()
      this.keptTo = this.processed
      this.pending.push({ is: 'clock', clock: { ...this.clock.snapshot(), at: this.processed } })
    })
  }

  /** Runs, pauses or paces the clock, or moves it on; what happens on the way happens. */
  async setClock(change: { running?: boolean; rate?: number; moveTo?: number }): Promise<void> {
    if (this.beside) {
      await this.beside.setClock(change)
      return this.act(() => undefined)
    }
    const { moveTo, ...pace } = change
    if (moveTo !== undefined) {
      if (moveTo < this.clock.now()) throw new RangeError('The clock goes forward only')
      await this.extend(moveTo)
    }
    await this.act(() => {
      if (moveTo !== undefined) this.clock.moveTo(Math.max(moveTo, this.clock.now()))
      this.catchUp()
      this.clock.set(pace)
      this.pending.push({ is: 'clock', clock: this.clock.snapshot() })
    })
  }

  submit = (order: SentOrder, account = order.account ?? this.main.name, sentBy?: string) =>
    this.act(() =>
      this.accounts.get(account)!.exchange.submit({ ...order, account }, this.clock.now(), sentBy),
    )

  cancel = (order: Order, text?: string, account = this.main.name) =>
    this.act(() => this.accounts.get(account)!.exchange.cancel(order, this.clock.now(), text))

  /** Opens a further account. Throws RangeError where one of that name stands. */
  newAccount(account: string, cash: number, rules: AccountRules): Promise<Account> {
    return this.act(() => {
      if (this.accounts.has(account))
        throw new RangeError(`An account ${account} stands already; name another`)
      const entry = { is: 'account' as const, account, cash, rules }
      this.openAccount(entry)
      this.pending.push(entry)
      return this.accounts.get(account)!
    })
  }

  async createKey(asked: KeyAsked): Promise<{ key: Key; secret: string }> {
    const made = await makeKey(this.environment, asked, this.real())
    await this.keepKey(made.key)
    return made
  }

  /** Gives a key another secret; the one before is not taken any more. */
  async renewKey(key: Key): Promise<{ key: Key; secret: string }> {
    const made = await renewed(key, this.real())
    await this.keepKey(made.key)
    return made
  }

  keepKey = (key: Key): Promise<void> =>
    this.act(() => {
      this.keys.set(key.keyId, key)
      this.pending.push({ is: 'key', key })
    })

  /** Within `act`: has an account stand down from a security, or from everything. */
  standDown(account: string, symbol: string | undefined, by: string): void {
    const from = { ...(symbol ? { symbol } : {}), since: this.timeText(), by }
    this.accounts.get(account)!.book.stoodDown[symbol ?? ALL] = from
    this.pending.push({ is: 'stood down', account, from })
  }

  /** Within `act`: lifts that again. */
  lift(account: string, symbol: string | undefined): void {
    delete this.accounts.get(account)!.book.stoodDown[symbol ?? ALL]
    this.pending.push({ is: 'lifted', account, ...(symbol ? { symbol } : {}), at: this.timeText() })
  }

  /** Within `act`: sets the gates of an account. */
  setGates(account: string, gates: readonly Gate[]): void {
    this.accounts.get(account)!.book.gates = gates
    this.pending.push({ is: 'gates', account, gates })
  }

  /** Within `act`: halts trading in a security. */
  halt(halt: Halt): void {
    this.halts.begin({ ...halt })
    this.pending.push({ is: 'halted', halt })
  }

  /** Within `act`: lets trading in a security go on. */
  resume(symbol: string): void {
    const at = this.clock.now()
    this.halts.end(symbol, at)
    this.pending.push({ is: 'resumed', symbol, at })
  }

  /** Notes that a key is used; written down with whatever is written next, not more than once a minute. */
  use(keyId: string): void {
    const [at, before] = [this.real(), this.lastUse.get(keyId) ?? -Infinity]
    if (at - before < USE_KEPT_EVERY) return
    this.lastUse.set(keyId, at)
    this.pending.push({ is: 'key used', keyId, at })
  }

  withdrawKey = (keyId: string): Promise<void> =>
    this.act(() => {
      this.keys.delete(keyId)
      this.pending.push({ is: 'key withdrawn', keyId })
    })

  /**
   * Puts a rehearsal back to a moment: what happened after it did not, and a new epoch begins. Throws RangeError
   * for a world that is no rehearsal, and for a moment that it has not reached.
   */
  async putBack(at: number): Promise<void> {
    if (!this.over) throw new RangeError('Only a rehearsal can be put back; paper and live go forward only')
    if (at > this.clock.now()) throw new RangeError('A rehearsal is put back to a moment that has passed')
    const { rate } = this.clock
    await this.act(() => {
      const clock = { at, rate, running: false }
      this.pending.push({ is: 'epoch', epoch: this.epoch + 1, at }, { is: 'clock', clock })
    })
    this.clock = undefined as never
    this.restore(await this.journal.reread())
    for (const listener of [...this.listeners]) listener()
  }

  /** Called after each change that reached the disk, and after each tick. Returns how to stop it. */
  listen(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  async close(): Promise<void> {
    this.pending.push({ is: 'clock', clock: { ...this.clock.snapshot(), at: this.processed } })
    await this.commit().catch(() => undefined)
    await this.journal.close()
  }
}
