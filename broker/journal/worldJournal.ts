import { randomUUID } from 'node:crypto'
import { access, mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { bringOver } from './format1'
import { Journal } from './journal'
import { expectSame, FORMAT, readWorldFile, type WorldFile, writeWorldFile } from './worldFile'

const there = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  )

/** How much a journal grows before its length is noted again beside it, in bytes. */
const NOTED_EVERY = 1 << 20

/** The journal of a world, with what stands beside it, so that one that is missing or shorter is not begun anew. */
export class WorldJournal<Entry> {
  private constructor(
    private readonly journal: Journal<Entry>,
    private readonly notePath: string,
    private note: WorldFile,
  ) {}

  /** Names this world, for as long as its journal lasts. */
  get world(): string {
    return this.note.world
  }

  /**
   * Opens what lies in a folder, or begins it. `said` tells people what was done to bring it back. Throws JournalError where
   * it is damaged, shorter than it was, or of another seed; `salvage` goes on with what is left.
   */
  static async open<Entry>(
    folder: string,
    { seed, salvage }: { seed: string; salvage: boolean },
  ): Promise<{ journal: WorldJournal<Entry>; entries: Entry[]; said: string[] }> {
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
    const opened = await Journal.open<Entry>(path, salvage)
    try {
      const { length } = opened.journal
      if (note) expectSame(note, path, { seed, length: salvage ? note.length : length })
      const about = { world: note?.world ?? randomUUID(), seed, format: FORMAT, length } as const
      if (!note && said.length === 0 && opened.entries.length > 0)
        said.push(
          `${notePath} was missing and was written anew: whether the journal is whole cannot be told.`,
        )
      await writeWorldFile(notePath, about)
      const journal = new WorldJournal(opened.journal, notePath, about)
      return { journal, entries: opened.entries, said: [...said, ...opened.said] }
    } catch (error) {
      await opened.journal.close()
      throw error
    }
  }

  reread = (): Promise<Entry[]> => this.journal.reread()

  /** Writes entries; resolves when they are on the disk. Rejects with JournalError where they are not. */
  async append(entries: readonly Entry[]): Promise<void> {
    await this.journal.append(entries)
    // A note that cannot be written now is written later: it says at least how much there is.
    if (this.journal.length - this.note.length >= NOTED_EVERY) await this.noteLength().catch(() => undefined)
  }

  settled = (): Promise<void> => this.journal.settled()

  private async noteLength(): Promise<void> {
    this.note = { ...this.note, length: this.journal.length }
    await writeWorldFile(this.notePath, this.note)
  }

  async close(): Promise<void> {
    await this.journal.settled()
    await this.noteLength().catch(() => undefined)
    await this.journal.close()
  }
}
