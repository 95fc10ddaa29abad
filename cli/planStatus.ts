import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { stepsOf, withTrace, type Funnel } from '@/core/engine/funnel'
import { resultText, sayTrace } from '@/core/engine/say'
import { missText } from '@/core/engine/nearestMiss'
import {
  damagedIn,
  type Heartbeat,
  heartbeatOf,
  lastRun,
  type Line,
  plansIn,
  sessionRun,
} from '@/runner/folder'
import { stopThere, tellRun } from '@/runner/stopThere'
import { Told } from '@/runner/told'
import { EXIT, Failure } from './fail'
import { notThere } from './tellCheck'

/** Traces that are told of each plan. */
const LAST = 5

/** What the plans of a folder are doing: each with its sign of life, how far its securities came, and the times of its orders. */
export function status(folder: string): string {
  if (!existsSync(folder)) throw new Failure(`There is no folder ${folder}: no plan has run here yet.`)
  const plans = plansIn(folder)
  if (plans.length === 0) return 'No plan has run here yet.\n'
  return plans.map((name) => statusOf(name, join(folder, name))).join('\n')
}

function statusOf(id: string, folder: string): string {
  const beat = heartbeatOf(folder)
  const own = lastRun(folder)
  const ofSession = sessionRun(folder)
  const [first] = own
  const version = first?.is === 'started' ? first.version : '?'
  const how = !beat
    ? 'has given no sign of life'
    : beat.lives
      ? `${beat.state}, process ${beat.pid}`
      : beat.state === 'stopped'
        ? 'stopped'
        : `has died: the last sign of life came at ${beat.wall} by the clock of this machine`
  let funnel: Funnel = {}
  for (const one of ofSession) if (one.is === 'trace') funnel = withTrace(funnel, one.trace)
  const { looked, steps, ordered } = stepsOf(funnel)
  const stopped = steps
    .filter((one) => one.stopped.length > 0)
    .map((one) => `${one.stopped.length} stopped by ${one.clause}`)
  const traces = own.flatMap((one) => (one.is === 'trace' ? [`  ${one.market} ${sayTrace(one.trace)}`] : []))
  return [
    `${id}, version ${version}: ${how}; market time ${beat?.market ?? own.at(-1)?.market ?? 'not known'}`,
    `  ${looked} looked at, ${[...stopped, `${ordered} ordered`].join(', ')}`,
    ...damagedText(folder),
    ...missOf(ofSession, beat),
    ...connectionOf(own),
    ...resultOf(own),
    ...ordersOf(ofSession),
    ...asksOf(own),
    ...traces.slice(-LAST),
    '',
  ].join('\n')
}

/** How often it looked, and what came closest. */
function missOf(lines: readonly Line[], beat: Heartbeat | undefined): string[] {
  if (beat?.looks === undefined) return []
  const miss = lines.findLast((line) => line.is === 'miss')
  const sent = lines.filter(
    (line) => line.is === 'intent' && line.sends && line.intent.is === 'send' && line.intent.role === 'entry',
  ).length
  const offset = beat.market.slice(19) || 'utc'
  const zone = offset === 'Z' ? 'utc' : `utc${offset}`
  return [`  ${missText(beat.looks, sent, miss?.is === 'miss' ? miss.miss : undefined, zone)}`]
}

/** Lines of the journal that cannot be read. */
function damagedText(folder: string): string[] {
  const lines = damagedIn(folder)
  if (lines.length === 0) return []
  const which = lines.length === 1 ? `Line ${lines[0]} is` : `Lines ${lines.slice(0, 5).join(', ')} are`
  return [`  ${which} damaged in ${join(folder, 'journal.jsonl')} and passed over.`]
}

/** That the broker is away, or does not take the key any more, if that is so now. */
function connectionOf(lines: readonly Line[]): string[] {
  const last = lines.findLast((line) => line.is === 'connection')
  return last?.is === 'connection' && !last.there
    ? [`  ${last.market} lost the broker: ${(last.why ?? 'it does not answer').replace(/^\w+: /, '')}`]
    : []
}

/** What a plan holds, and what its trades of the day have taken. */
function resultOf(lines: readonly Line[]): string[] {
  const last = lines.findLast((line) => line.is === 'result')
  return last?.is === 'result' ? [`  ${resultText(last)}`] : []
}

/** Each order with its times: from the market's moment to when it was decided, and to the broker's answer. */
function ordersOf(lines: readonly Line[]): string[] {
  const answers = new Map(lines.flatMap((one) => (one.is === 'taken' ? [[one.clOrdId, one.waited]] : [])))
  return lines.flatMap((one) => {
    if (one.is !== 'intent' || one.intent.is !== 'send' || !one.sends) return []
    const { clOrdId, side, orderQty, symbol, legs } = one.intent.order
    const what = legs ? `${orderQty} × ${symbol}, ${legs.length} legs,` : `${side} ${orderQty} ${symbol}`
    const waited = answers.get(clOrdId)
    const decided = one.decided === undefined ? '' : `decided in ${one.decided} ms, `
    return [
      `  ${one.market} ${what} ${clOrdId}: ${decided}${waited === undefined ? 'not answered' : `taken after ${waited} ms`}`,
    ]
  })
}

/** Orders that wait for an answer, and how it is given. */
function asksOf(lines: readonly Line[]): string[] {
  const over = new Set(
    lines.flatMap((one) => (one.is === 'note' && 'clOrdId' in one.note ? [one.note.clOrdId] : [])),
  )
  return lines.flatMap((one) => {
    if (one.is !== 'intent' || one.intent.is !== 'ask' || over.has(one.intent.order.clOrdId)) return []
    const { order, planId } = one.intent
    return [
      `  asks about ${order.side} ${order.orderQty} ${order.symbol}: heron answer ${planId} ${order.clOrdId} yes`,
    ]
  })
}

/** Tells a running plan something: it reads its inbox twice a second. Throws Failure where it does not run. */
export function tell(folder: string, planId: string, told: unknown): string {
  const own = join(folder, planId)
  const read = Told.safeParse(told)
  if (!read.success) {
    const [wrong] = read.error.issues
    throw new Failure(`${wrong.path.join('.') || 'that'}: ${wrong.message}`, EXIT.usage)
  }
  if (!heartbeatOf(own)?.lives) throw new Failure(`${planId} does not run in ${folder}: see heron status.`)
  const wrong = notThere(folder, planId, read.data)
  if (wrong !== undefined) throw new Failure(wrong)
  tellRun(own, read.data)
  return 'Told.\n'
}

/** Ends running plans, and waits until they have ended. Throws Failure where one does not run, or does not end. */
export async function stop(folder: string, planIds: readonly string[]): Promise<string> {
  const still = planIds.find((id) => !heartbeatOf(join(folder, id))?.lives)
  if (still !== undefined) throw new Failure(`${still} does not run in ${folder}: see heron status.`)
  for (const id of planIds)
    if (!(await stopThere(join(folder, id), 'stopped by hand')))
      throw new Failure(`${id} has not ended in half a minute: it may still be sending. See heron status.`)
  return 'Ended. What is held stays, with its stops and targets at the broker.\n'
}
