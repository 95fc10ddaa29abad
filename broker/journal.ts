import { type FileHandle, mkdir, open, readFile, truncate } from 'node:fs/promises'
import { dirname } from 'node:path'

/** The journal cannot be read or written; `mend` says what to do. */
export class JournalError extends Error {
  constructor(
    message: string,
    readonly mend: string,
    options?: ErrorOptions,
  ) {
    super(message, options)
    this.name = 'JournalError'
  }
}

type Waiting = { lines: string; done: () => void; failed: (error: unknown) => void }

/**
 * What was acknowledged, one JSON document a line, in the order in which it happened. An append is done when
 * it is on the disk (fdatasync); those that come while one is being written go to the disk together.
 */
export class Journal<Entry> {
  private waiting: Waiting[] = []
  private flushing: Promise<void> | undefined

  private constructor(
    readonly path: string,
    private readonly file: FileHandle,
    private length: number,
  ) {}

  /**
   * Opens or creates a journal and reads it. A last line that was cut off in mid-write was never acknowledged
   * and is taken away. Throws JournalError where a line before it is damaged.
   */
  static async open<Entry>(path: string): Promise<{ journal: Journal<Entry>; entries: Entry[] }> {
    await mkdir(dirname(path), { recursive: true })
    const file = await open(path, 'a')
    try {
      const text = await readFile(path, 'utf8')
      const whole = text.slice(0, text.lastIndexOf('\n') + 1)
      const length = Buffer.byteLength(whole)
      if (length < Buffer.byteLength(text)) await truncate(path, length)
      return { journal: new Journal<Entry>(path, file, length), entries: readLines<Entry>(path, whole) }
    } catch (error) {
      await file.close()
      throw error
    }
  }

  /** Reads again what is on the disk: what remains true after a failed append. */
  async reread(): Promise<Entry[]> {
    return readLines<Entry>(this.path, await readFile(this.path, 'utf8'))
  }

  /** Writes entries; resolves when they are on the disk. Rejects with JournalError where they are not. */
  append(entries: readonly Entry[]): Promise<void> {
    if (entries.length === 0) return this.settled()
    const lines = entries.map((entry) => `${JSON.stringify(entry)}\n`).join('')
    return new Promise((done, failed) => {
      this.waiting.push({ lines, done, failed })
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
      const bytes = Buffer.from(batch.map((w) => w.lines).join(''))
      try {
        await this.file.appendFile(bytes)
        await this.file.datasync()
        this.length += bytes.length
        for (const w of batch) w.done()
      } catch (cause) {
        // Half a batch may have reached the disk: take it away, so that nothing stands there unacknowledged.
        await truncate(this.path, this.length).catch(() => undefined)
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

  async close(): Promise<void> {
    await this.settled()
    await this.file.close()
  }
}

function readLines<Entry>(path: string, text: string): Entry[] {
  const lines = text.split('\n')
  lines.pop()
  return lines.map((line, i) => {
    try {
      return JSON.parse(line) as Entry
    } catch (cause) {
      throw new JournalError(
        `Line ${i + 1} of the journal ${path} is damaged.`,
        'Put back a copy of the data folder, or start with an empty one (HERON_DATA).',
        { cause },
      )
    }
  })
}
