import { type FileHandle, chmod, copyFile, mkdir, open, truncate } from 'node:fs/promises'
import { dirname } from 'node:path'
import { JournalError } from './problem'
import { Damage, readRecords, recordAt, recordOf } from './records'
import { isFull, type Reserve } from './reserve'

type Waiting = { bytes: Buffer[]; done: (at: number[]) => void; failed: (error: unknown) => void }

/** How entries are read one by one: `take` is handed each from a place on, with where it begins. */
export interface Reading<Entry> {
  from?: number
  take(entry: Entry, at: number): void
}

export interface Opened<Entry> {
  journal: Journal<Entry>
  entries: Entry[]
  /** What was done to bring it back, for people; empty where nothing was. */
  said: string[]
}

/**
 * What was acknowledged, in the order in which it happened (see records). An append is done when it is on the disk
 * (fdatasync); those that come while one is being written go to the disk together. Only its owner can read it.
 */
export class Journal<Entry> {
  private waiting: Waiting[] = []
  private flushing: Promise<void> | undefined
  /** Half a batch may stand behind what was acknowledged: it goes before anything else is written. */
  private uncut = false

  /** Room on the disk that is laid by. */
  reserve: Reserve | undefined

  private constructor(
    readonly path: string,
    private readonly file: FileHandle,
    private bytes: number,
  ) {}

  /** Bytes that are on the disk. */
  get length(): number {
    return this.bytes
  }

  /**
   * Opens or creates a journal and reads it. What was cut off in mid-write was never acknowledged and is taken away.
   * Entries are given back, or handed to `reading` one by one. Throws JournalError where a record is damaged; `salvage` keeps what lies before it instead, and a copy of all of it.
   */
  static async open<Entry>(path: string, salvage = false, reading?: Reading<Entry>): Promise<Opened<Entry>> {
    await mkdir(dirname(path), { recursive: true, mode: 0o700 })
    const file = await open(path, 'a+', 0o600)
    try {
      await chmod(path, 0o600)
      const entries: Entry[] = []
      const said: string[] = []
      const { size } = await file.stat()
      let whole = 0
      try {
        const take = reading?.take ?? ((entry: Entry) => entries.push(entry))
        whole = await readRecords(file, (entry, at) => take(entry as Entry, at), reading?.from)
      } catch (error) {
        if (!(error instanceof Damage)) throw error
        const where = `Record ${error.record} of the journal ${path}, at byte ${error.at}, is damaged: ${error.message}.`
        if (!salvage)
          throw new JournalError(
            where,
            'Put back a copy of the data folder. Or start once with HERON_SALVAGE=1: what lies before it is kept, what follows is lost, and the damaged file stays beside.',
            { cause: error },
          )
        whole = error.at
        const aside = `${path}.damaged-${Date.now()}`
        await copyFile(path, aside)
        said.push(`${where} The ${error.record - 1} records before it were kept; all of it lies in ${aside}.`)
      }
      if (whole < size) {
        await truncate(path, whole)
        if (said.length === 0)
          said.push(`${size - whole} bytes at the end of ${path} were cut off in mid-write and taken away.`)
      }
      return { journal: new Journal<Entry>(path, file, whole), entries, said }
    } catch (error) {
      await file.close()
      throw error
    }
  }

  /** Reads again what is on the disk: what remains true after a failed append. */
  async reread(reading: Reading<Entry>): Promise<void> {
    await readRecords(this.file, (entry, at) => reading.take(entry as Entry, at), reading.from)
  }

  /** The entry that begins at a place. */
  readAt = (at: number): Entry => recordAt(this.file.fd, at) as Entry

  /** Writes entries; resolves with where each begins when they are on the disk. Rejects with JournalError where they are not. */
  async append(entries: readonly Entry[]): Promise<number[]> {
    if (entries.length === 0) {
      await this.settled()
      return []
    }
    const bytes = entries.map(recordOf)
    return new Promise((done, failed) => {
      this.waiting.push({ bytes, done, failed })
      this.flushing ??= this.flush()
    })
  }

  /** Resolves when everything appended so far is on the disk or has failed. */
  async settled(): Promise<void> {
    await this.flushing
  }

  /** Ends in the same breath in which it finds nothing waiting, so that no append can come too late to be seen. */
  private async flush(): Promise<void> {
    while (this.waiting.length > 0) {
      const batch = this.waiting
      this.waiting = []
      const bytes = Buffer.concat(batch.flatMap((w) => w.bytes))
      try {
        await this.write(bytes)
        let at = this.bytes
        this.bytes += bytes.length
        for (const w of batch)
          w.done(
            w.bytes.map((one) => {
              at += one.length
              return at - one.length
            }),
          )
      } catch (cause) {
        // Half a batch may have reached the disk: take it away, so that nothing stands there unacknowledged.
        await truncate(this.path, this.bytes).catch(() => (this.uncut = true))
        const error = new JournalError(
          `The journal ${this.path} cannot be written: ${(cause as Error).message}. Nothing of this was accepted.`,
          'Free some disk space or mend the folder, then send again.',
          { cause },
        )
        for (const w of [...batch, ...this.waiting]) w.failed(error)
        this.waiting = []
      }
    }
    this.flushing = undefined
  }

  private async write(bytes: Buffer): Promise<void> {
    try {
      await this.put(bytes)
    } catch (error) {
      // What must be kept although the disk is full takes from what was laid by for it.
      if (!isFull(error) || !(await this.reserve?.release(bytes.length))) throw error
      this.uncut = true
      await this.put(bytes)
    }
  }

  private async put(bytes: Buffer): Promise<void> {
    if (this.uncut) await truncate(this.path, this.bytes)
    this.uncut = false
    await this.file.appendFile(bytes)
    await this.file.datasync()
  }

  async close(): Promise<void> {
    await this.settled()
    await this.file.close()
  }
}
