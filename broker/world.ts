import { DateTime } from 'luxon'
import { type Environment } from '@/core/orders/access'
import { type AccountRules, USUAL_RULES } from '@/core/orders/accountRules'
import { type Order, type SentOrder } from '@/core/orders/model'
import { type Account } from './account/account'
import { Clock } from './clock'
import { type Halts } from './halts'
import { Holds } from './holds'
import { type Entry } from './journal/entries'
import { JournalError } from './journal/problem'
import { WorldJournal } from './journal/worldJournal'
import { type Key } from './keys/keys'
import { KeyRing } from './keys/keyRing'
import { type Market } from './market/market'
import { Markets } from './market/markets'
import { putBack } from './putBack'
import { type Reading, readingInto } from './reading'
import { NotServed, Service } from './service'
import { Settings } from './settings'
import { Snapshots } from './snapshots'
import { FIRST_ACCOUNT, type Options, type Owner } from './worldOptions'
import { type Kept, WorldState } from './worldState'

/** How often a world that shares another's clock writes down how far it has come, in real milliseconds. */
const CLOCK_KEPT_EVERY = 5_000

export type WorldOptions = Options<World>

/**
 * A clock, accounts and a journal over the market: paper, live or a rehearsal. Everything that changes goes through
 * `act`, which ends when it is on the disk.
 */
export class World {
  clock!: Clock
  private pending: Entry[] = []
  private processed = 0
  private keptAt = 0
  private keptTo = 0
  /** Nothing could be written when it was last tried: market time stands still. */
  private stuck = false
  private restoring: Promise<void> | undefined
  /** Whether the world is in service. */
  readonly service = new Service()
  private readonly listeners = new Set<() => void>()
  private readonly state: WorldState
  private readonly ownHolds: Holds
  /** Keys, and what is done with them. */
  readonly ring: KeyRing
  /** What is set for accounts and laid over the market. */
  readonly settings: Settings
  private journal!: WorldJournal<Entry, Kept>
  private readonly snapshots = new Snapshots({
    accounts: () => this.accounts.values(),
    now: () => this.clock.now(),
    write: () => this.snap(),
  })

  private constructor(
    readonly name: string,
    readonly environment: Environment,
    readonly markets: Markets,
    private readonly real: () => number,
    private readonly beside: World | undefined,
    private readonly over: World | undefined,
  ) {
    this.state = new WorldState({
      ...{ environment, markets },
      tell: (entry) => this.pending.push(entry),
      readAt: (place) => this.journal.readAt(place),
    })
    this.ownHolds = new Holds(real)
    const write = (entry: Entry) => this.pending.push(entry)
    this.ring = new KeyRing(this.state, environment, real, write, (change) => this.act(change))
    this.settings = new Settings(this.state, write, () => this.clock.now(), this.timeText)
  }

  get keys(): ReadonlyMap<string, Key> {
    return this.state.keys
  }

  get accounts(): ReadonlyMap<string, Account> {
    return this.state.accounts
  }

  /** Who holds the clock of this world: of live, that of paper. */
  get holds(): Holds {
    return this.beside?.holds ?? this.ownHolds
  }

  get halts(): Halts {
    return this.state.halts
  }

  get epoch(): number {
    return this.state.epoch
  }

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
    return this.state.main
  }

  /** The world whose keys are taken here: a rehearsal's are those of the world that it is over. */
  get keyring(): World {
    return this.over ?? this
  }

  /** Owner of a rehearsal. */
  get owner(): Owner | undefined {
    return this.state.owner
  }

  /** Of paper: live, which shares its clock. */
  neighbour: World | undefined

  /** True once the world is closed for good. */
  isClosed = false

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
    const until = begins.plus({ days: 400 }).toISODate()!
    const markets = (beside ?? over)?.markets ?? new Markets(seed, firstDate, until, securities)
    const world = new World(name, environment, markets, real, beside, over)
    const reading = world.reading()
    const opened = await WorldJournal.open<Entry, Kept>(dataDir, { seed, salvage }, reading)
    for (const what of opened.said) say(what)
    world.journal = opened.journal
    try {
      if (opened.isNew) {
        const account = FIRST_ACCOUNT[environment]
        const at = beside ? beside.clock.now() : begins.toMillis()
        const fresh: Entry[] = [
          { is: 'account', account, cash: startingCash, rules: USUAL_RULES },
          { is: 'clock', clock: { at, rate: 1, running: over === undefined } },
          ...(options.keys ?? []).map((key): Entry => ({ is: 'key', key })),
          ...(options.owner ? [{ is: 'owner' as const, owner: options.owner }] : []),
        ]
        const places = await opened.journal.append(fresh)
        fresh.forEach((entry, i) => reading.take(entry, places[i]))
      }
      reading.end()
      world.startClock()
    } catch (error) {
      await opened.journal.close()
      throw error
    }
    return world
  }

  private reading = (): Reading =>
    readingInto(this.state, this.isRehearsal, () => {
      this.pending = []
      this.snapshots.begin()
    })

  /** Starts the clock from its kept state; it may go back only after a put-back. */
  private startClock(mayGoBack = false): void {
    const { clock, lastReport } = this.state
    if (!clock) throw new Error('The journal holds no clock; start with an empty data folder (HERON_DATA)')
    // The market never goes back before something that happened in it, nor before a moment that was told.
    this.processed = Math.max(clock.at, lastReport)
    const at = Math.max(this.processed, clock.until ?? 0)
    this.markets.reach(at)
    if (this.beside) {
      this.clock = this.beside.clock
      if (at > this.clock.now()) this.clock.moveTo(at)
    } else if (mayGoBack || this.clock === undefined) {
      // A rehearsal never passes the present; who holds the clock is told no more than what he can answer for.
      const limit = () =>
        Math.min(this.over?.clock.now() ?? Infinity, this.ownHolds.any ? this.processed : Infinity)
      this.clock = new Clock({ ...clock, at, until: at }, this.markets, this.real, limit)
    }
    this.processed = Math.min(this.processed, this.clock.now())
  }

  /** Reads the world again from the disk. */
  private async reload(mayGoBack = false): Promise<void> {
    const reading = this.reading()
    await this.journal.reread(reading)
    reading.end()
    this.startClock(mayGoBack)
  }

  /** The wall clock, which keys and tokens go by; epoch milliseconds. */
  wallNow = (): number => this.real()

  /** Market time as ISO text with the venue's offset. */
  timeText = (moment = this.clock.now(), zone = this.market.venue.zone): string =>
    DateTime.fromMillis(moment, { zone }).toISO({ suppressMilliseconds: true })!

  /**
   * Changes the world and resolves when the change is on the disk. If the disk refuses, everything not written is undone by
   * reading the journal again, and the JournalError is thrown. Throws NotServed while the world is out of service.
   */
  act = <T>(change: () => T): Promise<T> =>
    this.service.begin(async () => {
      await this.restoring
      if (this.clock.isBehind) await this.extend()
      this.service.check()
      this.catchUp()
      const result = change()
      await this.commit()
      return result
    })

  private async commit(): Promise<void> {
    const entries = this.pending
    this.pending = []
    let places: number[]
    try {
      places = await this.journal.append(entries)
    } catch (error) {
      // While the world is being put back it is read again anyway, and that waits for this.
      if (!this.service.isStopped) {
        this.restoring ??= this.reload().finally(() => (this.restoring = undefined))
        await this.restoring
      }
      throw error
    }
    entries.forEach((entry, i) => {
      if (entry.is === 'report') this.accounts.get(entry.account!)!.reports.push(entry.report, places[i])
    })
    this.wake()
    // New orders meet the book only after their acknowledgement is kept. A failing disk is told by the next
    // change; until then they rest as New.
    if ([...this.accounts.values()].some(({ exchange }) => exchange.hasFresh))
      void this.act(() => {
        for (const { exchange } of this.accounts.values()) exchange.workFresh(this.clock.now())
      }).catch(() => undefined)
  }

  /** Resolves once the world is not being read from the disk. */
  steady = async (): Promise<void> => this.restoring

  /** Resolves when all that has happened so far is on the disk, so that readers see nothing that may be undone. */
  async settled(): Promise<void> {
    await this.restoring
    await this.journal.settled()
  }

  private catchUp(): void {
    if (!this.beside && this.ownHolds.any) return this.catchUpHeld()
    const now = this.clock.now()
    if (now <= this.processed) return
    for (const { exchange } of this.accounts.values()) exchange.advance(this.processed, now)
    this.processed = now
  }

  /** The same while somebody holds the clock: second by second, up to the first that he has to answer for. */
  private catchUpHeld(): void {
    const to = Math.min(this.clock.target, this.over?.clock.now() ?? Infinity)
    while (this.processed < to && !this.ownHolds.isHeld()) {
      const next = this.processed + 1000
      for (const { exchange } of this.accounts.values()) exchange.advance(this.processed, next)
      this.processed = next
    }
    // What passes while it is held is not made up for.
    if (this.ownHolds.isHeld()) this.clock.standStill()
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

  /** Keeps a snapshot of what is on the disk. Where that cannot be written the one before is good still. */
  private async snap(): Promise<void> {
    await this.settled()
    if (this.pending.length > 0) return
    const { length } = this.journal
    const kept = this.state.kept({ ...this.clock.snapshot(), at: this.processed })
    await this.journal.keep({ length, ...kept }).catch(() => undefined)
  }

  /** Lets the market run on to the present; called several times a second. Nothing happens while it is out of service. */
  tick = (): Promise<void> =>
    this.service
      .begin(() => this.runOn())
      .catch((error: unknown) => {
        if (!(error instanceof NotServed)) throw error
      })

  private async runOn(): Promise<void> {
    await this.restoring
    if (this.journal.isLow) await this.journal.refill()
    await this.snapshots.keep()
    if (!this.beside) {
      await this.extend()
      const skip = this.ownHolds.isHeld()
        ? undefined
        : this.clock.skipsTo(this.ownHolds.nextWake(this.clock.now()))
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
      if (this.ownHolds.isHeld())
        throw new RangeError('The clock is held until a client has answered for what has happened')
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
    this.act(() => {
      if (this.journal.isLow)
        throw new JournalError(
          'The disk is full: new orders are not taken; cancels and fills still are.',
          'Free some disk space, then send again.',
        )
      return this.accounts.get(account)!.submit(order, this.clock.now(), sentBy)
    })

  cancel = (order: Order, text?: string, account = this.main.name) =>
    this.act(() => this.accounts.get(account)!.exchange.cancel(order, this.clock.now(), text))

  /** Opens a further account. Throws RangeError where one of that name stands. */
  newAccount(account: string, cash: number, rules: AccountRules): Promise<Account> {
    return this.act(() => {
      if (this.accounts.has(account))
        throw new RangeError(`An account ${account} stands already; name another`)
      this.pending.push({ is: 'account' as const, account, cash, rules })
      return this.state.open(account, cash, rules)
    })
  }

  /**
   * Puts a rehearsal back to a moment: what happened after it did not, and a new epoch begins. It is out of service
   * meanwhile, so that nothing of the old epoch is written into the new one. Throws RangeError for a world that is no rehearsal,
   * and for a moment that it has not reached; NotServed while it is being put back already.
   */
  async putBack(at: number): Promise<void> {
    if (!this.over) throw new RangeError('Only a rehearsal can be put back; paper and live go forward only')
    this.service.check()
    if (at > this.clock.now()) throw new RangeError('A rehearsal is put back to a moment that has passed')
    this.restoring = this.goBack(at).finally(() => (this.restoring = undefined))
    await this.restoring
    this.wake()
  }

  private goBack = (at: number): Promise<void> =>
    putBack({
      ...{ name: this.name, service: this.service, at, epoch: this.epoch, rate: this.clock.rate },
      append: (entries) => this.journal.append([...this.pending.splice(0), ...entries]),
      reread: () => this.reload(),
      rebuild: async () => {
        await this.journal.forget()
        await this.reload(true)
      },
    })

  /** Called after each change that reached the disk, and after each tick. Returns how to stop it. */
  listen(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  private wake(): void {
    for (const listener of [...this.listeners]) listener()
  }

  /** Closes the world; requests meanwhile are refused with `why`. */
  async close(why = 'is being closed'): Promise<void> {
    await this.service.stop({ why: `${this.name} ${why}.`, mend: 'Ask another world.' })
    this.isClosed = true
    this.wake()
    this.pending.push({ is: 'clock', clock: { ...this.clock.snapshot(), at: this.processed } })
    await this.commit().catch(() => undefined)
    await this.snap()
    await this.journal.close()
  }
}
