import { decimal } from '../market/money'
import { type ExitLevel, type ExitPart, partsOf } from '../orders/exits'
import { type Plan, type PlanPrice, type PlanSize, type Side } from './document'
import { timeText } from './times'

/** A plan as prose: each clause a sentence, as it stands on the page and in the summary before it is armed. */
export interface Prose {
  clause: 'When' | 'Among' | 'If' | 'Provided' | 'Do' | 'Then' | 'Never'
  /** From 0; undefined for clauses of both sides. */
  side?: number
  text: string
}

const DAYS = ['', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const listed = new Intl.ListFormat('en', { style: 'long', type: 'conjunction' })
const either = new Intl.ListFormat('en', { style: 'long', type: 'disjunction' })
const number = (x: number): string => decimal(x, Number.isInteger(x) ? 0 : 2)

export function planProse(plan: Plan): Prose[] {
  return [
    { clause: 'When', text: whenText(plan) },
    ...plan.sides.flatMap((side, at) => sideProse(side).map((one) => ({ ...one, side: at }))),
    ...(plan.sides.length > 1 ? [{ clause: 'Then' as const, text: OPPOSITE[plan.opposite] }] : []),
    { clause: 'Never', text: neverText(plan) },
  ]
}

const OPPOSITE: Record<Plan['opposite'], string> = {
  Ignore: 'where the other condition begins meanwhile, nothing changes',
  Close: 'where the other condition begins meanwhile, close',
  Turn: 'where the other condition begins meanwhile, close, and open the other way once that is filled',
}

function whenText({ when, sides }: Plan): string {
  const bars = [...new Set(sides.map((side) => side.if.every))].join(' and ')
  const parts = [
    when.weekdays && `on ${listed.format(when.weekdays.map((day) => DAYS[day]))}`,
    when.from && `from ${timeText(when.from)}`,
    `at the end of every ${bars} bar`,
    when.until && `until ${timeText(when.until)}`,
  ]
  return parts.filter(Boolean).join(', ')
}

function sideProse(side: Side): Prose[] {
  const gates = side.provided.map(({ name, rule }) => `${name}: ${rule}`)
  return [
    { clause: 'Among', text: listed.format(side.among.list) },
    { clause: 'If', text: `${side.if.rule}, on ${side.if.every} bars` },
    { clause: 'Provided', text: gates.length > 0 ? gates.join('; ') : 'nothing more' },
    { clause: 'Do', text: doText(side) },
    { clause: 'Then', text: thenText(side) },
  ]
}

function doText({ do: { open, price, size, timeInForce } }: Side): string {
  const lasting = {
    Day: 'for the day',
    GoodTillCancel: 'as long as it takes',
    ImmediateOrCancel: 'this moment, what there is',
  }[timeInForce]
  return `${open === 'Long' ? 'buy' : 'sell short'} ${sizeText(size)}, ${priceText(price)}, good ${lasting}`
}

function sizeText(size: PlanSize): string {
  if ('shares' in size) return `${number(size.shares)} shares`
  if ('money' in size) return `shares for ${number(size.money)}`
  return 'equity' in size
    ? `shares for ${number(size.equity)} % of equity`
    : `shares risking ${number(size.risk)} % of equity`
}

function priceText(price: PlanPrice): string {
  if (price === 'market') return 'at the market'
  const at = { bid: 'the bid', ask: 'the ask', mid: 'the middle', last: 'the last price' }[price.at]
  if (price.ticks === 0) return `limit at ${at}`
  const ticks = Math.abs(price.ticks)
  return `limit ${ticks} ${ticks === 1 ? 'tick' : 'ticks'} ${price.ticks > 0 ? 'over' : 'under'} ${at}`
}

/** A level of an exit: "3 %", "40 ticks", "2.5 times the risk". */
export function levelText(level: ExitLevel): string {
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

function partText({ stop, target, share }: ExitPart, several: boolean, last: boolean): string {
  const levels = [target && `a target of ${levelText(target)}`, stop && `a stop of ${levelText(stop)}`]
  const much = !several ? '' : last ? 'the rest ' : `${number(share!)} % of it `
  return `${much}at ${either.format(levels.filter((one): one is string => Boolean(one)))}`
}

/** How a side gets out again, in words. */
export function thenText({ then: { exits, outAt } }: Pick<Side, 'then'>): string {
  const parts = exits ? partsOf(exits) : []
  const levels = parts.map((part, i) => partText(part, parts.length > 1, i === parts.length - 1))
  const ways = [
    levels.length > 0 && `leave ${listed.format(levels)}, from the fill, held by the broker`,
    outAt && `all by ${timeText(outAt)}`,
  ].filter(Boolean)
  return ways.length > 0 ? ways.join('; ') : 'nothing: what is held stays until a hand closes it'
}

function neverText({ never }: Plan): string {
  const money = (x: number | undefined) => x !== undefined && number(x)
  const limits = [
    never.entriesPerSecurityAndDay && `${never.entriesPerSecurityAndDay} entries a day in one security`,
    never.entriesPerDay && `${never.entriesPerDay} entries a day`,
    money(never.exposurePerSecurity) && `${money(never.exposurePerSecurity)} in one security`,
    money(never.exposure) && `${money(never.exposure)} in all`,
    money(never.lossPerDay) && `${money(never.lossPerDay)} lost in a day`,
  ].filter(Boolean) as string[]
  const more = limits.length > 0 ? [`more than ${either.format(limits)}`] : []
  const left =
    never.freeBuyingPower === undefined ? [] : [`below ${number(never.freeBuyingPower)} of buying power`]
  return [...more, ...left, `on quotes older than ${never.quoteAge} seconds`].join(', or ')
}
