import { planFileText } from '@/core/plans/file'
import { existsSync, mkdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { type Plan } from '@/core/plans/document'
import { type RunEntry } from '@/runner/entries'
import { type Heartbeat, heartbeatOf, INBOX, PLAN_FILE, TRACES } from '@/runner/folder'
import { Told } from '@/runner/told'
import { appendLine, endTornLine } from './lines'
import { Traces } from './traces'

/** What one run keeps in its folder: a journal of lines, a sign of life, and what it is told from outside. */
export class Journal {
  private readonly path: string
  private readonly inbox: string
  private readonly traces: Traces
  private read: number
  private readonly begun = new Date().toISOString()
  /** Since when looks are counted, and those of the runs before in the same session; known with the first sign of life. */
  private counted: { since: string; before: number } | undefined

  /** `stamp` tells a moment in the zone of the account's venue. */
  constructor(
    readonly folder: string,
    private readonly stamp: (at: number) => string,
    private readonly of: Pick<Heartbeat, 'version' | 'worldId' | 'account'>,
  ) {
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    this.path = join(folder, 'journal.jsonl')
    endTornLine(this.path)
    this.inbox = join(folder, INBOX)
    this.traces = new Traces(join(folder, TRACES))
    // What was told before it began was told another.
    this.read = existsSync(this.inbox) ? statSync(this.inbox).size : 0
  }

  write(entry: RunEntry, at: number): void {
    const line = `${JSON.stringify({ wall: new Date().toISOString(), market: this.stamp(at), ...entry })}\n`
    if (entry.is === 'trace')
      this.traces.write(line, this.stamp(at).slice(0, 10), entry.trace.clOrdId !== undefined)
    else appendLine(this.path, line)
  }

  /** Keeps the version that runs beside its journal. */
  keep(plan: Plan): void {
    this.put(PLAN_FILE, planFileText(plan))
  }

  beat(at: number, state: string, looks?: number): void {
    this.counted ??= this.countedFrom(this.stamp(at))
    const { since, before } = this.counted
    const sign: Heartbeat = {
      pid: process.pid,
      wall: new Date().toISOString(),
      market: this.stamp(at),
      state,
      looks: looks === undefined ? undefined : before + looks,
      since,
      ...this.of,
    }
    this.put('heartbeat.json', `${JSON.stringify(sign)}\n`)
  }

  /** A plan that was begun again in the session in which it ended goes on with its count. */
  private countedFrom(market: string): { since: string; before: number } {
    const last = heartbeatOf(this.folder)
    const { version, worldId, account } = this.of
    const goesOn =
      last?.since !== undefined &&
      last.market.slice(0, 10) === market.slice(0, 10) &&
      last.version === version &&
      last.worldId === worldId &&
      last.account === account
    return goesOn ? { since: last.since!, before: last.looks ?? 0 } : { since: this.begun, before: 0 }
  }

  /** Writes a file aside and moves it into place, so that whoever reads it meanwhile finds a whole one. */
  private put(name: string, text: string): void {
    const path = join(this.folder, name)
    writeFileSync(`${path}.part`, text, { mode: 0o600 })
    renameSync(`${path}.part`, path)
  }

  /** What was told since it was last asked; a line that says nothing is given as what is wrong with it. */
  told(): (Told | { wrong: string })[] {
    if (!existsSync(this.inbox)) return []
    const text = readFileSync(this.inbox).subarray(this.read).toString('utf8')
    const whole = text.slice(0, text.lastIndexOf('\n') + 1)
    this.read += Buffer.byteLength(whole)
    return whole
      .split('\n')
      .filter(Boolean)
      .map((line) => {
        try {
          return Told.parse(JSON.parse(line))
        } catch {
          return { wrong: `inbox.jsonl holds a line that says nothing: ${line.slice(0, 80)}` }
        }
      })
  }
}
