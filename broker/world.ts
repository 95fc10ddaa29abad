import { DateTime } from 'luxon'
import { toE4 } from '@/core/market/money'
import { type Book, emptyBook, takeReport } from '@/core/book/book'
import { type ExecutionReport, type NewOrder, type Order } from '@/core/orders/model'
import { Clock, type ClockState } from './clock'
import { Exchange } from './exchange/exchange'
import { WorldJournal } from './journal/worldJournal'
import { type Key, makeKey, type Scope, type Environment } from './keys'
import { type Market } from './market/market'
import { Markets } from './market/markets'

/** What the journal holds. */
export type Entry =
  | { is: 'account'; account: string; cash: number }
  | { is: 'key'; key: Key }
  | { is: 'clock'; clock: ClockState }
  | { is: 'report'; report: ExecutionReport }

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
}

export const PAPER_ACCOUNT = 'PAPER-1'

/** How often the clock is written down while it runs, in real milliseconds. */
const CLOCK_KEPT_EVERY = 5_000

/**
 * The outside world in one place: market, clock, the paper account and its exchange, and the journal that they
 * all come back from. Everything that changes goes through `act`, which ends when it is on the disk.
 */
export class World {
  readonly keys = new Map<string, Key>()
  /** Reports that are on the disk, in order; what the outside may see. */
  reports: ExecutionReport[] = []
  book!: Book
  exchange!: Exchange
  clock!: Clock
  private pending: Entry[] = []
  private processed = 0
  private clockKeptAt = 0
  private restoring: Promise<void> | undefined
  private readonly listeners = new Set<() => void>()

  private constructor(
    readonly markets: Markets,
    private readonly journal: WorldJournal<Entry>,
    private readonly real: () => number,
  ) {}

  /** Names this world: what another told is told apart by it. */
  get id(): string {
    return this.journal.world
  }

  /** The home market, where orders go. */
  get market(): Market {
    return this.markets.home
  }

  /** Opens the data folder, or begins a new world in an empty one. */
  static async open(options: WorldOptions): Promise<World> {
    const { dataDir, seed, start, firstDate = '2021-03-15', real = Date.now, startingCash = 50_000 } = options
    const { securities = 0, salvage = false, say = () => undefined } = options
    const begins = DateTime.fromISO(start)
    if (!begins.isValid)
      throw new RangeError(`HERON_START "${start}" is no date and time; write 2026-03-16T10:42:00-03:00`)
    const { journal, entries, said } = await WorldJournal.open<Entry>(dataDir, { seed, salvage })
    for (const what of said) say(what)
    const until = begins.plus({ days: 400 }).toISODate()!
    const world = new World(new Markets(seed, firstDate, until, securities), journal, real)
    const fresh: Entry[] = [
      { is: 'account', account: PAPER_ACCOUNT, cash: startingCash },
      { is: 'clock', clock: { at: begins.toMillis(), rate: 1, running: true } },
    ]
    if (entries.length === 0) await journal.append(fresh)
    world.restore(entries.length === 0 ? fresh : entries)
    return world
  }

  /** Builds everything from what the journal holds. */
  private restore(entries: readonly Entry[]): void {
    let clock: ClockState | undefined
    this.book = emptyBook()
    this.reports = []
    this.keys.clear()
    this.pending = []
    for (const entry of entries) {
      if (entry.is === 'account') this.book.cashE4 = toE4(entry.cash)
      else if (entry.is === 'key') this.keys.set(entry.key.keyId, entry.key)
      else if (entry.is === 'clock') clock = entry.clock
      else {
        takeReport(this.book, entry.report)
        this.reports.push(entry.report)
      }
    }
    if (!clock) throw new Error('The journal holds no clock; start with an empty data folder (HERON_DATA)')
    // The market never goes back before something that happened in it.
    const last = this.reports.at(-1)
    const at = Math.max(clock.at, last ? Date.parse(last.transactTime) : 0)
    this.markets.reach(at)
    this.clock = new Clock({ ...clock, at }, this.market, this.real)
    this.exchange = new Exchange(this.markets, this.book, (report) =>
      this.pending.push({ is: 'report', report }),
    )
    this.processed = at
    this.clockKeptAt = this.real()
  }

  /** Market time as ISO text with the venue's offset. */
  timeText = (moment = this.clock.now(), zone = this.market.venue.zone): string =>
    DateTime.fromMillis(moment, { zone }).toISO({ suppressMilliseconds: true })!

  /** Session date of now, or of the last session while the market is closed. */
  today(): string {
    const begun = this.market.sessionsBegunBy(this.clock.now())
    return begun[begun.length - 1].date
  }

  /**
   * Does something to the world and resolves when it is on the disk. Where the disk refuses, everything not
   * written is undone by reading the journal again, and the JournalError is thrown.
   */
  async act<T>(change: () => T): Promise<T> {
    await this.restoring
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
    for (const entry of entries) if (entry.is === 'report') this.reports.push(entry.report)
    for (const listener of [...this.listeners]) listener()
    // New orders meet the book only after their acknowledgement is kept. A failing disk is told by the next
    // change; until then they rest as New.
    if (this.exchange.hasFresh)
      void this.act(() => this.exchange.workFresh(this.clock.now())).catch(() => undefined)
  }

  /** Resolves when all that has happened so far is on the disk, so that readers see nothing that may be undone. */
  async settled(): Promise<void> {
    await this.restoring
    await this.journal.settled()
  }

  private catchUp(): void {
    const now = this.clock.now()
    if (now <= this.processed) return
    this.exchange.advance(this.processed, now)
    this.processed = now
  }

  /** Lets the market run on to the present; called several times a second. */
  async tick(): Promise<void> {
    await this.act(() => {
      const skip = this.clock.skipsTo()
      if (skip !== undefined) this.moveClock(skip)
      this.markets.reach(this.clock.now())
      if (this.clock.running && this.real() - this.clockKeptAt > CLOCK_KEPT_EVERY) this.keepClock()
    })
  }

  private keepClock(): void {
    this.clockKeptAt = this.real()
    this.pending.push({ is: 'clock', clock: this.clock.snapshot() })
  }

  private moveClock(at: number): void {
    this.clock.moveTo(at)
    this.catchUp()
    this.keepClock()
  }

  /** Runs, pauses or paces the clock, or moves it on; what happens on the way happens. */
  setClock(change: { running?: boolean; rate?: number; moveTo?: number }): Promise<void> {
    return this.act(() => {
      if (change.moveTo !== undefined) this.moveClock(change.moveTo)
      this.clock.set({ running: change.running, rate: change.rate })
      this.keepClock()
    })
  }

  submit = (order: NewOrder) => this.act(() => this.exchange.submit(order, this.clock.now()))

  cancel = (order: Order, text?: string) =>
    this.act(() => this.exchange.cancel(order, this.clock.now(), text))

  async createKey(about: {
    environment: Environment
    scopes: Scope[]
    name: string
  }): Promise<{ key: Key; secret: string }> {
    const made = await makeKey({ ...about, account: PAPER_ACCOUNT })
    await this.act(() => {
      this.keys.set(made.key.keyId, made.key)
      this.pending.push({ is: 'key', key: made.key })
    })
    return made
  }

  /** Called after each change that reached the disk, and after each tick. Returns how to stop it. */
  listen(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  async close(): Promise<void> {
    this.keepClock()
    await this.commit().catch(() => undefined)
    await this.journal.close()
  }
}
