import { Access, Broker, type Granted } from '@/client'
import { localDate } from '@/core/market/venue'
import { knownAccount } from '@/runner/connect'
import { Hub } from '@/runner/hub'
import { Run } from '@/runner/run'
import { type Answer } from './requests'
import {
  type AccountNow,
  type Beginning,
  type HeardEntry,
  type PlansMessage,
  type PlansRequest,
  type PlansWhere,
} from './plans.protocol'

/**
 * Runs plans away from the page: each account is followed here once for all of its plans, and the page hears what each writes
 * down. The page keeps the keys; tokens are asked of it.
 */

const runs = new Map<string, Run>()
/** By environment and account. */
const accounts = new Map<string, Promise<Hub>>()

const say = (message: PlansMessage) => postMessage(message)

/** Tokens that were asked of the page. */
const wanted = new Map<number, { take(granted: Granted): void; fail(error: Error): void }>()
let asked = 0
const tokenOfPage = (where: PlansWhere): Promise<Granted> =>
  new Promise((take, fail) => {
    wanted.set(++asked, { take, fail })
    say({ is: 'token wanted', wanted: asked, where })
  })

/** What was written since the page was last told. */
const heard = new Map<string, HeardEntry[]>()
/** Told together: what plans write in one moment is one message. */
const TOGETHER = 30
function write(plan: string, one: HeardEntry): void {
  if (heard.size === 0) setTimeout(tell, TOGETHER)
  const there = heard.get(plan)
  if (there) there.push(one)
  else heard.set(plan, [one])
}
function tell(): void {
  for (const [plan, entries] of heard) say({ is: 'heard', plan, entries })
  heard.clear()
}

/** An account, put together anew if none of its plans runs: it may have changed. */
async function hubOf(where: PlansWhere): Promise<Hub> {
  const name = JSON.stringify(where)
  const there = await accounts.get(name)?.catch(() => undefined)
  if (there && !there.isEmpty) return there
  const access = new Access(where.brokerUrl, () => tokenOfPage(where), where.world)
  const broker = new Broker(access).streamTogether()
  broker.account = where.account
  const hub = knownAccount(broker, []).then((known) => new Hub(broker, known))
  accounts.set(name, hub)
  return hub
}

async function accountNow(where: PlansWhere): Promise<AccountNow> {
  const { known, at } = await hubOf(where)
  return { at, date: localDate(known.shared.home, at), worldId: known.worldId }
}

async function begin({ where, plan, ...rest }: Beginning): Promise<void> {
  const hub = await accounts.get(JSON.stringify(where))!
  const run = new Run({ hub, plan, ...rest, write: (entry, at) => write(plan.id, { entry, at }) })
  runs.set(plan.id, run)
  try {
    await run.start()
  } catch (error) {
    if (runs.get(plan.id) === run) runs.delete(plan.id)
    hub.leave(run)
    throw error
  }
  if (runs.get(plan.id) !== run) throw new Error(`${plan.name} was stopped before it had begun.`)
}

async function stop(plan: string, why: string): Promise<void> {
  const run = runs.get(plan)
  runs.delete(plan)
  await run?.stop(why)
  tell()
}

function takeToken({ wanted: which, granted, why }: Extract<PlansRequest, { ask: 'take token' }>): void {
  const waiting = wanted.get(which)
  wanted.delete(which)
  if (granted) waiting?.take(granted)
  else waiting?.fail(new Error(why))
}

function handle(request: PlansRequest): unknown {
  switch (request.ask) {
    case 'account':
      return accountNow(request.where)
    case 'begin': {
      const { id: _id, ask: _ask, ...beginning } = request
      return begin(beginning)
    }
    case 'stop':
      return stop(request.plan, request.why)
    case 'tell':
      return runs.get(request.plan)?.tell(request.told)
    case 'take token':
      return takeToken(request)
  }
}

globalThis.onmessage = async ({ data }: MessageEvent<PlansRequest>) => {
  const { id } = data
  try {
    postMessage({ id, ok: true, value: await handle(data) } satisfies Answer)
  } catch (error) {
    // What keeps a plan from running is told in words.
    const problem = { code: 'told' as const, message: (error as Error).message }
    postMessage({ id, ok: false, problem } satisfies Answer)
  }
}
