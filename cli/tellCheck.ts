import { join } from 'node:path'
import { bound } from '@/core/plans/inputs'
import { wrongPoints } from '@/core/plans/score'
import { heartbeatOf, lastRun, type Line, planIn } from '@/runner/folder'
import { rememberedIn } from '@/runner/remembered'
import { type Told } from '@/runner/told'

/** Why a running plan cannot be told something: the event, line, order or entry that is meant is not there; undefined if it can. */
export function notThere(folder: string, planId: string, told: Told): string | undefined {
  const own = join(folder, planId)
  const kept = planIn(own)
  if (!kept) return undefined
  const plan = bound(kept)
  const lines = lastRun(own)
  switch (told.is) {
    case 'points': {
      const wrong = wrongPoints(
        plan.sides.map(({ score }) => score),
        told,
      )
      if (wrong !== undefined) return wrong
      const known = candidatesOf(lines, plan.events?.map(({ key }) => key) ?? [])
      return known.has(told.key)
        ? undefined
        : `No event “${told.key}” has come to ${plan.name}${known.size > 0 ? `; it knows ${[...known].slice(-5).join(', ')}` : ''}.`
    }
    case 'answer': {
      const open = asksOpen(lines)
      return open.includes(told.clOrdId)
        ? undefined
        : `${plan.name} asks about no order ${told.clOrdId}${open.length > 0 ? `; it asks about ${open.join(', ')}` : ' now'}.`
    }
    case 'view':
      return plan.sides.some(({ view }) => view !== undefined)
        ? undefined
        : `${plan.name} does not ask for your view of the day.`
    case 'seen': {
      const beat = heartbeatOf(own)
      const book = beat ? rememberedIn(own, beat.worldId).seen : {}
      const keys = Object.keys(book)
      return told.key in book
        ? undefined
        : `Nothing stands in the seen book of ${plan.name} under “${told.key}”${keys.length > 0 ? `; there are ${keys.slice(-5).join(', ')}` : ''}.`
    }
    default:
      return undefined
  }
}

/** Events that have come, and securities that were looked at: points are of either. */
function candidatesOf(lines: readonly Line[], listed: readonly string[]): Set<string> {
  const known = new Set(listed)
  for (const line of lines) {
    if (line.is === 'trace') known.add(line.trace.event ?? line.trace.symbol)
    if (line.is === 'universe') for (const symbol of line.symbols) known.add(symbol)
  }
  return known
}

/** Client order ids of orders that wait for an answer. */
export function asksOpen(lines: readonly Line[]): string[] {
  const over = new Set(
    lines.flatMap((one) => (one.is === 'note' && 'clOrdId' in one.note ? [one.note.clOrdId] : [])),
  )
  return lines.flatMap((one) =>
    one.is === 'intent' && one.intent.is === 'ask' && !over.has(one.intent.order.clOrdId)
      ? [one.intent.order.clOrdId]
      : [],
  )
}
