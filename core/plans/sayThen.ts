import { type Among } from './document'
import { partsOf, type StopLimitBy } from '../orders/exits'
import { type PlanLevel, type StopMove, type Then } from './exits'
import { goneText, number, priceText, unfilledText } from './sayDo'
import { timeText } from './times'

const listed = new Intl.ListFormat('en', { style: 'long', type: 'conjunction' })
const either = new Intl.ListFormat('en', { style: 'long', type: 'disjunction' })

/** A level of an exit: "3 %", "40 ticks", "2.5 times the risk", "opening(15 min).low". */
export function levelText(level: PlanLevel): string {
  if ('level' in level)
    return `${level.level}${level.otherwise ? ` (${levelText(level.otherwise)} where that lies on the wrong side)` : ''}`
  if ('distance' in level) return level.distance
  if ('price' in level) return number(level.price)
  if ('percent' in level) return `${number(level.percent)} %`
  if ('ticks' in level) return `${level.ticks} ticks`
  if ('amount' in level) return `${number(level.amount)} a share`
  if ('total' in level) return `${number(level.total)} in all`
  if ('risk' in level) return `${number(level.risk)} times the risk`
  return 'percent' in level.trail
    ? `${number(level.trail.percent)} % behind the best price`
    : `${number(level.trail.amount)} behind the best price`
}

/** A level with its article: a distance is one of many, a price is the one. */
const withRole = (role: 'target' | 'stop', level: PlanLevel): string =>
  'level' in level || 'price' in level
    ? `its ${role} ${levelText(level)}`
    : `a ${role} of ${levelText(level)}`

interface Part {
  stop?: PlanLevel
  target?: PlanLevel
  share?: number
}

function partText({ stop, target, share }: Part, several: boolean, last: boolean): string {
  const levels = [target && withRole('target', target), stop && withRole('stop', stop)]
  const much = !several ? '' : last ? 'the rest ' : `${number(share!)} % of it `
  return `${much}at ${either.format(levels.filter((one): one is string => Boolean(one)))}`
}

/** How a stop is moved: "the stop goes to the fill once it has gained 1 %". */
export function moveText({ of, when, to }: StopMove): string {
  const where = to === 'Fill' ? 'the price of the fill' : to.level
  const what = of === 'Stop' ? 'the stop' : 'the target'
  if (when === 'EntryBar') return `${what} goes to ${where} once the bar of the entry is complete`
  if (when === 'EveryBar')
    return `${what} follows ${where} at the end of every bar${of === 'Stop' ? ', never back' : ''}`
  return `${what} goes to ${where} once it has gained ${goneText(when.gain)}`
}

const byText = (by: StopLimitBy): string =>
  'ticks' in by ? `${by.ticks} ${by.ticks === 1 ? 'tick' : 'ticks'}` : `${number(by.percent)} %`

/** How a side gets out again, in words. */
export function thenText({
  then: { exits, stopWaits, moves = [], leaveIf, on, net, daysLeft, sessions, outAt, leave },
  among,
}: {
  then: Then
  among?: Among
}): string {
  const parts: readonly Part[] = exits ? partsOf<PlanLevel>(exits) : []
  const levels = parts.map((part, i) => partText(part, parts.length > 1, i === parts.length - 1))
  const ways = [
    levels.length > 0 && `leave ${listed.format(levels)}, from the fill, held by the broker`,
    exits?.stopLimit &&
      `a stop becomes a limit ${byText(exits.stopLimit)} beyond it${stopWaits === undefined ? '' : `, after ${stopWaits} min what is left goes at the market`}`,
    exits?.timeInForce === 'Day' && 'stop and target end with the session',
    exits?.wrongSide === 'Refuse' && 'nothing is traded at a price beyond one of them',
    ...moves.map(moveText),
    net && netText(net, among !== undefined && 'pairs' in among),
    leaveIf && `all where ${leaveIf}`,
    on && `watched ${onText(on)}`,
    daysLeft !== undefined &&
      `all with ${daysLeft} ${daysLeft === 1 ? 'day' : 'days'} left${outAt ? `, at ${timeText(outAt)}` : ''}`,
    outAt &&
      daysLeft === undefined &&
      `all by ${timeText(outAt)}${sessions === undefined ? '' : sessionText(sessions)}`,
    leave && `that ${priceText(leave)}, ${unfilledText(leave.unfilled)}`,
  ].filter(Boolean)
  return ways.length > 0 ? ways.join('; ') : 'nothing: what is held stays until a hand closes it'
}

/** On which bars it is watched while something is held. */
const onText = ({ every, bars }: NonNullable<Then['on']>): string =>
  bars === 'SoFar'
    ? `at each tick${every ? `, on ${every} bars` : ''}`
    : `at the end of every ${every ?? ''} bar`.replace('  ', ' ')

function netText({ gain, loss }: NonNullable<Then['net']>, pair: boolean): string | undefined {
  const ways = [
    gain !== undefined && `gained ${number(gain)} %`,
    loss !== undefined && `lost ${number(loss)} %`,
  ].filter((one): one is string => Boolean(one))
  return ways.length === 0
    ? undefined
    : `leave once it has ${either.format(ways)} of ${pair ? 'what both were worth' : 'its net price'}, watched by the plan`
}

const sessionText = (sessions: number): string =>
  sessions === 1 ? ' of its session' : ` of its session ${sessions}`
