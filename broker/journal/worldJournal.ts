import { randomUUID } from 'node:crypto'
import { access, mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { bringOver } from './format1'
import { MARKET_VERSION } from '../market/version'
import { Journal } from './journal'
import { isFull, Reserve } from './reserve'
import { dropSnapshot, readSnapshot, type Snapshot, writeSnapshot } from './snapshot'
import { expectSame, FORMAT, readWorldFile, type WorldFile, writeWorldFile } from './worldFile'

const there = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  )

/** Bytes that are laid by on the disk: some thousands of reports. */
const RESERVED = 2 << 20

const FULL =
  'The disk is full: nothing can be written, so the broker only answers what is asked. Free some disk space; it goes on by itself.'

/** Builds a world from what is kept: first its snapshot, if there is one, then every entry after it with its place. */
export interface Restore<Entry, State> {
  begin(snapshot: Snapshot<State> | undefined): void
  take(entry: Entry, at: number): void
}

/** How much a journal grows before its length is noted again beside it, in bytes. */
const NOTED_EVERY = 1 << 20

/** The journal of a world, with what stands beside it, so that one that is missing or shorter is not begun anew. */
export class WorldJournal<Entry, State> {
  private constructor(
    private readonly journal: Journal<Entry>,
    private readonly folder: string,
    private note: WorldFile,
    /** True after a start on a full disk, until something can be written. */
    private full: boolean,
  ) {}

  /** Names this world, for as long as its journal lasts. */
  get world(): string {
    return this.note.world
  }

  /**
   * Opens what lies in a folder, or begins it: `restore` is handed what is kept. `said` tells people what was done to
   * bring it back. Throws JournalError where it is damaged, shorter than it was, or of another seed; `salvage` goes on with what
   * is left.
   */
  static async open<Entry, State>(
    folder: string,
    { seed, salvage }: { seed: string; salvage: boolean },
    restore: Restore<Entry, State>,
  ): Promise<{ journal: WorldJournal<Entry, State>; isNew: boolean; said: string[] }> {
    const [path, before, notePath] = ['journal.log', 'journal.ndjson', 'world.json'].map((name) =>
      join(folder, name),
    )
    await mkdir(folder, { recursive: true, mode: 0o700 })
    const note = await readWorldFile(notePath)
    const said: string[] = []
    if (!note && !(await there(path)) && (await there(before))) {
      const count = await bringOver(before, path)
      said.push(
        `${count} records of an earlier build were brought over; its journal stays as ${before}.before.`,
      )
    }
    // What is salvaged may end before the snapshot does.
    const snapshot = salvage ? undefined : await readSnapshot<State>(folder)
    restore.begin(snapshot)
    let any = snapshot !== undefined
    const take = (entry: Entry, at: number) => {
      any = true
      restore.take(entry, at)
    }
    const opened = await Journal.open<Entry>(path, salvage, { from: snapshot?.length, take })
    try {
      const { length } = opened.journal
      const found = { seed, length: salvage && note ? note.length : length, market: MARKET_VERSION }
      if (note) expectSame(note, path, found)
      const market = MARKET_VERSION
      const about = { world: note?.world ?? randomUUID(), seed, format: FORMAT, market, length } as const
      if (!note && said.length === 0 && any)
        said.push(
          `${notePath} was missing and was written anew: whether the journal is whole cannot be told.`,
        )
      const full = await writeWorldFile(notePath, about).then(
        () => false,
        (error: unknown) => {
          // A full disk does not stop a world that has its file already.
          if (!note || !isFull(error)) throw error
          said.push(FULL)
          return true
        },
      )
      opened.journal.reserve = await Reserve.open(join(folder, 'reserve'), RESERVED)
      const journal = new WorldJournal<Entry, State>(opened.journal, folder, about, full)
      return { journal, isNew: !any, said: [...said, ...opened.said] }
    } catch (error) {
      await opened.journal.close()
      throw error
    }
  }

  /** Reads again what is on the disk. */
  async reread(restore: Restore<Entry, State>): Promise<void> {
    const snapshot = await readSnapshot<State>(this.folder)
    restore.begin(snapshot)
    await this.journal.reread({ from: snapshot?.length, take: restore.take })
  }

  readAt = (at: number): Entry => this.journal.readAt(at)

  /** True while the disk is so full that what was laid by is used: only what must be kept is written. */
  get isLow(): boolean {
    return this.full || (this.journal.reserve?.isLow ?? false)
  }

  /** Lays by again what was used, if the disk has room by now. */
  async refill(): Promise<void> {
    if (this.full)
      this.full = await this.noteLength().then(
        () => false,
        () => true,
      )
    await this.journal.reserve?.refill()
  }

  /** Bytes that are on the disk. */
  get length(): number {
    return this.journal.length
  }

  /** Keeps what the world is at this length, so that a start need not read all of its past. */
  async keep(snapshot: Snapshot<State>): Promise<void> {
    await writeSnapshot(this.folder, snapshot)
    await this.noteLength()
  }

  forget = (): Promise<void> => dropSnapshot(this.folder)

  /** Writes entries; resolves with where each begins when they are on the disk. Rejects with JournalError where they are not. */
  async append(entries: readonly Entry[]): Promise<number[]> {
    const places = await this.journal.append(entries)
    // Never waited for: who appended next would overtake this one. What cannot be noted now is noted later.
    if (this.journal.length - this.note.length >= NOTED_EVERY) void this.noteLength().catch(() => undefined)
    return places
  }

  settled = (): Promise<void> => this.journal.settled()

  private noting: Promise<unknown> = Promise.resolve()

  /** Writes the journal's length beside it, one note after the other. */
  private noteLength(): Promise<void> {
    this.note = { ...this.note, length: this.journal.length }
    const { note } = this
    const written = this.noting.then(() => writeWorldFile(join(this.folder, 'world.json'), note))
    this.noting = written.catch(() => undefined)
    return written
  }

  async close(): Promise<void> {
    await this.journal.settled()
    await this.noteLength().catch(() => undefined)
    await this.journal.close()
  }
}
