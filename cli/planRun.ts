import { join } from 'node:path'
import { createInterface } from 'node:readline/promises'
import { type Broker } from '@/client'
import { resultText } from '@/core/engine/say'
import { decimal } from '@/core/market/money'
import { stamper } from '@/core/market/moments'
import { mostText } from '@/core/plans/most'
import { parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { conflictsOf } from '@/core/plans/conflicts'
import { type Plan } from '@/core/plans/document'
import { contractsOf, namedBy } from '@/core/plans/drawn'
import { bound } from '@/core/plans/inputs'
import { obstacles } from '@/core/engine/obstacles'
import { knownAccount, type Known, listContracts } from '@/runner/connect'
import { heartbeatOf, lastRun, type Line, planIn, plansIn } from '@/runner/folder'
import { Hub } from '@/runner/hub'
import { rememberedIn } from '@/runner/remembered'
import { Run } from '@/runner/run'
import { stopThere } from '@/runner/stopThere'
import { Followed } from './events'
import { EXIT, Failure, note } from './fail'
import { Journal } from './journal'
import { plan, readFile, readPlan } from './plan'
import { lineOf } from './planLines'
import { mostOf } from './planSummary'
import { connected, type TradingOptions } from './trading'

export interface RunOptions extends TradingOptions {
  arm?: boolean
  folder: string
  for?: number
  /** A CSV file of events: key, symbol, at, text; read again whenever it changes. */
  events?: string
  /** Conditions that hold already count as beginning when it starts. */
  now?: boolean
}

type Print = (text: string) => void

/**
 * Runs plans until they are ended, in the order in which they are named: armed they send, else they watch and say what they would
 * have sent. They share one account: what one wants is kept back before the next is asked.
 */
export async function run(paths: readonly string[], options: RunOptions, print: Print): Promise<string> {
  for (const path of paths) print(plan(path))
  const files = paths.map(readFile)
  const plans = files.map((one) => one.plan)
  const twice = plans.find(({ id }, i) => plans.findIndex((one) => one.id === id) !== i)
  if (twice) throw new Failure(`${twice.name} is named twice.`, EXIT.usage)
  for (const { id, name } of plans) {
    const there = heartbeatOf(join(options.folder, id))
    if (there?.lives)
      throw new Failure(
        `${name} runs already, as process ${there.pid}, ${there.state}. End that first: heron stop ${id}. What arms it ends it by itself.`,
        EXIT.running,
      )
  }
  await runWith(await connected(options), files, options, print)
  return ''
}

/** Says what plans could do in a day at most, and whether the account suffices; runs them armed once the answer is yes. */
export async function arm(
  paths: readonly string[],
  options: RunOptions & { yes?: boolean },
  print: Print,
): Promise<string> {
  const broker = await connected(options)
  for (const path of paths) {
    print(plan(path))
    const read = readPlan(path)
    const runs = heartbeatOf(join(options.folder, read.id))
    const first = runs?.lives
      ? [
          `It runs already, ${runs.state}, version ${runs.version}, as process ${runs.pid}: that is ended first.`,
        ]
      : []
    const { lines, wrong, worldId } = await mostOf(broker, read)
    const beside = besideText(
      paths.map((one) => readPlan(one).id),
      options.folder,
      worldId,
    )
    print(`${[...lines, ...beside, ...first].map((line) => `  ${line}`).join('\n')}\n`)
    // Before what runs is ended for it.
    if (wrong.length > 0 && !goesOn(read, options.folder, worldId))
      throw new Failure(`${read.name} cannot be armed: ${wrong.join(' ')}`)
  }
  if (!options.yes) {
    const where = options.live ? 'live' : (options.world ?? 'paper')
    const answer = await answerTo(`Arm ${paths.length === 1 ? 'it' : 'them'} in ${where}? yes or no: `)
    if (answer === undefined)
      throw new Failure(
        'Nothing is armed: the input ended before an answer came. Say --yes where nobody is there to answer.',
        EXIT.usage,
      )
    if (answer.trim().toLowerCase() !== 'yes') return 'Nothing is armed.\n'
  }
  for (const { id, name } of paths.map(readPlan))
    if (!(await stopThere(join(options.folder, id), 'armed anew by the command line')))
      throw new Failure(`${name} runs already and has not ended in half a minute.`, EXIT.running)
  return run(paths, { ...options, arm: true }, print)
}

/** What is typed in answer to a question; undefined where the input ends before. */
async function answerTo(question: string): Promise<string | undefined> {
  const asked = createInterface({ input: process.stdin, output: process.stderr })
  const ended = new Promise<undefined>((resolve) => asked.once('close', () => resolve(undefined)))
  const answer = await Promise.race([asked.question(question), ended])
  asked.close()
  if (answer === undefined) process.stderr.write('\n')
  return answer
}

/** What the plans that are armed already hold and may send, a line each; those that are armed now are not among them. */
function besideText(ids: readonly string[], folder: string, worldId: string): string[] {
  return plansIn(folder).flatMap((id) => {
    const beat = heartbeatOf(join(folder, id))
    const other = planIn(join(folder, id))
    if (ids.includes(id) || !beat?.lives || beat.state !== 'armed' || beat.worldId !== worldId || !other)
      return []
    const result = lastRun(join(folder, id)).findLast((line) => line.is === 'result')
    const holds = result?.is === 'result' ? resultText(result) : 'holds nothing'
    const most = mostText(other, (amount) => decimal(amount, 0)).join(' ')
    return [`Armed beside it: ${other.name} ${holds}. ${most}`]
  })
}

/** Plans that open the other way in the same account, in a sentence each: those that run by the same folder, and each other. */
function inTheWay(plans: readonly Plan[], folder: string, { account, worldId }: Known): string[] {
  const others = plansIn(folder).flatMap((id) => {
    const beat = heartbeatOf(join(folder, id))
    const other = planIn(join(folder, id))
    const here = beat?.lives === true && beat.state === 'armed'
    if (!here || !other || beat.worldId !== worldId || beat.account !== account) return []
    return [{ plan: other, looksAt: lookedAt(lastRun(join(folder, id))), is: 'armed' }]
  })
  return plans.flatMap((one, i) => {
    const before = plans
      .slice(0, i)
      .map((other) => ({ plan: other, looksAt: [] as string[], is: 'named before it' }))
    return [...others, ...before].flatMap((other) => {
      const both = conflictsOf(one, [], other.plan, other.looksAt)
      return both.length === 0
        ? []
        : [
            `${other.plan.name} is ${other.is} and opens the other way in ${both.join(', ')}. ${other.is === 'armed' ? 'End it first' : 'Arm one of the two'}, or take them out of Among of ${one.name}.`,
          ]
    })
  })
}

/** Whether a plan was armed in a folder, in this version, and its process was killed. */
const goesOn = ({ id, version }: Plan, folder: string, worldId: string): boolean =>
  rememberedIn(join(folder, id), worldId).interrupted === version

/**
 * Throws Failure for a plan that the account may not trade. One that goes on after it was killed is not asked: what it holds is to be
 * watched.
 */
async function checkMayTrade(broker: Broker, known: Known, given: Plan, folder: string): Promise<void> {
  if (goesOn(given, folder, known.worldId)) return
  const one = bound(given)
  await listContracts(broker, known.shared.listed, contractsOf(one))
  const wrong = obstacles(one, known.shared)
  if (wrong.length > 0)
    throw new Failure([`${one.name} cannot be armed.`, ...wrong.map((line) => `  ${line}`)].join('\n'))
}

/** What a run looks at, as its journal tells. */
const lookedAt = (lines: readonly Line[]): string[] =>
  lines.flatMap((line) => (line.is === 'universe' ? [...line.symbols] : []))

type PlanFile = ReturnType<typeof readFile>

interface Runs {
  run: Run
  journal: Journal
}

async function runWith(
  broker: Broker,
  files: readonly PlanFile[],
  options: RunOptions,
  print: Print,
): Promise<void> {
  const plans = files.map((one) => one.plan)
  const known = await knownAccount(broker, plans.flatMap(namedBy))
  const acts = options.arm === true
  const conflicts = acts ? inTheWay(plans, options.folder, known) : []
  if (conflicts.length > 0) throw new Failure(conflicts.join('\n'), EXIT.running)
  if (acts) for (const one of plans) await checkMayTrade(broker, known, one, options.folder)
  if (!acts) note('It watches and sends nothing. Say --arm to let it send.')
  const hub = new Hub(broker, known)
  const events = new Followed(options.events)
  const first = events.fresh()
  const runs: Runs[] = []
  for (const file of files) {
    const one = file.plan
    const begun = begin(file, hub, options, acts, plans.length > 1 ? `${one.id} ` : '', print)
    runs.push(begun)
    // Before it says that it runs, so that whoever reads that finds its sign of life.
    begun.journal.beat(begun.run.at, acts ? 'armed' : 'watching')
    try {
      for (const event of first) begun.run.tell({ is: 'event', ...event })
      await begun.run.start()
      await begun.run.resume(begun.open, longestBar(one) * 60_000)
    } catch (error) {
      // All of them run, or none.
      for (const other of runs) await other.run.stop(`${one.name} could not be begun`)
      throw new Failure(`${one.name}: ${(error as Error).message}`)
    }
  }
  const state = acts ? 'armed' : 'watching'
  const beat = () => {
    try {
      for (const { run: one, journal } of runs)
        journal.beat(one.at, one.idleWhy === undefined ? state : 'idle', one.looks)
    } catch {
      // A sign of life that cannot be written is none: who looks sees that.
    }
  }
  beat()
  const timers: NodeJS.Timeout[] = [setInterval(beat, 5_000)]
  const why = await new Promise<string>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve(signal))
    if (options.for !== undefined) setTimeout(() => resolve('its time was over'), options.for * 1000)
    const listen = () => {
      const fresh = events.fresh()
      for (const one of [...runs]) {
        for (const told of one.journal.told()) {
          if ('wrong' in told) note(told.wrong)
          else if (told.is !== 'stop') one.run.tell(told)
          else {
            runs.splice(runs.indexOf(one), 1)
            void ended(one, told.why).then(() => runs.length === 0 && resolve('all of them were ended'))
            break
          }
        }
        for (const event of fresh) one.run.tell({ is: 'event', ...event })
      }
    }
    timers.push(setInterval(listen, 500))
  })
  for (const timer of timers) clearInterval(timer)
  for (const one of runs) await ended(one, why)
}

/** Ends a run; its last sign of life says so. */
async function ended({ run: one, journal }: Runs, why: string): Promise<void> {
  await one.stop(why)
  journal.beat(one.at, 'stopped', one.looks)
}

const longestBar = ({ sides }: Plan): number =>
  Math.max(...sides.map((side) => roughMinutes(parseTimeframe(side.if.every)!)))

/** One plan made ready to run, with what its folder holds of it. */
function begin(
  { plan: one, memory }: PlanFile,
  hub: Hub,
  options: RunOptions,
  acts: boolean,
  before: string,
  print: Print,
) {
  const { shared, worldId, account } = hub.known
  const stamp = stamper({ count: 1, unit: 'min' }, shared.home.zone)
  const journal = new Journal(join(options.folder, one.id), stamp, { version: one.version, worldId, account })
  journal.keep(one)
  const earlier = rememberedIn(journal.folder, worldId)
  const brought = memory?.worldId === worldId ? memory : undefined
  if (memory && !brought)
    note(`${one.name}: what its file remembers is of another world, and is not taken over.`)
  const { open } = earlier
  // What goes on after it was killed has acted on what held when it was begun.
  const after = earlier.interrupted === one.version
  if (options.now && after)
    note(
      `${one.name} goes on where it was interrupted: it waits for the next time that its condition begins.`,
    )
  const seen = { ...brought?.seen, ...earlier.seen }
  // Plans that are begun one after the other count from one moment what is in their lists of events.
  const since = earlier.since ?? brought?.since ?? hub.known.now
  const view = earlier.view ?? brought?.view
  const running = new Run({
    ...{ hub, plan: one, acts, seen, since, view, atOnce: options.now && !after, goesOn: after },
    trouble: (why) =>
      note(
        `${why}. Nothing that opens is sent until it can be written down again; what is held is still left.`,
      ),
    write: (entry, at) => {
      journal.write(entry, at)
      const line = lineOf(entry, stamp(at).slice(11, 19))
      if (line) print(`${before}${line}\n`)
    },
  })
  // What was brought is the run's own from now on.
  for (const [key, entry] of Object.entries(brought?.seen ?? {}))
    if (!earlier.seen[key]) journal.write({ is: 'seen', key, entry }, hub.at)
  return { run: running, journal, open }
}
