import * as z from 'zod'
import { type PlanEvent } from '@/core/engine/events'
import { Points } from '@/core/plans/score'
import { View } from '@/core/plans/view'
import { Became, DatedEvent } from '@/core/plans/seen'

/** What a running plan is told from outside, a line each: an event, points for a score card, or the trader's answer. */
export const Told = z.discriminatedUnion('is', [
  DatedEvent.extend({ is: z.literal('event') }),
  Points.extend({ is: z.literal('points') }),
  z.strictObject({ is: z.literal('view'), view: View, note: z.string().max(400).optional() }),
  z.strictObject({ is: z.literal('answer'), clOrdId: z.string().min(1).max(64), yes: z.boolean() }),
  z.strictObject({
    is: z.literal('seen'),
    key: z.string().min(1).max(200),
    became: Became,
    note: z.string().max(400).optional(),
  }),
  z.strictObject({ is: z.literal('stop'), why: z.string().min(1).max(200) }),
])
export type Told = z.infer<typeof Told>

/** What the plan itself is told; that it shall end is for who runs it. */
export type ToldPlan = Exclude<Told, { is: 'stop' }>

/** What was told, as an event of the engine at a moment and date of the market; events of a list come at their own (see Dated). */
export function toldEvent(
  told: Exclude<ToldPlan, { is: 'event' | 'seen' }>,
  at: number,
  date: string,
): PlanEvent {
  if (told.is === 'answer') return { is: 'answer', at, clOrdId: told.clOrdId, yes: told.yes }
  if (told.is === 'view') {
    const { view, note } = told
    return { is: 'view', at, view: { date, view, at, ...(note === undefined ? {} : { note }) } }
  }
  const { key, line, points, reason, validUntil } = told
  return {
    ...{ is: 'points', at, key, line, points },
    ...(reason === undefined ? {} : { reason }),
    ...(validUntil === undefined ? {} : { until: Date.parse(validUntil) }),
  }
}

/** Events of lists and files, each given once its moment has come; those that came before it was begun are passed over. */
export class Dated {
  private readonly known = new Set<string>()
  private waiting: DatedEvent[] = []

  constructor(private readonly since: number) {}

  /** Takes more of them; the same key twice is one. */
  add(events: readonly DatedEvent[]): void {
    for (const one of events) {
      if (this.known.has(one.key) || Date.parse(one.at) < this.since) continue
      this.known.add(one.key)
      this.waiting.push(one)
    }
    this.waiting.sort((a, b) => Date.parse(a.at) - Date.parse(b.at) || (a.key < b.key ? -1 : 1))
  }

  /** Those whose moment has come, oldest first. */
  due(now: number): DatedEvent[] {
    const count = this.waiting.findIndex(({ at }) => Date.parse(at) > now)
    return this.waiting.splice(0, count < 0 ? this.waiting.length : count)
  }
}
