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
 * Runs plans away from the page: an account is followed here once for all of them, and the page hears what each writes down.
 * The page keeps the key; tokens are asked of it.
 */

const runs = new Map<string, Run>()
let account: { where: string; hub: Promise<Hub> } | undefined

const say = (message: PlansMessage) => postMessage(message)

/** Tokens that were asked of the page. */
const wanted = new Map<number, { take(granted: Granted): void; fail(error: Error): void }>()
let asked = 0
const tokenOfPage = (): Promise<Granted> =>
  new Promise((take, fail) => {
    wanted.set(++asked, { take, fail })
    say({ is: 'token wanted', wanted: asked })
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

/** The account, put together anew where none of its plans runs: it may have changed, or be another. */
async function hubOf(where: PlansWhere): Promise<Hub> {
  const name = JSON.stringify(where)
  const there = account?.where === name ? await account.hub.catch(() => undefined) : undefined
  if (there && !there.isEmpty) return there
  const broker = new Broker(new Access(where.brokerUrl, tokenOfPage, where.world)).streamTogether()
  broker.account = where.account
  account = { where: name, hub: knownAccount(broker, []).then((known) => new Hub(broker, known)) }
  return account.hub
}

async function accountNow(where: PlansWhere): Promise<AccountNow> {
  const { known, at } = await hubOf(where)
  return { at, date: localDate(known.shared.home, at), worldId: known.worldId }
}

async function begin({ plan, ...rest }: Beginning): Promise<void> {
  const hub = await account!.hub
  const run = new Run({ hub, plan, ...rest, write: (entry, at) => write(plan.id, { entry, at }) })
  runs.set(plan.id, run)
  try {
    await run.start()
  } catch (error) {
    runs.delete(plan.id)
    hub.leave(run)
    throw error
  }
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

onmessage = async ({ data }: MessageEvent<PlansRequest>) => {
  const { id } = data
  try {
    postMessage({ id, ok: true, value: await handle(data) } satisfies Answer)
  } catch (error) {
    // What keeps a plan from running is told in words.
    const problem = { code: 'told' as const, message: (error as Error).message }
    postMessage({ id, ok: false, problem } satisfies Answer)
  }
}
