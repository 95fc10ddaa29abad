import { parseTimeframe, roughMinutes } from '../market/timeframe'
import { partsOf } from '../orders/exits'
import { type Plan, type Side } from './document'
import { type PlanLevel } from './exits'
import { type PlanIssue } from './issue'
import { type SessionTime, timeText } from './times'

/** Clauses of a plan that cannot hold together, whatever the market does. */

type Say = (issue: Omit<PlanIssue, 'is'> & { is?: PlanIssue['is'] }) => void

/** A session of usual length, to compare times of the clock with those from open and close: minutes of the day. */
const [OPEN, CLOSE] = [9 * 60 + 30, 16 * 60]

/** A time of a usual session as minutes of the day. */
function minuteOf(time: SessionTime): number {
  if ('afterOpen' in time) return OPEN + time.afterOpen
  if ('beforeClose' in time) return CLOSE - time.beforeClose
  const [hours, minutes] = time.clock.split(':').map(Number)
  return 60 * hours + minutes
}

/** Every contradiction in a plan, each with its place and the mend. Clock times are compared as in a session from 09:30 to 16:00. */
export function contradictions(plan: Plan): PlanIssue[] {
  const out: PlanIssue[] = []
  const say: Say = ({ is = 'error', ...issue }) => out.push({ ...issue, is })
  hours(plan, say)
  plan.sides.forEach((side, at) => {
    exitTimes(plan, side, at, say)
    levels(side, at, say)
    score(side, at, say)
    additions(plan, side, say)
  })
  return out
}

function hours({ when, never }: Plan, say: Say): void {
  const { from, until, weekdays } = when
  if (from && until && minuteOf(until) <= minuteOf(from))
    say({
      clause: 'When',
      text: `it enters until ${timeText(until)} and from ${timeText(from)}, so never: give a later end`,
    })
  if (weekdays?.every((day) => day > 5))
    say({ clause: 'When', text: 'it looks on weekends only, when venues are closed: add a weekday' })
  const { hours: bounds } = never
  if (bounds?.from && bounds.until && minuteOf(bounds.until) <= minuteOf(bounds.from))
    say({
      clause: 'Never',
      text: `its hours end at ${timeText(bounds.until)}, before they begin at ${timeText(bounds.from)}: give a later end`,
    })
  const begins = from && minuteOf(from)
  if (begins !== undefined && bounds?.until && minuteOf(bounds.until) <= begins)
    say({
      clause: 'Never',
      text: `its hours end at ${timeText(bounds.until)}, and When begins at ${timeText(from!)}: nothing is ever entered`,
    })
}

function exitTimes({ when }: Plan, { then, do: deed }: Side, side: number, say: Say): void {
  const { outAt, sessions = 1 } = then
  if (!outAt || 'close' in deed || 'tell' in deed) return
  const out = minuteOf(outAt)
  if (out >= CLOSE)
    say({
      clause: 'Then',
      side,
      text: `it closes all by ${timeText(outAt)}, when the venue is closed: give a time before the close, such as 10 minutes before it`,
    })
  // What is held for several sessions is left in the last of them.
  if (sessions === 1 && then.daysLeft === undefined && when.from && out <= minuteOf(when.from))
    say({
      clause: 'Then',
      side,
      text: `it closes all by ${timeText(outAt)} and enters from ${timeText(when.from)}: what is entered is closed at once`,
    })
}

/** A stop so far that a price cannot come there in the time of a target that is near. */
const FAR = 20

function levels({ then: { exits } }: Side, side: number, say: Say): void {
  for (const { stop, target } of exits ? partsOf<PlanLevel>(exits) : []) {
    const [loss, gain] = [percentOf(stop), percentOf(target)]
    if (loss !== undefined && loss >= 100)
      say({
        clause: 'Then',
        side,
        text: `the stop lies ${loss} % away, where no price of a share bought can come: give one below 100 %`,
      })
    else if (loss !== undefined && gain !== undefined && loss >= FAR * gain)
      say({
        clause: 'Then',
        side,
        is: 'warning',
        text: `the stop lies ${loss} % away and the target ${gain} %: one loss takes what ${Math.round(loss / gain)} gains brought`,
      })
  }
}

const percentOf = (level: PlanLevel | undefined): number | undefined =>
  level && 'percent' in level ? level.percent : undefined

function score({ score: card }: Side, side: number, say: Say): void {
  if (!card) return
  const most = card.lines.reduce((sum, { points }) => sum + Math.max(0, points), 0)
  if (most < card.least)
    say({
      clause: 'Provided',
      side,
      text: `its score card gives at most ${most} points, and ${card.least} are asked for: lower that, or let lines give more`,
    })
}

function additions({ never }: Plan, { do: deed, if: { every } }: Side, say: Say): void {
  if (!('open' in deed) || !deed.adds) return
  const { most, after } = deed.adds
  const limits = [
    ['a day in one security', never.entriesPerSecurityAndDay],
    ['a day', never.entriesPerDay],
    ['in all', never.entriesInAll],
  ] as const
  // On bars of a day or longer the next signal comes on another day.
  const sameDay = after !== 'Signal' || roughMinutes(parseTimeframe(every)!) < 390
  for (const [name, limit] of limits)
    if (limit !== undefined && limit < most + 1 && (sameDay || name === 'in all'))
      say({
        clause: 'Never',
        text: `it orders more up to ${most} ${most === 1 ? 'time' : 'times'}, and Never allows ${limit} ${limit === 1 ? 'entry' : 'entries'} ${name}: each order for more counts as an entry`,
        is: limit === 1 ? 'error' : 'warning',
      })
}
