import { existsSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline/promises'
import { type Broker } from '@/client'
import { stamper } from '@/core/market/moments'
import { parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { planIssues } from '@/core/plans/check'
import { namedBy } from '@/core/plans/drawn'
import { differences, differenceText } from '@/core/plans/difference'
import { Plan } from '@/core/plans/document'
import { planProse } from '@/core/plans/say'
import { eventsOf } from '@/core/plans/eventList'
import { type DatedEvent } from '@/core/plans/seen'
import { knownAccount } from '@/runner/connect'
import { heartbeatOf } from '@/runner/folder'
import { Hub } from '@/runner/hub'
import { Run } from '@/runner/run'
import { EXIT, Failure, note } from './fail'
import { Journal } from './journal'
import { lineOf } from './planLines'
import { mostOf } from './planSummary'
import { connected, type TradingOptions } from './trading'

/** Reads a plan and says everything that is wrong with it, each at its place. Throws Failure. */
export function readPlan(path: string): Plan {
  let json: unknown
  try {
    json = JSON.parse(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new Failure(`${path} cannot be read as a plan: ${(error as Error).message}.`)
  }
  const read = Plan.safeParse(json)
  if (read.success) return read.data
  const wrong = read.error.issues.slice(0, 10)
  throw new Failure(
    `${path} is no plan:\n${wrong.map((one) => `  ${one.path.join('.') || '(whole)'}: ${one.message}`).join('\n')}`,
  )
}

/** A plan as prose, and what is to be known of it. Throws Failure where it cannot be armed. */
export function plan(path: string): string {
  const read = readPlan(path)
  const issues = planIssues(read)
  const lines = planProse(read).map(
    ({ clause, side, text }) =>
      `  ${`${clause}${side !== undefined && read.sides.length > 1 ? ` ${side + 1}` : ''}`.padEnd(12)}${text}`,
  )
  const told = issues.map(
    ({ clause, is, text }) => `  ${is === 'error' ? 'wrong' : 'note'} in ${clause}: ${text}`,
  )
  const out = [`${read.name}, version ${read.version}`, ...lines, ...told].join('\n')
  if (issues.some(({ is }) => is === 'error')) throw new Failure(`${out}\nIt cannot be armed like this.`)
  return `${out}\n`
}

/** What another version of a plan says differently. Throws Failure where either is no plan. */
export function difference(path: string, against: string): string {
  const found = differences(readPlan(against), readPlan(path))
  return found.length === 0 ? 'They say the same.\n' : `${found.map(differenceText).join('\n')}\n`
}

export interface RunOptions extends TradingOptions {
  arm?: boolean
  folder: string
  for?: number
  /** A CSV file of events: key, symbol, at, text; read again whenever it changes. */
  events?: string
  /** Conditions that hold already count as beginning when it starts. */
  now?: boolean
}

/** Events of a CSV file with the columns key, symbol, at and text. Throws Failure that names the line. */
export function readEvents(path: string): DatedEvent[] {
  let text: string
  try {
    text = readFileSync(path, 'utf8')
  } catch (error) {
    throw new Failure(`${path} cannot be read: ${(error as Error).message}.`)
  }
  const read = eventsOf(text)
  if ('wrong' in read) throw new Failure(`${path}: ${read.wrong}`)
  return read.events
}

/** Runs a plan until it is ended: armed it sends, else it watches and says what it would have sent. */
export async function run(path: string, options: RunOptions, print: (text: string) => void): Promise<string> {
  print(plan(path))
  const read = readPlan(path)
  const folder = join(options.folder, read.id)
  const there = heartbeatOf(folder)
  if (there?.lives)
    throw new Failure(
      `${read.name} runs already, as process ${there.pid}, ${there.state}. End that first: kill ${there.pid}.`,
      EXIT.running,
    )
  await runWith(await connected(options), read, options, print)
  return ''
}

/** Says what a plan could do in a day at most, and whether its condition holds now; runs it armed once the answer is yes. */
export async function arm(
  path: string,
  options: RunOptions & { yes?: boolean },
  print: (text: string) => void,
): Promise<string> {
  print(plan(path))
  const read = readPlan(path)
  const broker = await connected(options)
  print(`${(await mostOf(broker, read)).map((line) => `  ${line}`).join('\n')}\n`)
  if (!options.yes) {
    const asked = createInterface({ input: process.stdin, output: process.stderr })
    const answer = await asked.question(
      `Arm it in ${options.live ? 'live' : (options.world ?? 'paper')}? yes or no: `,
    )
    asked.close()
    if (answer.trim().toLowerCase() !== 'yes') return 'It is not armed.\n'
  }
  return run(path, { ...options, arm: true }, print)
}

async function runWith(
  broker: Broker,
  read: Plan,
  options: RunOptions,
  print: (text: string) => void,
): Promise<void> {
  const known = await knownAccount(broker, namedBy(read)).catch((error: Error) => {
    throw new Failure(error.message, EXIT.refused)
  })
  const stamp = stamper({ count: 1, unit: 'min' }, known.shared.home.zone)
  const journal = new Journal(join(options.folder, read.id), stamp, {
    version: read.version,
    worldId: known.worldId,
  })
  const { open, seen, since, view } = journal.before(known.worldId)
  const acts = options.arm === true
  const running = new Run({
    ...{ hub: new Hub(broker, known), plan: read, acts, seen, since, view, atOnce: options.now },
    write: (entry, at) => {
      journal.write(entry, at)
      const line = lineOf(entry, stamp(at).slice(11, 19))
      if (line) print(`${line}\n`)
    },
  })
  const events = new Followed(options.events)
  for (const one of events.fresh()) running.tell({ is: 'event', ...one })
  if (!acts) note('It watches and sends nothing. Say --arm to let it send.')
  await running.start()
  const bar = Math.max(...read.sides.map((side) => roughMinutes(parseTimeframe(side.if.every)!)))
  await running.resume(open, bar * 60_000)
  const beat = () => journal.beat(running.at, acts ? 'armed' : 'watching')
  beat()
  const timers = [
    setInterval(beat, 5_000),
    setInterval(() => {
      for (const told of journal.told()) {
        if ('wrong' in told) note(told.wrong)
        else running.tell(told)
      }
      for (const one of events.fresh()) running.tell({ is: 'event', ...one })
    }, 500),
  ]
  const why = await new Promise<string>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve(signal))
    if (options.for !== undefined) setTimeout(() => resolve('its time was over'), options.for * 1000)
  })
  for (const timer of timers) clearInterval(timer)
  await running.stop(why)
  journal.beat(running.at, 'stopped')
}

/** A file of events that may grow while it is followed; one that cannot be read is told, and what it gave before stays. */
class Followed {
  private changed = 0

  constructor(private readonly path: string | undefined) {}

  fresh(): DatedEvent[] {
    if (this.path === undefined) return []
    try {
      const changed = existsSync(this.path) ? statSync(this.path).mtimeMs : 0
      if (changed === this.changed) return []
      this.changed = changed
      return readEvents(this.path)
    } catch (error) {
      note((error as Error).message)
      return []
    }
  }
}
