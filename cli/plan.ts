import { appendFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { stamper } from '@/core/market/moments'
import { parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { type NewOrder } from '@/core/orders/model'
import { sayTrace } from '@/core/engine/say'
import { planIssues } from '@/core/plans/check'
import { differences, differenceText } from '@/core/plans/difference'
import { Plan } from '@/core/plans/document'
import { planProse } from '@/core/plans/say'
import { knownAccount } from '@/runner/connect'
import { Run, type RunEntry } from '@/runner/run'
import { Failure, note } from './fail'
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
}

/** What one run keeps: a journal of lines, and a sign of life. */
class Journal {
  private readonly path: string

  /** `stamp` tells a moment in the zone of the account's venue. */
  constructor(
    private readonly folder: string,
    private readonly stamp: (at: number) => string,
  ) {
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    this.path = join(folder, 'journal.jsonl')
  }

  write(entry: RunEntry, at: number): void {
    const line = { wall: new Date().toISOString(), market: this.stamp(at), ...entry }
    appendFileSync(this.path, `${JSON.stringify(line)}\n`, { mode: 0o600 })
  }

  beat(at: number, state: string): void {
    const sign = {
      pid: process.pid,
      wall: new Date().toISOString(),
      market: new Date(at).toISOString(),
      state,
    }
    writeFileSync(join(this.folder, 'heartbeat.json'), `${JSON.stringify(sign)}\n`)
  }

  /** Intents of which no answer was written: a run may have ended between the two. A line that was cut off is passed over. */
  open(): { order: NewOrder; at: number }[] {
    if (!existsSync(this.path)) return []
    const found = new Map<string, { order: NewOrder; at: number }>()
    for (const line of readFileSync(this.path, 'utf8').split('\n')) {
      let entry: RunEntry
      try {
        entry = JSON.parse(line) as RunEntry
      } catch {
        continue
      }
      if (entry.is === 'intent' && entry.sends)
        found.set(entry.intent.order.clOrdId, { order: entry.intent.order, at: entry.intent.at })
      else if ('clOrdId' in entry) found.delete(entry.clOrdId)
    }
    return [...found.values()]
  }
}

/** One line for the person who watches, in the time of the account's venue. */
function lineOf(entry: RunEntry, time: string): string | undefined {
  switch (entry.is) {
    case 'started':
      return `${time} ${entry.acts ? 'armed' : 'watching'}: ${entry.plan}, version ${entry.version}`
    case 'trace':
      return `${time} ${sayTrace(entry.trace)}`
    case 'intent': {
      const { side, orderQty, symbol, ordType } = entry.intent.order
      return `${time} ${entry.sends ? 'sends' : 'would send'} ${side} ${orderQty} ${symbol} ${ordType}`
    }
    case 'taken':
      return `${time} the broker took ${entry.clOrdId} after ${entry.waited} ms`
    case 'refused':
    case 'not sent':
      return `${time} ${entry.clOrdId} ${entry.is}: ${entry.why}`
    case 'report': {
      const { execType, side, lastQty, symbol, lastPx } = entry.report
      return execType === 'Trade' ? `${time} ${side} ${lastQty} ${symbol} at ${lastPx}` : undefined
    }
    case 'connection':
      return entry.there ? `${time} the broker is there again` : `${time} the broker is away: ${entry.why}`
    case 'stopped':
      return `${time} stopped: ${entry.why}`
  }
}

/** Runs a plan until it is ended: armed it sends, else it watches and says what it would have sent. */
export async function run(path: string, options: RunOptions, print: (text: string) => void): Promise<string> {
  print(plan(path))
  const read = readPlan(path)
  const broker = await connected(options)
  const symbols = [...new Set(read.sides.flatMap((side) => side.among.list))]
  const known = await knownAccount(broker, symbols).catch((error: Error) => {
    throw new Failure(error.message)
  })
  const stamp = stamper({ count: 1, unit: 'min' }, known.shared.home.zone)
  const journal = new Journal(join(options.folder, read.id), stamp)
  const open = journal.open()
  const acts = options.arm === true
  const running = new Run({
    ...{ broker, known, plan: read, acts },
    write: (entry, at) => {
      journal.write(entry, at)
      const line = lineOf(entry, stamp(at).slice(11, 19))
      if (line) print(`${line}\n`)
    },
  })
  if (!acts) note('It watches and sends nothing. Say --arm to let it send.')
  await running.start()
  const bar = Math.max(...read.sides.map((side) => roughMinutes(parseTimeframe(side.if.every)!)))
  await running.resume(open, bar * 60_000)
  const beat = () => journal.beat(running.at, acts ? 'armed' : 'watching')
  beat()
  const timer = setInterval(beat, 5_000)
  const why = await new Promise<string>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve(signal))
    if (options.for !== undefined) setTimeout(() => resolve('its time was over'), options.for * 1000)
  })
  clearInterval(timer)
  await running.stop(why)
  journal.beat(running.at, 'stopped')
  return ''
}
