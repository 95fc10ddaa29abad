import { existsSync, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { appendLine } from './lines'

/** Bytes of the traces of a session at most, and sessions whose traces are kept. */
const MOST_BYTES = 50 * 1024 * 1024
const MOST_SESSIONS = 30

/**
 * Traces of a run, a file for each session of the market. A session's file grows to a bound: beyond it only traces of orders are
 * written, since what they say cannot be told again from prices alone. The oldest sessions are taken away.
 */
export class Traces {
  private date = ''
  private size = 0

  constructor(
    private readonly folder: string,
    private readonly mostBytes = MOST_BYTES,
    private readonly mostSessions = MOST_SESSIONS,
  ) {}

  /** Writes a line of a session, by its date; `ordered`: it led to an order. */
  write(line: string, date: string, ordered: boolean): void {
    if (date !== this.date) this.begin(date)
    const bytes = Buffer.byteLength(line)
    if (this.size + bytes > this.mostBytes && !ordered) return
    appendLine(this.path(date), line)
    this.size += bytes
  }

  private readonly path = (date: string): string => join(this.folder, `${date}.jsonl`)

  private begin(date: string): void {
    mkdirSync(this.folder, { recursive: true, mode: 0o700 })
    this.date = date
    this.size = existsSync(this.path(date)) ? statSync(this.path(date)).size : 0
    const sessions = readdirSync(this.folder)
      .filter((name) => name.endsWith('.jsonl') && name !== `${date}.jsonl`)
      .sort()
    for (const name of sessions.slice(0, Math.max(0, sessions.length - this.mostSessions + 1)))
      rmSync(join(this.folder, name))
  }
}
