import { accessSync, constants, mkdirSync, statfsSync } from 'node:fs'
import { type Broker, BrokerProblem, follow } from '@/client'
import { obstacles } from '@/core/engine/obstacles'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { timeframeText } from '@/core/market/timeframe'
import { planIssues } from '@/core/plans/check'
import { type Plan, type Side } from '@/core/plans/document'
import { contractsOf } from '@/core/plans/drawn'
import { bound } from '@/core/plans/inputs'
import { ownBarsText } from '@/core/plans/ownBars'
import { readingsOf } from '@/core/plans/texts'
import { knownAccount, listContracts, type Known } from '@/runner/connect'
import { standsNow } from '@/runner/standsNow'
import { universeOf } from '@/runner/universe'
import { Failure } from './fail'
import { readPlan } from './plan'
import { connected, type TradingOptions } from './trading'

export interface CheckOptions extends TradingOptions {
  folder: string
}

/** Before the night: what a plan needs, one line each, and whether it is there. Throws Failure where something is not. */
export async function check(path: string, options: CheckOptions): Promise<string> {
  const given = readPlan(path)
  const plan = bound(given)
  const out: string[] = []
  let wrong = 0
  const say: Say = (what, fine, how) => {
    if (!fine) wrong++
    out.push(`${fine === 'note' ? 'note ' : fine ? 'fine ' : 'WRONG'} ${what}: ${how}`)
  }
  for (const { clause, is, text } of planIssues(given))
    if (is === 'error') say('plan', false, `${clause}: ${text}`)
  checkDisk(options.folder, say)
  const broker = await connected(options)
  await checkAnswers(broker, say)
  const known = await knownAccount(broker, [])
  await listContracts(broker, known.shared.listed, contractsOf(plan))
  for (const why of obstacles(plan, known.shared)) say('account', false, why)
  const stands = await standsNow(broker, given)
  for (const one of stands.odd) say('condition', 'note', one)
  const looksAt = new Set<string>()
  for (const [at, side] of plan.sides.entries())
    for (const symbol of await checkSide(broker, known, plan, at, side, say)) looksAt.add(symbol)
  for (const [name, own] of Object.entries(plan.bars ?? {}))
    say('own bars', true, `${name}: ${ownBarsText(own)}`)
  const followed = [...looksAt, ...contractsOf(plan)]
  // Where nothing is found now any security tells whether the market is heard.
  await checkStreams(broker, followed.length > 0 ? followed : Object.keys(known.shared.listed), say)
  const text = `${out.join('\n')}\n`
  if (wrong > 0)
    throw new Failure(`${text}${wrong} of ${out.length} are wrong: mend them before it is left alone.`)
  return text
}

type Say = (what: string, fine: boolean | 'note', how: string) => void

/** How soon the broker answers, and what the key may do. */
async function checkAnswers(broker: Broker, say: Say): Promise<void> {
  const times: number[] = []
  let who = await broker.whoami()
  for (let i = 0; i < 5; i++) {
    const began = performance.now()
    who = await broker.whoami()
    times.push(performance.now() - began)
  }
  times.sort((a, b) => a - b)
  say(
    'latency',
    times[2] < 1000,
    `half of the answers within ${times[2].toFixed(0)} ms, the slowest ${times[4].toFixed(0)} ms`,
  )
  say('rights', who.scopes.includes('send-orders'), `the key may ${who.scopes.join(', ')}`)
}

/** What a side looks at now, and whether there are bars of it, of each length that it is asked on. Gives what it looks at. */
async function checkSide(
  broker: Broker,
  { shared, reports }: Known,
  plan: Plan,
  at: number,
  side: Side,
  say: Say,
): Promise<string[]> {
  let symbols: string[]
  try {
    symbols = (await universeOf(broker, plan, at, shared, reports)).symbols
  } catch (error) {
    say('among', false, (error as Error).message)
    return []
  }
  if (!('list' in side.among || 'pairs' in side.among))
    say('among', true, symbols.length === 0 ? 'nothing is found now' : `${symbols.length} are found now`)
  if ('pairs' in side.among) symbols = [...new Set(side.among.pairs.flat())]
  const there = symbols.filter((symbol) => shared.listed[symbol])
  if (there.length === 0) return []
  for (const every of new Set(readingsOf(side).map((one) => timeframeText(one.every)))) {
    try {
      const set = openTable(decodeBars(await broker.bars(every, { symbols: there, limit: 5 })))
      const empty = set.symbols.filter((_, i) => set.bars[i].time.length === 0)
      const all = `there are bars of all ${there.length}`
      say(`${every} bars`, empty.length === 0, empty.length === 0 ? all : `none of ${empty.join(', ')}`)
    } catch (error) {
      if (!(error instanceof BrokerProblem)) throw error
      say(`${every} bars`, false, error.detail)
    }
  }
  return there
}

/** Securities that are followed for a moment, to hear whether anything comes. */
const FOLLOWED = 50

/** Whether the market is heard, and what its clock says. */
async function checkStreams(broker: Broker, symbols: readonly string[], say: Say): Promise<void> {
  const began = performance.now()
  const heard = await new Promise<string | undefined>((resolve) => {
    const stop = follow(
      broker,
      `/quotes/stream?symbols=${symbols.slice(0, FOLLOWED).map(encodeURIComponent).join(',')}`,
      {
        event: ({ event, data }) => event === 'clock' && done((JSON.parse(data) as { now: string }).now),
        there: () => undefined,
        away: () => undefined,
      },
    )
    const timer = setTimeout(() => done(undefined), 10_000)
    function done(now: string | undefined) {
      clearTimeout(timer)
      stop()
      resolve(now)
    }
  })
  say(
    'streams',
    heard !== undefined,
    heard ? `heard after ${(performance.now() - began).toFixed(0)} ms` : 'nothing was heard for 10 s',
  )
  say(
    'clock',
    heard !== undefined && !Number.isNaN(Date.parse(heard)),
    `the market’s is ${heard ?? 'not known'}, this machine’s ${new Date().toISOString()}`,
  )
}

/** Room for a night of traces. */
const ROOM = 200 * 1024 * 1024

function checkDisk(folder: string, say: Say): void {
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    accessSync(folder, constants.W_OK)
    const { bavail, bsize } = statfsSync(folder)
    const free = bavail * bsize
    say('disk', free > ROOM, `${(free / 1024 / 1024 / 1024).toFixed(1)} GB free where ${folder} lies`)
  } catch (error) {
    say('disk', false, (error as Error).message)
  }
}
