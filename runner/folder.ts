import { closeSync, existsSync, openSync, readdirSync, readFileSync, readSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { Plan } from '@/core/plans/document'
import { type RunEntry } from './entries'

/** A line of a journal: when it was written, by the clock on the wall and by that of the market. */
export type Line = { wall: string; market: string } & RunEntry

/** The sign of life of a run. */
export interface Heartbeat {
  pid: number
  wall: string
  market: string
  state: string
  /** Looks since `since`; left out by an earlier build. */
  looks?: number
  /** When it was begun first in this session, by the clock on the wall; left out by an earlier build. */
  since?: string
  version: number
  worldId: string
  /** Left out by an earlier build. */
  account?: string
}

/** A run that gives no sign of life for so long is taken for dead, milliseconds. */
const SILENCE = 20_000

/** Where traces lie, a file a session; what was written before they had their own lies in the journal. */
export const TRACES = 'traces'

/** Lines of a journal without its traces, or those of its last so many bytes; one that was cut off is passed over. */
export const linesOf = (folder: string, most = Infinity): Line[] =>
  linesIn(join(folder, 'journal.jsonl'), most)

/** Traces of a session, or of the last that has some, oldest first; of the last so many bytes. */
export function tracesOf(folder: string, date?: string, most = Infinity): Line[] {
  const name = date === undefined ? sessionsIn(folder).at(-1) : `${date}.jsonl`
  return name === undefined ? [] : linesIn(join(folder, TRACES, name), most)
}

/** Files of traces, oldest session first. */
export const sessionsIn = (folder: string): string[] => {
  const path = join(folder, TRACES)
  return existsSync(path)
    ? readdirSync(path)
        .filter((name) => name.endsWith('.jsonl'))
        .sort()
    : []
}

/** Numbers of the lines of a journal that cannot be read. */
export function damagedIn(folder: string): number[] {
  const path = join(folder, 'journal.jsonl')
  if (!existsSync(path)) return []
  return readFileSync(path, 'utf8')
    .split('\n')
    .flatMap((line, i) => {
      if (line === '') return []
      try {
        JSON.parse(line)
        return []
      } catch {
        return [i + 1]
      }
    })
}

function linesIn(path: string, most: number): Line[] {
  if (!existsSync(path)) return []
  return tailOf(path, most)
    .split('\n')
    .flatMap((line): Line[] => {
      try {
        return [JSON.parse(line) as Line]
      } catch {
        return []
      }
    })
}

function tailOf(path: string, most: number): string {
  const { size } = statSync(path)
  if (size <= most) return readFileSync(path, 'utf8')
  const file = openSync(path, 'r')
  try {
    const part = Buffer.alloc(most)
    readSync(file, part, 0, most, size - most)
    return part.toString('utf8')
  } finally {
    closeSync(file)
  }
}

/** The sign of life in a folder, and whether its process is there. */
export function heartbeatOf(folder: string): (Heartbeat & { lives: boolean }) | undefined {
  let beat: Heartbeat
  try {
    beat = JSON.parse(readFileSync(join(folder, 'heartbeat.json'), 'utf8')) as Heartbeat
  } catch {
    return undefined
  }
  const recent = Date.now() - Date.parse(beat.wall) < SILENCE
  return { ...beat, lives: beat.state !== 'stopped' && recent && isThere(beat.pid) }
}

function isThere(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    // It is there and another's.
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}

/** Where a run is told something from outside, a line each. */
export const INBOX = 'inbox.jsonl'

/** Where the version of a plan lies that ran last. */
export const PLAN_FILE = 'plan.json'

/** The plan that ran last in a folder; undefined where none is kept, or it cannot be read. */
export function planIn(folder: string): Plan | undefined {
  try {
    return Plan.parse(JSON.parse(readFileSync(join(folder, PLAN_FILE), 'utf8')))
  } catch {
    return undefined
  }
}

/** Names of the plans that have run in a folder. */
export const plansIn = (folder: string): string[] =>
  existsSync(folder)
    ? readdirSync(folder, { withFileTypes: true }).flatMap((one) => (one.isDirectory() ? [one.name] : []))
    : []

/** The lines of the last run in a folder with its traces, or what of them the last so many bytes of their files hold. */
export function lastRun(folder: string, most?: number): Line[] {
  const lines = linesOf(folder, most)
  const first = lines.findLast(({ is }) => is === 'started')
  return linesSince(folder, first?.wall, most)
}

/** The same, with those of the runs before it in one session: a plan that was begun again goes on with its day. */
export function sessionRun(folder: string, most?: number): Line[] {
  const since = heartbeatOf(folder)?.since
  return since === undefined ? lastRun(folder, most) : linesSince(folder, since, most)
}

/** Lines and traces from a moment on by the clock on the wall, in its order. */
function linesSince(folder: string, since = '', most?: number): Line[] {
  const all = [...linesOf(folder, most), ...tracesOf(folder, undefined, most)]
  return all
    .filter(({ wall }) => wall >= since)
    .sort((a, b) => (a.wall < b.wall ? -1 : a.wall > b.wall ? 1 : 0))
}
